'use client';
/** What breaks the brush's tip up. */
import { Plus, X } from 'lucide-react';
import { DRAWN, type DrawnPicture } from '@/core/hand/pictures/drawn';
import { TEXTURE_FIXES, TEXTURE_JOINS, textureSchema, type BrushTexture } from '@/core/hand/texture';
import { SOURCES } from '@/core/kinds/sources';
import { Choice } from '../../kit/Choice';
import { Button, IconButton } from '../../kit/Button';
import { Switch } from '../../kit/Switch';
import { NumberField } from '../../kit/NumberField';
import { RulePicture, SourcePicker } from '../sources/SourcePicker';
import { setBrush, useBench } from '../store';
import { Percent } from './Percent';

const FIX = { tip: 'with the tip', sheet: 'over the sheet', surface: 'on the surface' } as const;
const JOIN = { times: 'darkens', lighten: 'lightens', height: 'fills light places first' } as const;
const WIDTH = '72px';

export function TextureFields() {
  const texture = useBench((s) => s.brush.texture);
  const put = (next: BrushTexture | undefined) => setBrush({ texture: next });
  if (!texture)
    return (
      <SourcePicker onPick={(of) => put(textureSchema.parse({ of }))}>
        <Button kind="quiet" className="h-7 px-2">
          <Plus size={14} />
          Texture
        </Button>
      </SourcePicker>
    );
  const set = (change: Partial<BrushTexture>) => put({ ...texture, ...change });
  const name =
    typeof texture.of === 'string'
      ? (DRAWN[texture.of.slice(5) as DrawnPicture]?.label ?? 'A picture')
      : SOURCES[texture.of.type].label;
  const inDiameters = texture.fix === 'tip';
  return (
    <section aria-label="Texture" className="space-y-0.5 border-t border-line py-2">
      <div className="flex items-center gap-2">
        <SourcePicker onPick={(of) => set({ of })}>
          <button
            type="button"
            className="flex h-8 min-w-0 flex-1 items-center gap-2 rounded border border-line bg-raised pr-2 text-left hover:bg-field"
          >
            <span className="h-full w-12 shrink-0 overflow-hidden rounded-l">
              {typeof texture.of !== 'string' && <RulePicture made={texture.of} />}
            </span>
            <span className="truncate">Texture: {name}</span>
          </button>
        </SourcePicker>
        <IconButton label="No texture" onClick={() => put(undefined)}>
          <X size={14} />
        </IconButton>
      </div>
      <Choice
        label="Lies"
        labelWidth={WIDTH}
        value={texture.fix}
        options={TEXTURE_FIXES.map((value) => ({ value, label: FIX[value] }))}
        onChange={(fix) => set({ fix, size: (fix === 'tip') === inDiameters ? texture.size : fix === 'tip' ? 1 : 50 })}
      />
      <Choice
        label="It"
        labelWidth={WIDTH}
        value={texture.join}
        options={TEXTURE_JOINS.map((value) => ({ value, label: JOIN[value] }))}
        onChange={(join) => set({ join })}
      />
      <NumberField
        label="Repeats at"
        labelWidth={WIDTH}
        unit={inDiameters ? 'dia.' : 'mm'}
        value={texture.size}
        min={inDiameters ? 0.1 : 1}
        max={inDiameters ? 10 : 2000}
        curve="fine"
        digits={inDiameters ? 1 : 0}
        reset={inDiameters ? 1 : 50}
        hint={inDiameters ? 'One repeat, in diameters of the tip.' : 'One repeat on the surface. A canvas counts as 1 m wide.'}
        onPreview={(size) => set({ size })}
        onCommit={(size) => set({ size })}
      />
      <Percent label="Depth" labelWidth={WIDTH} value={texture.depth} reset={0.6} onChange={(depth) => set({ depth })} />
      <Percent
        label="Contrast"
        labelWidth={WIDTH}
        value={texture.contrast}
        min={-1}
        reset={0}
        onChange={(contrast) => set({ contrast })}
      />
      <Switch label="Invert" checked={texture.invert} onChange={(invert) => set({ invert })} />
    </section>
  );
}

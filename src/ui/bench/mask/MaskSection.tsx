'use client';
/** The mask of the selected layer: paint it, look at it, link it, fill it. */
import { Link2 } from 'lucide-react';
import { useState } from 'react';
import { setLayerEdit, setMaskEdit } from '@/core/document/edits';
import type { Layer, Mask, Sheet } from '@/core/document/schema';
import { Segments } from '../../kit/Segments';
import { Tip } from '../../kit/Tip';
import { NameInput } from '../../kit/NameInput';
import { keysFor } from '../keys/commands';
import { addMask, deleteMask, mixByHeight, usersOf } from './commands';
import { DeleteMask } from './DeleteMask';
import { LinkMenu, MaskMenu, ShapeMenu } from './menus';
import { paintTarget } from './steps';
import { MaskPicture } from '../panes/MaskPicture';
import { RecipeSentence } from '../recipe/RecipeSentence';
import { StepEditor } from '../recipe/StepEditor';
import { edit, say, useBench } from '../store';

export function MaskSection({ sheet, layer }: { sheet: Sheet; layer: Layer }) {
  const mask = layer.mask ? sheet.masks.find((m) => m.id === layer.mask!.id) : undefined;
  if (mask) return <MaskRow sheet={sheet} layer={layer} mask={mask} />;
  return (
    <div className="flex flex-wrap items-center gap-0.5">
      <span className="w-14 shrink-0 text-ink-soft">Mask</span>
      <Tip label="White all over: paint black to hide" keys={keysFor('mask-show')}>
        <button type="button" className="h-6 rounded px-1 whitespace-nowrap hover:bg-field" onClick={() => addMask(1, layer)}>
          From white
        </button>
      </Tip>
      <Tip label="Black all over: paint white to show" keys={keysFor('mask-hide')}>
        <button type="button" className="h-6 rounded px-1 whitespace-nowrap hover:bg-field" onClick={() => addMask(0, layer)}>
          From black
        </button>
      </Tip>
      {layer.cells.height?.on && (
        <Tip label="It lies in the gaps of what is below: by height, with a contact line">
          <button
            type="button"
            className="h-6 rounded px-1.5 whitespace-nowrap hover:bg-field"
            onClick={() => mixByHeight(layer)}
          >
            From height
          </button>
        </Tip>
      )}
      {sheet.materialIndex !== null && <ShapeMenu layer={layer} />}
      {sheet.masks.length > 0 && <LinkMenu sheet={sheet} layer={layer} />}
    </div>
  );
}

function MaskRow({ sheet, layer, mask }: { sheet: Sheet; layer: Layer; mask: Mask }) {
  const target = useBench((s) => s.target);
  const maskMode = useBench((s) => s.maskMode);
  const [naming, setNaming] = useState(false);
  const [asking, setAsking] = useState(false);
  const users = usersOf(sheet, mask.id);
  const openStep = useBench((s) => s.openStep);
  const open = mask.steps.find((s) => s.id === openStep);
  const painting = target === 'mask';
  return (
    <div className="space-y-1">
      <div className="flex items-center gap-1.5">
        <span className="w-14 shrink-0 text-ink-soft">Mask</span>
        <Tip
          label={painting ? 'Strokes go onto the mask: click to paint the layer again' : 'Paint this mask'}
          keys={keysFor('mask-target')}
        >
          <button
            type="button"
            aria-pressed={painting}
            aria-label={`Paint ${mask.name}`}
            onClick={() => {
              if (!painting && !paintTarget(mask, openStep))
                return say(`"${mask.name}" has no painted step: add one to its steps to paint on it.`);
              useBench.setState({ target: painting ? 'layer' : 'mask' });
            }}
            className={`relative h-6 w-6 shrink-0 overflow-hidden rounded border-2 ${painting ? 'border-accent' : 'border-line'}`}
          >
            <MaskPicture mask={mask} layerId={layer.id} />
          </button>
        </Tip>
        {naming ? (
          <NameInput
            name={mask.name}
            label="Name of the mask"
            className="h-6 min-w-0 flex-1 px-1"
            onAccept={(name) => edit(setMaskEdit(sheet, mask, { name }), `Rename ${mask.name}`)}
            onRefuse={say}
            done={() => setNaming(false)}
          />
        ) : (
          <button
            type="button"
            title="Double click to rename"
            onDoubleClick={() => setNaming(true)}
            className="min-w-0 flex-1 truncate text-left"
          >
            {mask.name}
          </button>
        )}
        {users.length > 1 && (
          <Tip label={`One mask, used by ${users.map((u) => u.name).join(', ')}`}>
            <span className="inline-flex items-center gap-0.5 text-accent-ink">
              <Link2 size={12} />
              {users.length}
            </span>
          </Tip>
        )}
        <button
          type="button"
          role="switch"
          aria-checked={layer.mask!.on}
          aria-label="Mask on"
          onClick={() =>
            edit(
              setLayerEdit(sheet, layer, { mask: { id: mask.id, on: !layer.mask!.on } }),
              `${layer.name}: mask ${layer.mask!.on ? 'off' : 'on'}`,
            )
          }
          className={`h-6 rounded px-1 hover:bg-field ${layer.mask!.on ? '' : 'text-ink-soft line-through'}`}
        >
          on
        </button>
        <MaskMenu
          sheet={sheet}
          layer={layer}
          mask={mask}
          onRename={() => setNaming(true)}
          onDelete={() => (users.length > 1 ? setAsking(true) : deleteMask(mask))}
        />
      </div>
      <div className="pl-[62px]">
        <RecipeSentence sheet={sheet} mask={mask} layerId={layer.id} />
      </div>
      {open && <StepEditor sheet={sheet} mask={mask} step={open} />}
      <div className="flex items-center gap-1.5 pl-[62px]">
        <Segments
          label="Look at the mask"
          value={maskMode ?? 'off'}
          options={[
            { value: 'off', label: 'Off', hint: 'The work as it is', keys: keysFor('mask-look') },
            { value: 'over', label: 'Over', hint: 'Tinted where it shows' },
            { value: 'alone', label: 'Alone', hint: 'The mask by itself' },
            { value: 'black', label: 'On black', hint: 'Black where it hides' },
          ]}
          onChange={(v) => useBench.setState({ maskMode: v === 'off' ? null : v })}
        />
      </div>
      <DeleteMask mask={mask} users={users} open={asking} onOpenChange={setAsking} />
    </div>
  );
}

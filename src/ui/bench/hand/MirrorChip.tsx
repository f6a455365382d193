'use client';
/** Mirrored strokes: a switch with its sentence, and how they are mirrored. */
import { FlipHorizontal2 } from 'lucide-react';
import { Popover } from 'radix-ui';
import { MIRROR_AXES, MOST_RADIAL, type MirrorAxis } from '@/core/hand/mirror';
import { Choice } from '../../common/Choice';
import { Switch, Tip } from '../../common/controls';
import { NumberField } from '../../common/NumberField';
import { keysFor } from '../commands';
import { setMirror, toggleMirror, useBench } from '../store';
import { mirrorSentence } from './sentences';

export function MirrorChip() {
  const mirror = useBench((s) => s.mirror);
  const on = useBench((s) => s.mirrored);
  const canvas = useBench((s) => s.geometry === null);
  const said = on ? mirrorSentence(mirror, canvas) : 'Off.';
  return (
    <Popover.Root>
      <Tip label={`Mirror strokes. ${said}`} keys={keysFor('mirror')}>
        <Popover.Trigger asChild>
          <button
            type="button"
            aria-label={`Mirror: ${said}`}
            className={`inline-flex h-7 shrink-0 items-center gap-1 rounded border px-2 hover:bg-field data-[state=open]:border-accent ${
              on ? 'border-accent bg-accent-wash text-accent-ink' : 'border-line bg-raised'
            }`}
          >
            <FlipHorizontal2 size={14} />
            {on ? short(mirror.axes, mirror.radial, canvas) : 'Mirror'}
          </button>
        </Popover.Trigger>
      </Tip>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="start"
          sideOffset={8}
          collisionPadding={8}
          aria-label="Mirror"
          onKeyDown={(e) => e.key !== 'Escape' && e.stopPropagation()}
          className="z-30 w-60 space-y-2 rounded-md border border-line bg-panel p-3 shadow-xl"
        >
          <Switch
            label="Mirror strokes"
            checked={on}
            onChange={toggleMirror}
            hint="By place on the model: UVs need not be alike"
          />
          <p className="text-ink-soft">{mirrorSentence(mirror, canvas)}</p>
          <Planes axes={mirror.axes} canvas={canvas} />
          <NumberField
            label="Times around"
            labelWidth="84px"
            value={mirror.radial}
            min={1}
            max={MOST_RADIAL}
            reset={1}
            hint="So many images around an axis; 1: none."
            onCommit={(v) => setMirror({ radial: Math.round(v) })}
          />
          {!canvas && mirror.radial > 1 && (
            <Choice
              label="Axis"
              labelWidth="84px"
              value={mirror.around}
              options={MIRROR_AXES.map((value) => ({ value, label: value.toUpperCase() }))}
              onChange={(around) => setMirror({ around })}
            />
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const short = (axes: readonly MirrorAxis[], radial: number, canvas: boolean) =>
  [
    MIRROR_AXES.filter((a) => axes.includes(a) && !(canvas && a === 'z'))
      .join('')
      .toUpperCase(),
    radial > 1 ? `× ${radial}` : '',
  ]
    .filter(Boolean)
    .join(' ') || 'Mirror';

function Planes({ axes, canvas }: { axes: readonly MirrorAxis[]; canvas: boolean }) {
  const toggle = (axis: MirrorAxis) =>
    setMirror({ axes: axes.includes(axis) ? axes.filter((a) => a !== axis) : [...axes, axis] });
  return (
    <div role="group" aria-label="Across" className="flex items-center gap-1">
      <span className="w-[84px] text-ink-soft">Across</span>
      {(canvas ? MIRROR_AXES.slice(0, 2) : MIRROR_AXES).map((axis) => (
        <button
          key={axis}
          type="button"
          aria-pressed={axes.includes(axis)}
          onClick={() => toggle(axis)}
          className={`h-7 w-8 rounded border ${axes.includes(axis) ? 'border-accent bg-accent-wash text-accent-ink' : 'border-line bg-raised hover:bg-field'}`}
        >
          {axis.toUpperCase()}
        </button>
      ))}
    </div>
  );
}

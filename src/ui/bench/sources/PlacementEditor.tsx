'use client';
/** How a source or a picture lies: over the sheet or on the model, how large, turned, shifted. */
import { Move3d } from 'lucide-react';
import { degrees, number as numberControl, percent } from '@/core/kinds/control';
import { PLAIN, type Placement, type PlacementKind } from '@/core/kinds/placement';
import { uvMatrix } from '@/core/strata/projections';
import { Choice } from '../../kit/Choice';
import { Switch } from '../../kit/Switch';
import { Tip } from '../../kit/Tip';
import { NumberField } from '../../kit/NumberField';
import { PercentField } from '../../kit/PercentField';
import { NumberRow } from '../Controls';
import { currentSheet, useBench } from '../store';
import type { HandleOwner } from '../top/openThings';
import { decalPlacement, modelBox, newPlacement, repeatSize } from './presets';

const KINDS: { value: PlacementKind; label: string }[] = [
  { value: 'uv', label: 'UV (over the sheet)' },
  { value: 'solid', label: 'Solid (in space)' },
  { value: 'plane', label: 'Planar' },
  { value: 'box', label: 'Box (triplanar)' },
  { value: 'cylinder', label: 'Cylindrical' },
  { value: 'sphere', label: 'Spherical' },
  { value: 'decal', label: 'Decal' },
];

interface Props {
  placement: Placement | null;
  /** Noise can lie in space itself; the others cannot. */
  solid: boolean;
  /** Pictures can hide their repeats, and be decals. Width by height of the first one; null: there is none. */
  picture: number | null;
  owner: HandleOwner;
  onPreview: (placement: Placement) => void;
  onCommit: (placement: Placement, label: string) => void;
}

/** Numbers of a placement that are simply set. */
const NUMBERS = {
  repeats: numberControl('repeats', 'Repeats', 0.05, 64, { digits: 2, fine: true }),
  turn: degrees('turn', 'Rotate'),
  soft: percent('soft', 'Blend'),
  hide: percent('hide', 'Hide repeats'),
};

export function PlacementEditor({ placement, solid, picture, owner, onPreview, onCommit }: Props) {
  const p = placement ?? PLAIN;
  const onModel = modelBox() !== null;
  const sheet = currentSheet();
  const set = (change: Partial<Placement>, label: string) => onCommit({ ...p, ...change }, `Placement: ${label}`);
  const number = (key: keyof typeof NUMBERS) => (
    <NumberRow
      control={NUMBERS[key]}
      value={p[key]}
      start={PLAIN[key]}
      onPreview={(v) => onPreview({ ...p, [key]: v })}
      onCommit={(v) => set({ [key]: v }, NUMBERS[key].label.toLowerCase())}
    />
  );
  const offset = (axis: 0 | 1, label: string) => (
    <PercentField
      label={label}
      labelWidth="68px"
      min={-1}
      reset={0}
      value={p.offset[axis]}
      onPreview={(v) => onPreview({ ...p, offset: p.offset.with(axis, v) as [number, number] })}
      onCommit={(v) => set({ offset: p.offset.with(axis, v) as [number, number] }, label.toLowerCase())}
    />
  );
  return (
    <div className="space-y-0.5">
      {onModel && (
        <div className="flex items-center gap-1">
          <div className="min-w-0 flex-1">
            <Choice
              label="Projection"
              value={p.by}
              options={KINDS.filter((k) => (solid || k.value !== 'solid') && (picture !== null || k.value !== 'decal'))}
              onChange={(by) =>
                onCommit(
                  by === 'decal' && picture
                    ? decalPlacement(picture)
                    : p.by === 'uv'
                      ? newPlacement(by, { hide: p.hide })
                      : { ...p, by, axis: newPlacement(by).axis },
                  'Placement: another kind',
                )
              }
            />
          </div>
          {p.by !== 'uv' && <HandleSwitch owner={owner} />}
        </div>
      )}
      {p.by === 'uv' ? (
        <>
          {number('repeats')}
          {onModel && <UnitSize p={p} onCommit={onCommit} />}
        </>
      ) : (
        <NumberField
          label="Size"
          labelWidth="68px"
          unit="cm"
          min={0.1}
          max={Math.max(100, p.size * 200)}
          digits={1}
          curve="fine"
          reset={newPlacement(p.by).size * 100}
          value={p.size * 100}
          onPreview={(v) => onPreview({ ...p, size: v / 100 })}
          onCommit={(v) => set({ size: v / 100 }, 'size')}
        />
      )}
      {p.by !== 'solid' && (
        <>
          {number('turn')}
          {p.by !== 'decal' && offset(0, 'Across')}
          {p.by !== 'decal' && offset(1, 'Along')}
          {p.by === 'decal' && (
            <Switch
              label="Follow the surface"
              checked={p.follow}
              onChange={(follow) => set({ follow }, follow ? 'follows the surface' : 'flat')}
              hint="It goes around bends, instead of being seen along its direction"
            />
          )}
          {p.by === 'decal' && !p.follow && (
            <NumberField
              label="Depth"
              labelWidth="68px"
              unit="cm"
              min={0.05}
              max={Math.max(20, p.depth * 200)}
              digits={1}
              curve="fine"
              reset={p.size * 25}
              value={p.depth * 100}
              hint="How far off its plane it still lies on the surface."
              onPreview={(v) => onPreview({ ...p, depth: v / 100 })}
              onCommit={(v) => set({ depth: v / 100 }, 'depth')}
            />
          )}
        </>
      )}
      {p.by === 'box' && number('soft')}
      {picture !== null && p.by !== 'decal' && number('hide')}
      {p.by !== 'solid' && (
        <div className="flex gap-2">
          <Switch label="Flip X" checked={p.mirrorX} onChange={(mirrorX) => set({ mirrorX }, 'flipped in X')} />
          <Switch label="Flip Y" checked={p.mirrorY} onChange={(mirrorY) => set({ mirrorY }, 'flipped in Y')} />
        </div>
      )}
      {p.by === 'uv' && (sheet.wrapU || sheet.wrapV) && <Whole p={p} />}
    </div>
  );
}

/** The size of a repeat in model units, for those who think in those. */
function UnitSize({ p, onCommit }: { p: Placement; onCommit: Props['onCommit'] }) {
  const size = repeatSize(p.repeats);
  if (!size) return null;
  return (
    <NumberField
      label="… that is"
      labelWidth="68px"
      unit="cm"
      min={0.1}
      max={Math.max(100, size * 400)}
      digits={1}
      curve="fine"
      reset={repeatSize(1)! * 100}
      value={size * 100}
      onCommit={(v) => onCommit({ ...p, repeats: Math.min(256, Math.max(0.01, repeatSize(1)! / (v / 100))) }, 'Placement: size')}
    />
  );
}

/** On a wrapping canvas everything comes round: says what the numbers became. */
function Whole({ p }: { p: Placement }) {
  const m = uvMatrix(p, currentSheet());
  const turn = Math.round((Math.atan2(-m.c, m.a) * 180) / Math.PI);
  const repeats = Math.hypot(m.a, m.c);
  if (Math.abs(repeats - p.repeats) < 0.005 && Math.abs(turn - p.turn) < 0.5) return null;
  return (
    <p className="text-[12px] text-ink-soft">
      Comes round with the canvas: {repeats.toFixed(2)} repeats, {turn}°.
    </p>
  );
}

export function HandleSwitch({
  owner,
  what = 'drag the middle, the direction, the size',
}: {
  owner: HandleOwner;
  what?: string;
}) {
  const on = useBench((s) => JSON.stringify(s.handles) === JSON.stringify(owner));
  return (
    <Tip label={on ? 'Put the handles away' : `Handles in the view: ${what}`}>
      <button
        type="button"
        aria-label="Handles in the view"
        aria-pressed={on}
        onClick={() => useBench.setState({ handles: on ? null : owner })}
        className={`inline-flex h-6 items-center gap-1 rounded px-1.5 ${on ? 'bg-accent-wash text-accent-ink' : 'hover:bg-field'}`}
      >
        <Move3d size={13} /> Handles
      </button>
    </Tip>
  );
}

'use client';
/** Steps that come of the model's shape: edges, bakes, facing, a span along an axis, the distance from a place. */
import { bakeOf } from '@/core/document/bake';
import { BAKES, BAKE_TYPES } from '@/core/kinds/bakes';
import { placementFor } from '@/core/kinds/placement';
import { STEPS, startOfStep, type StepSourceOf } from '@/core/kinds/steps';
import { Choice } from '../../../kit/Choice';
import { wantBake } from '../../bakes/commands';
import { HandleSwitch } from '../../sources/PlacementEditor';
import { modelBox } from '../../sources/presets';
import { BakeMissing } from './BakeMissing';
import { PickSwitch } from './PickSwitch';
import { pickNext, presetEntries, type Entry, type StepUi } from './stepUi';

export const edges: StepUi<StepSourceOf<'edges'>> = { entries: presetEntries('edges') };
export const span: StepUi<StepSourceOf<'span'>> = { entries: presetEntries('span') };

type Bake = StepSourceOf<'bake'>;
const BAKE = startOfStep('bake');
/** Bakes whose values a range of means something. */
const RANGED = BAKE_TYPES.filter((t) => BAKES[t].values === 'value');

export const bake: StepUi<Bake> = {
  Above: ({ sheet, source, set }) => (
    <>
      <Choice
        label="Of"
        value={source.of}
        options={RANGED.map((value) => ({ value, label: BAKES[value].label }))}
        onChange={(of) => {
          wantBake(of);
          set({ ...source, of }, BAKES[of].label.toLowerCase());
        }}
      />
      <BakeMissing sheet={sheet} of={source.of} />
    </>
  ),
  entries: (adding) => {
    const named = presetEntries('bake')(adding);
    if (named.length === 0) return [];
    const presets = STEPS.bake.presets ?? [];
    const others = RANGED.filter(
      (t) => bakeOf(adding.sheet, t) && !presets.some(({ settings }) => STEPS.bake.asks!(settings).bake === t),
    );
    return [
      ...named,
      ...others.map((of): Entry => ({
        label: BAKES[of].label,
        group: 'shape',
        sub: 'A range of another bake',
        onSelect: () => adding.add({ ...BAKE, of, breakup: 0, contrast: 0 }, BAKES[of].label.toLowerCase()),
      })),
    ];
  },
};

const WAYS: { value: string; label: string; direction: [number, number, number] }[] = [
  { value: 'up', label: 'Up', direction: [0, 1, 0] },
  { value: 'down', label: 'Down', direction: [0, -1, 0] },
  { value: 'front', label: 'To the front', direction: [0, 0, 1] },
  { value: 'back', label: 'To the back', direction: [0, 0, -1] },
  { value: 'left', label: 'To the left', direction: [-1, 0, 0] },
  { value: 'right', label: 'To the right', direction: [1, 0, 0] },
  { value: 'own', label: 'As picked', direction: [0, 1, 0] },
];

export const facing: StepUi<StepSourceOf<'facing'>> = {
  Above: ({ mask, step, source, set }) => (
    <>
      <Choice
        label="Facing"
        value={WAYS.find((w) => w.direction.every((v, k) => Math.abs(v - source.direction[k]) < 1e-6))?.value ?? 'own'}
        options={WAYS}
        onChange={(value) =>
          value !== 'own' && set({ ...source, direction: WAYS.find((w) => w.value === value)!.direction }, `facing ${value}`)
        }
      />
      <div className="flex items-center gap-1">
        <PickSwitch step={step} hint="Click the model: as the surface faces there" />
        <HandleSwitch owner={{ kind: 'step', maskId: mask.id, stepId: step.id }} what="drag it to turn the direction" />
      </div>
    </>
  ),
  entries: presetEntries('facing'),
  handles: (source, put) => {
    const whole = placementFor('plane', modelBox());
    return {
      made: null,
      // Short enough to end within the pane where the model fills it.
      placement: { ...whole, axis: [...source.direction], size: whole.size * 0.6 },
      only: ['axis'],
      change: ({ placement }) => put({ ...source, direction: placement?.axis ?? source.direction }),
    };
  },
};

type Distance = StepSourceOf<'distance'>;
const DISTANCE = startOfStep('distance');

export const distance: StepUi<Distance> = {
  Above: ({ mask, step }) => (
    <div className="flex items-center gap-1">
      <PickSwitch step={step} label="Place it" hint="Click the model: there it is, lying as the surface does" />
      <HandleSwitch owner={{ kind: 'step', maskId: mask.id, stepId: step.id }} what="drag the middle, how it lies, the reach" />
    </div>
  ),
  entries: ({ add, onModel }) =>
    onModel
      ? [
          {
            label: 'Distance from a place',
            hint: 'Around a point or a plane that you place on the model',
            group: 'shape',
            onSelect: () => {
              add({ ...DISTANCE, at: placementFor('plane', modelBox()).centre }, 'near a place');
              pickNext();
            },
          },
        ]
      : [],
  handles: (source, put) => {
    const whole = placementFor('plane', modelBox());
    const { at, normal, reach, shape } = source;
    return {
      made: null,
      placement: { ...whole, centre: at, axis: normal, size: 2 * reach * whole.size },
      only: shape === 'plane' ? ['centre', 'axis', 'size'] : ['centre', 'size'],
      sticks: true,
      change: ({ placement: p }) =>
        put(
          p ? { ...source, at: p.centre, normal: p.axis, reach: Math.min(4, Math.max(0.001, p.size / 2 / whole.size)) } : source,
        ),
    };
  },
};

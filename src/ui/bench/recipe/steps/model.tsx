'use client';
/** Steps that come of the model's shape: edges, bakes, facing, a span along an axis, the distance from a place. */
import { MousePointerClick } from 'lucide-react';
import { bakeOf, bakeState } from '@/core/document/bake';
import type { Sheet } from '@/core/document/schema';
import { BAKES, BAKE_TYPES, type BakeType } from '@/core/kinds/bakes';
import { degrees, number, percent, type Control } from '@/core/kinds/control';
import type { StepSource, StepSourceOf, StepType } from '@/core/kinds/steps';
import { Choice } from '../../../common/Choice';
import { Tip } from '../../../common/controls';
import { wantBake } from '../../bakes/commands';
import { Controls } from '../../Controls';
import { modelBox } from '../../sources/presets';
import { HandleSwitch } from '../../sources/PlacementEditor';
import { useBench } from '../../store';
import type { Entry, StepEditorProps, StepUi } from './stepUi';

const BROKEN: Control[] = [
  percent('contrast', 'Contrast'),
  percent('breakup', 'Breakup'),
  { ...percent('grain', 'Grain', 0.001, 0.5), digits: 1, fine: true },
  number('seed', 'Seed', 0, 9999),
];
const EVEN = { contrast: 0.5, breakup: 0.5, grain: 0.03, seed: 1 };

/** An editor of numbers, and what stands above them. */
function editorOf<K extends StepType>(
  controls: readonly Control[],
  start: StepSourceOf<K>,
  Above: ((props: StepEditorProps<StepSourceOf<K>>) => React.ReactNode) | null = null,
) {
  return function ModelStepEditor(props: StepEditorProps<StepSourceOf<K>>) {
    const { source, show, set } = props;
    return (
      <>
        {Above && <Above {...props} />}
        <Controls
          controls={controls}
          settings={source}
          start={start}
          onPreview={show}
          onCommit={(next, { label }) => set(next, label.toLowerCase())}
        />
      </>
    );
  };
}

type Edges = StepSourceOf<'edges'>;
const EDGES: Edges = { type: 'edges', angle: 25, width: 0.015, ...EVEN };
export const edges: StepUi<Edges> = {
  Editor: editorOf<'edges'>(
    [{ ...percent('width', 'Width', 0.0005, 0.2), digits: 2, fine: true }, degrees('angle', 'From', 1, 179), ...BROKEN],
    EDGES,
  ),
  entries: ({ add, onModel }) =>
    onModel
      ? [
          {
            label: 'Edges (wear)',
            hint: 'Edges that stand out, broken up by a noise',
            group: 'shape',
            onSelect: () => add(EDGES, 'edges'),
          },
        ]
      : [],
};

type Bake = StepSourceOf<'bake'>;
const bakeStep = (of: BakeType, over: Partial<Bake> = {}): Bake => ({ type: 'bake', of, low: 0, high: 1, ...EVEN, ...over });
/** What bakes are most used for: from which values to which. */
const OF_BAKES: { label: string; hint: string; step: Bake }[] = [
  {
    label: 'Cavities (grime)',
    hint: 'Grooves and inner corners, by the bake of cavities',
    step: bakeStep('cavity', { low: 0.1, high: 0.7, breakup: 0.3, contrast: 0.3 }),
  },
  {
    label: 'Occlusion (dirt)',
    hint: 'Corners that little light reaches, by the bake of occlusion',
    step: bakeStep('occlusion', { low: 0.85, high: 0.3, breakup: 0.3, contrast: 0.2 }),
  },
  {
    label: 'Thickness',
    hint: 'Thin places, by the bake of thickness',
    step: bakeStep('thickness', { low: 0.5, high: 0.05, breakup: 0, contrast: 0 }),
  },
];

/** Baked as values that a range of means something. */
const RANGED = BAKE_TYPES.filter((t) => BAKES[t].values === 'value');

/** Says so where a bake that a step takes its values from is not there yet. */
export function BakeMissing({ sheet, of }: { sheet: Sheet; of: BakeType }) {
  const picture = bakeOf(sheet, of);
  const piece = useBench((s) => s.document!);
  const state = picture ? bakeState(piece, sheet, picture) : 'none';
  if (state !== 'none') return null;
  return (
    <p className="text-ink-soft">
      {BAKES[of].label} {of === 'ids' ? 'are' : 'is'} not baked yet: the step shows nothing until{' '}
      {of === 'ids' ? 'they are' : 'it is'}.{' '}
      <button type="button" className="underline" onClick={() => wantBake(of)}>
        Bake {of === 'ids' ? 'them' : 'it'}
      </button>
    </p>
  );
}

export const bake: StepUi<Bake> = {
  Editor: editorOf<'bake'>(
    [percent('low', 'Black at'), percent('high', 'White at'), ...BROKEN],
    bakeStep('cavity'),
    function BakeAbove({ sheet, source, set }) {
      return (
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
      );
    },
  ),
  entries: ({ add, onModel, sheet }) => {
    if (!onModel) return [];
    const go = (step: Bake, label: string) => () => {
      wantBake(step.of);
      add(step, label.toLowerCase());
    };
    const others = RANGED.filter((t) => bakeOf(sheet, t) && !OF_BAKES.some((o) => o.step.of === t));
    return [
      ...OF_BAKES.map(({ label, hint, step }): Entry => ({ label, hint, group: 'shape', onSelect: go(step, label) })),
      ...others.map((t): Entry => ({
        label: BAKES[t].label,
        group: 'shape',
        sub: 'A range of another bake',
        onSelect: go(bakeStep(t, { breakup: 0, contrast: 0 }), BAKES[t].label),
      })),
    ];
  },
};

type Facing = StepSourceOf<'facing'>;
const FACING: Facing = { type: 'facing', direction: [0, 1, 0], angle: 70, soft: 0.6 };
const WAYS: { value: string; label: string; direction: [number, number, number] }[] = [
  { value: 'up', label: 'Up', direction: [0, 1, 0] },
  { value: 'down', label: 'Down', direction: [0, -1, 0] },
  { value: 'front', label: 'To the front', direction: [0, 0, 1] },
  { value: 'back', label: 'To the back', direction: [0, 0, -1] },
  { value: 'left', label: 'To the left', direction: [-1, 0, 0] },
  { value: 'right', label: 'To the right', direction: [1, 0, 0] },
  { value: 'own', label: 'As picked', direction: [0, 1, 0] },
];
export const facing: StepUi<Facing> = {
  Editor: editorOf<'facing'>(
    [degrees('angle', 'Within', 1, 180), percent('soft', 'Fades')],
    FACING,
    ({ mask, step, source, set }) => (
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
          <PlaceSwitch stepId={step.id} label="Pick by clicking" hint="Click the model: as the surface faces there" />
          <HandleSwitch owner={{ kind: 'step', maskId: mask.id, stepId: step.id }} what="drag it to turn the direction" />
        </div>
      </>
    ),
  ),
  entries: ({ add, onModel }) =>
    onModel
      ? [
          {
            label: 'Facing up (dust)',
            hint: 'What faces up, or any direction',
            group: 'shape',
            onSelect: () => add(FACING, 'facing up'),
          },
        ]
      : [],
};

type Span = StepSourceOf<'span'>;
const SPAN: Span = { type: 'span', axis: 'y', from: 0, to: 0.25, soft: 0.25 };
export const span: StepUi<Span> = {
  Editor: editorOf<'span'>(
    [
      {
        kind: 'choice',
        key: 'axis',
        label: 'Along',
        options: [
          { value: 'x', label: 'X, to the right' },
          { value: 'y', label: 'Y, upwards' },
          { value: 'z', label: 'Z, to the front' },
        ],
      },
      percent('from', 'From'),
      percent('to', 'To'),
      percent('soft', 'Fades'),
    ],
    SPAN,
  ),
  entries: ({ add, onModel }) =>
    onModel
      ? [
          {
            label: 'Span along an axis',
            hint: 'From the foot up, with soft ends',
            group: 'shape',
            onSelect: () => add(SPAN, 'a span'),
          },
        ]
      : [],
};

type Distance = StepSourceOf<'distance'>;
const DISTANCE: Distance = { type: 'distance', shape: 'point', at: [0, 0, 0], normal: [0, 1, 0], reach: 0.25, soft: 0.8 };
export const distance: StepUi<Distance> = {
  Editor: editorOf<'distance'>(
    [
      {
        kind: 'choice',
        key: 'shape',
        label: 'From a',
        options: [
          { value: 'point', label: 'Point' },
          { value: 'plane', label: 'Plane' },
        ],
      },
      { ...percent('reach', 'Reach', 0.001, 2), digits: 1, fine: true },
      percent('soft', 'Fades'),
    ],
    DISTANCE,
    ({ mask, step }) => (
      <div className="flex items-center gap-1">
        <PlaceSwitch stepId={step.id} label="Place it" hint="Click the model: there it is, lying as the surface does" />
        <HandleSwitch owner={{ kind: 'step', maskId: mask.id, stepId: step.id }} what="drag the middle, how it lies, the reach" />
      </div>
    ),
  ),
  entries: ({ add, onModel }) =>
    onModel
      ? [
          {
            label: 'Distance from a place',
            hint: 'Around a point or a plane that you place on the model',
            group: 'shape',
            onSelect: () => {
              add({ ...DISTANCE, at: middle() } satisfies StepSource, 'near a place');
              // The next click places it.
              const { openStep } = useBench.getState();
              useBench.setState({ picking: openStep });
            },
          },
        ]
      : [],
};

/** Middle of the model. */
function middle(): [number, number, number] {
  const box = modelBox();
  return [0, 1, 2].map((k) => (box ? (box.min[k] + box.max[k]) / 2 : 0)) as [number, number, number];
}

function PlaceSwitch({ stepId, label, hint }: { stepId: string; label: string; hint: string }) {
  const picking = useBench((s) => s.picking === stepId);
  return (
    <Tip label={picking ? 'Done: clicks paint again' : hint}>
      <button
        type="button"
        aria-pressed={picking}
        onClick={() => useBench.setState({ picking: picking ? null : stepId })}
        className={`inline-flex h-6 items-center gap-1 rounded px-1.5 ${picking ? 'bg-accent-wash text-accent-ink' : 'hover:bg-field'}`}
      >
        <MousePointerClick size={13} /> {picking ? 'Click on the model' : label}
      </button>
    </Tip>
  );
}

'use client';
/** Steps that look at nothing else: an even value, own paint, a rule, a picture. */
import { Brush } from 'lucide-react';
import { isFence } from '@/core/document/fence';
import { GREY_LABELS, GREY_OPTIONS } from '@/core/kinds/grey';
import { SOURCES } from '@/core/kinds/sources';
import { SOURCE_GROUPS } from '@/core/kinds/sources/source';
import { startOfStep, type StepSourceOf } from '@/core/kinds/steps';
import { Choice } from '../../../kit/Choice';
import { addPictureStep, chooseFiles } from '../../pictures/pictureSet';
import { PlacementEditor } from '../../sources/PlacementEditor';
import { aspectOf, modelBox, startOf } from '../../sources/presets';
import { RulePicture, SourcePicker } from '../../sources/SourcePicker';
import { SourceEditor } from '../../sources/SourceEditor';
import { useBench } from '../../store';
import { placed } from '../../handles/owned';
import type { StepEditorProps, StepUi } from './stepUi';

export const paint: StepUi<StepSourceOf<'paint'>> = {
  Above: PaintEditor,
  entries: ({ add, mask }) =>
    isFence(mask) ? [] : [{ label: 'Paint', group: 'plain', onSelect: () => add({ type: 'paint' }, 'a painted step') }],
};

function PaintEditor({ step }: StepEditorProps<StepSourceOf<'paint'>>) {
  const painting = useBench((s) => s.target === 'mask' && s.openStep === step.id);
  return (
    <button
      type="button"
      aria-pressed={painting}
      onClick={() => useBench.setState({ target: painting ? 'layer' : 'mask' })}
      className={`inline-flex h-6 items-center gap-1 rounded px-1.5 ${painting ? 'bg-accent-wash text-accent-ink' : 'hover:bg-field'}`}
    >
      <Brush size={13} /> {painting ? 'Strokes go here' : 'Paint it'}
    </button>
  );
}

type MadeStep = StepSourceOf<'made'>;

export const made: StepUi<MadeStep> = {
  Above: MadeEditor,
  handles: (source, put) =>
    placed(source.made, source, ({ made: next = source.made, placement }) => put({ ...source, made: next, placement })),
  entries: ({ add, chooseRule }) => [
    { label: 'Noise, pattern, gradient …', group: 'plain', onSelect: chooseRule },
    ...(modelBox()
      ? [
          {
            label: 'From the foot up',
            group: 'plain' as const,
            onSelect: () => add({ ...startOfStep('made'), made: startOf('gradient') }, 'from the foot up'),
          },
        ]
      : []),
  ],
};

function MadeEditor({ mask, step, source, show, set }: StepEditorProps<MadeStep>) {
  const owner = { kind: 'step' as const, maskId: mask.id, stepId: step.id };
  const def = SOURCES[source.made.type];
  return (
    <>
      <SourcePicker onPick={(next) => set({ ...source, made: next }, SOURCES[next.type].label.toLowerCase())}>
        <button
          type="button"
          className="inline-flex h-7 items-center gap-1.5 rounded border border-line bg-raised px-1 pr-2 hover:bg-field"
        >
          <span className="h-5 w-5 overflow-hidden rounded-sm">
            <RulePicture made={source.made} />
          </span>
          {def.label}
        </button>
      </SourcePicker>
      <SourceEditor
        made={source.made}
        owner={owner}
        onPreview={(next) => show({ ...source, made: next })}
        onCommit={(next, label) => set({ ...source, made: next }, label.toLowerCase())}
      />
      {def.where(source.made) === 'placed' && (
        <PlacementEditor
          placement={source.placement}
          solid={SOURCE_GROUPS[def.group].onModel === 'solid'}
          picture={null}
          owner={owner}
          onPreview={(placement) => show({ ...source, placement })}
          onCommit={(placement, label) => set({ ...source, placement }, label.toLowerCase())}
        />
      )}
    </>
  );
}

type PictureStep = StepSourceOf<'picture'>;

export const picture: StepUi<PictureStep> = {
  Above: PictureEditor,
  handles: (source, put) => placed(null, source, ({ placement }) => put({ ...source, placement })),
  entries: ({ mask }) => [
    {
      label: 'Picture …',
      group: 'plain',
      onSelect: () => chooseFiles(false, ([file]) => void addPictureStep(mask, file)),
    },
  ],
};

function PictureEditor({ mask, step, source, show, set }: StepEditorProps<PictureStep>) {
  return (
    <>
      <Choice
        label="Takes"
        value={source.use.take}
        options={GREY_OPTIONS}
        onChange={(take) => set({ ...source, use: { ...source.use, take } }, GREY_LABELS[take].toLowerCase())}
      />
      <PlacementEditor
        placement={source.placement}
        solid={false}
        picture={aspectOf(source.use.picture)}
        owner={{ kind: 'step', maskId: mask.id, stepId: step.id }}
        onPreview={(placement) => show({ ...source, placement })}
        onCommit={(placement, label) => set({ ...source, placement }, label.toLowerCase())}
      />
    </>
  );
}

export const constant: StepUi<StepSourceOf<'constant'>> = {
  entries: ({ add }) => [{ label: 'Even value', group: 'plain', onSelect: () => add(startOfStep('constant'), 'an even value') }],
};

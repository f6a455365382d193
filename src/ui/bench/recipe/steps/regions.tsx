'use client';
/** Steps that choose of the model: parts, islands, faces. */
import { MousePointerClick } from 'lucide-react';
import type { Step } from '@/core/document/schema';
import type { StepSourceOf } from '@/core/kinds/steps';
import { FACE_CHANGES, type FaceChange } from '@/core/hand/chosenFaces';
import { Segments, Tip } from '../../../common/controls';
import { changeFaces } from '../../fence/commands';
import { say, useBench } from '../../store';
import type { StepEditorProps, StepUi } from './stepUi';

export function PickSwitch({ step, what }: { step: Step; what: string }) {
  const picking = useBench((s) => s.picking === step.id);
  return (
    <Tip label={picking ? 'Done: clicks paint again' : `Click ${what} in either pane to take them in or out`}>
      <button
        type="button"
        aria-pressed={picking}
        onClick={() => useBench.setState({ picking: picking ? null : step.id })}
        className={`inline-flex h-6 items-center gap-1 rounded px-1.5 ${picking ? 'bg-accent-wash text-accent-ink' : 'hover:bg-field'}`}
      >
        <MousePointerClick size={13} /> {picking ? 'Click on them' : 'Pick by clicking'}
      </button>
    </Tip>
  );
}

type Parts = StepSourceOf<'parts'>;

export const parts: StepUi<Parts> = {
  Editor: PartsEditor,
  entries: ({ add, onModel }) =>
    onModel ? [{ label: 'Parts', group: 'model', onSelect: () => add({ type: 'parts', names: [] }, 'parts') }] : [],
};

function PartsEditor({ step, source, set }: StepEditorProps<Parts>) {
  const all = useBench((s) => s.geometry?.parts);
  const { names } = source;
  return (
    <>
      <PickSwitch step={step} what="parts" />
      <div className="flex flex-wrap gap-1">
        {(all ?? []).map((part) => {
          const on = names.includes(part);
          return (
            <button
              key={part}
              type="button"
              aria-pressed={on}
              onClick={() => set({ ...source, names: on ? names.filter((x) => x !== part) : [...names, part] }, part)}
              className={`h-6 rounded border px-1.5 ${on ? 'border-ink bg-ink text-panel' : 'border-line hover:bg-field'}`}
            >
              {part}
            </button>
          );
        })}
      </div>
    </>
  );
}

type Numbered = StepSourceOf<'islands' | 'faces'>;

const numbered = (type: Numbered['type'], label: string): StepUi<Numbered> => ({
  Editor: NumberedEditor,
  entries: ({ add, onModel }) => (onModel ? [{ label, group: 'model', onSelect: () => add({ type, ids: [] }, type) }] : []),
});

export const islands = numbered('islands', 'Islands');
export const faces = numbered('faces', 'Faces');

function NumberedEditor({ step, source, set }: StepEditorProps<Numbered>) {
  return (
    <>
      <div className="flex items-center gap-2">
        <PickSwitch step={step} what={source.type} />
        <span className="figures flex-1 text-ink-soft">{source.ids.length}</span>
        {source.ids.length > 0 && (
          <button type="button" className="h-6 rounded px-1 hover:bg-field" onClick={() => set({ ...source, ids: [] }, 'none')}>
            None
          </button>
        )}
      </div>
      {source.type === 'faces' && <FaceTools step={step} source={source} set={set} />}
    </>
  );
}

const CHANGES: Record<FaceChange, { label: string; hint: string }> = {
  grow: { label: 'Grow', hint: 'By one ring of faces' },
  shrink: { label: 'Shrink', hint: 'By one ring of faces' },
  connected: { label: 'Connected', hint: 'All that hangs together with them' },
  flat: { label: 'Flat', hint: 'As far as the surface bends by no more than 20° from each' },
};

/** Faces by box and lasso, and what can be done to a choice of them. */
function FaceTools({ step, source, set }: Pick<StepEditorProps<Numbered>, 'step' | 'source' | 'set'>) {
  const picking = useBench((s) => s.picking === step.id);
  const pickBy = useBench((s) => s.pickBy);
  const change = (how: FaceChange) =>
    void changeFaces(source.ids, how)
      .then((ids) => ids && set({ ...source, ids }, CHANGES[how].label.toLowerCase()))
      .catch((error: unknown) => say((error as Error).message));
  return (
    <div className="flex flex-wrap items-center gap-1">
      {picking && (
        <Segments
          label="Pick by"
          value={pickBy}
          options={[
            { value: 'click', label: 'Click' },
            { value: 'box', label: 'Box', hint: 'Drag a box; with Alt its faces are taken out' },
            { value: 'lasso', label: 'Lasso', hint: 'Draw around faces; with Alt they are taken out' },
          ]}
          onChange={(next) => useBench.setState({ pickBy: next })}
        />
      )}
      {source.ids.length > 0 &&
        FACE_CHANGES.map((how) => (
          <Tip key={how} label={CHANGES[how].hint}>
            <button type="button" className="h-6 rounded border border-line px-1.5 hover:bg-field" onClick={() => change(how)}>
              {CHANGES[how].label}
            </button>
          </Tip>
        ))}
    </div>
  );
}

'use client';
/** Steps that choose of the model: parts, islands, faces. */
import type { StepSourceOf } from '@/core/kinds/steps';
import { toggled } from '@/core/kinds/steps/step';
import { FACE_CHANGES, type FaceChange } from '@/core/hand/chosenFaces';
import { Segments } from '../../../kit/Segments';
import { Tip } from '../../../kit/Tip';
import { changeFaces } from '../../fence/commands';
import { say, useBench } from '../../store';
import { PickSwitch } from './PickSwitch';
import { presetEntries, type StepEditorProps, type StepUi } from './stepUi';

type Parts = StepSourceOf<'parts'>;

export const parts: StepUi<Parts> = {
  Above: PartsEditor,
  entries: presetEntries('parts', 'model'),
};

function PartsEditor({ step, source, set }: StepEditorProps<Parts>) {
  const all = useBench((s) => s.geometry?.parts);
  const { names } = source;
  return (
    <>
      <PickSwitch step={step} />
      <div className="flex flex-wrap gap-1">
        {(all ?? []).map((part) => {
          const on = names.includes(part);
          return (
            <button
              key={part}
              type="button"
              aria-pressed={on}
              onClick={() => set({ ...source, names: toggled(names, part) }, part)}
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

export const islands: StepUi<StepSourceOf<'islands'>> = {
  Above: Chosen,
  entries: presetEntries('islands', 'model'),
};

export const faces: StepUi<StepSourceOf<'faces'>> = {
  Above: (props) => (
    <>
      <Chosen {...props} />
      <FaceTools {...props} />
    </>
  ),
  entries: presetEntries('faces', 'model'),
};

/** How many there are, and none. */
function Chosen<S extends Numbered>({ step, source, set }: StepEditorProps<S>) {
  return (
    <div className="flex items-center gap-2">
      <PickSwitch step={step} />
      <span className="figures flex-1 text-ink-soft">{source.ids.length}</span>
      {source.ids.length > 0 && (
        <button type="button" className="h-6 rounded px-1 hover:bg-field" onClick={() => set({ ...source, ids: [] }, 'none')}>
          None
        </button>
      )}
    </div>
  );
}

const CHANGES: Record<FaceChange, { label: string; hint: string }> = {
  grow: { label: 'Grow', hint: 'By one ring of faces' },
  shrink: { label: 'Shrink', hint: 'By one ring of faces' },
  connected: { label: 'Connected', hint: 'All that hangs together with them' },
  flat: { label: 'Flat', hint: 'As far as the surface bends by no more than 20° from each' },
};

/** Faces by box and lasso, and what can be done to a choice of them. */
function FaceTools({ step, source, set }: StepEditorProps<StepSourceOf<'faces'>>) {
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

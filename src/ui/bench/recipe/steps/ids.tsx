'use client';
/** Ids by pick: flat colours of the bake of ids, taken by clicking. */
import { srgbToHex } from '@/core/colour/transfer';
import { bakeOf } from '@/core/document/bake';
import { percent } from '@/core/kinds/control';
import type { StepSourceOf } from '@/core/kinds/steps';
import { wantBake } from '../../bakes/commands';
import { Controls } from '../../Controls';
import { useBench } from '../../store';
import { BakeMissing } from './model';
import { PickSwitch } from './regions';
import type { StepUi } from './stepUi';

type Ids = StepSourceOf<'ids'>;
const START: Ids = { type: 'ids', colours: [], tolerance: 0.03 };
const CONTROLS = [{ ...percent('tolerance', 'Tolerance'), digits: 1 }];

export const ids: StepUi<Ids> = {
  Editor: ({ sheet, step, source, show, set }) => (
    <>
      <BakeMissing sheet={sheet} of="ids" />
      <div className="flex flex-wrap items-center gap-1">
        <PickSwitch step={step} what="ids" />
        {source.colours.map((c, n) => (
          <button
            key={c.join()}
            type="button"
            aria-label={`Take out ${srgbToHex(c)}`}
            title="Take it out"
            className="h-6 w-6 rounded border border-line"
            style={{ background: srgbToHex(c) }}
            onClick={() => set({ ...source, colours: source.colours.filter((_, i) => i !== n) }, 'one id less')}
          />
        ))}
      </div>
      {bakeOf(sheet, 'ids')?.bake?.made === 'file' && (
        <Controls
          controls={CONTROLS}
          settings={source}
          start={{ ...START, colours: source.colours }}
          onPreview={show}
          onCommit={(next, { label }) => set(next, label.toLowerCase())}
        />
      )}
    </>
  ),
  entries: ({ add, onModel, sheet }) =>
    onModel || bakeOf(sheet, 'ids')
      ? [
          {
            label: 'Ids',
            hint: 'Click on colours of the bake of ids',
            group: 'model',
            onSelect: () => {
              wantBake('ids');
              add(START, 'ids');
              // The next click picks.
              useBench.setState({ picking: useBench.getState().openStep });
            },
          },
        ]
      : [],
};

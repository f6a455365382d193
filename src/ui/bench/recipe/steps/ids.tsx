'use client';
/** Ids by pick: flat colours of the bake of ids, taken by clicking. */
import { srgbToHex } from '@/core/colour/transfer';
import { bakeOf } from '@/core/document/bake';
import { startOfStep, type StepSourceOf } from '@/core/kinds/steps';
import { BakeMissing } from './BakeMissing';
import { PickSwitch } from './PickSwitch';
import { pickNext, type StepUi } from './stepUi';

export const ids: StepUi<StepSourceOf<'ids'>> = {
  Above: ({ sheet, step, source, set }) => (
    <>
      <BakeMissing sheet={sheet} of="ids" />
      <div className="flex flex-wrap items-center gap-1">
        <PickSwitch step={step} />
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
    </>
  ),
  // Our own bakes hold exact colours: only those of a file may be off by some.
  settable: (sheet) => bakeOf(sheet, 'ids')?.bake?.made === 'file',
  entries: ({ add, onModel, sheet }) =>
    onModel || bakeOf(sheet, 'ids')
      ? [
          {
            label: 'Ids',
            hint: 'Click on colours of the bake of ids',
            group: 'model',
            onSelect: () => {
              add(startOfStep('ids'), 'ids');
              pickNext();
            },
          },
        ]
      : [],
};

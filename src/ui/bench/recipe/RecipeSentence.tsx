'use client';
/** A mask's steps, read as a sentence: each a chip with its thumbnail, joined by what it does to those before it. */
import type { Mask, Sheet, Step } from '@/core/document/schema';
import { STEPS } from '@/core/kinds/steps';
import { MaskPicture } from '../panes/MaskPicture';
import { useBench } from '../store';
import { AddStep } from './AddStep';

/** How a step is joined to what comes before it. */
export const JOINING: Record<Step['blend'], string> = {
  normal: 'then',
  multiply: 'times',
  screen: 'or',
  add: 'plus',
  subtract: 'less',
  lighten: 'at least',
  darken: 'at most',
  overlay: 'leaning on',
  difference: 'against',
  exclusion: 'either',
  divide: 'over',
};

export const stepWord = ({ source }: Step, sheet: Sheet): string => STEPS[source.type].word(source, sheet);

export function RecipeSentence({ sheet, mask, layerId }: { sheet: Sheet; mask: Mask; layerId: string | null }) {
  const open = useBench((s) => s.openStep);
  return (
    <div className="flex flex-wrap items-center gap-x-1 gap-y-1" data-testid="recipe">
      {mask.steps.map((step, n) => (
        <span key={step.id} className="inline-flex max-w-full items-center gap-1">
          {(n > 0 || step.blend !== 'normal') && (
            <span className="text-[12px] text-ink-soft">
              {JOINING[step.blend]}
              {step.invert ? ' not' : ''}
            </span>
          )}
          {n === 0 && step.blend === 'normal' && step.invert && <span className="text-[12px] text-ink-soft">not</span>}
          <button
            type="button"
            aria-expanded={open === step.id}
            aria-label={`Step ${n + 1}: ${stepWord(step, sheet)}`}
            onClick={() => useBench.setState({ openStep: open === step.id ? null : step.id, picking: null })}
            className={`inline-flex h-6 min-w-0 items-center gap-1 rounded border bg-raised pr-1.5 pl-0.5 hover:bg-field ${
              open === step.id ? 'border-accent' : 'border-line'
            } ${step.on ? '' : 'opacity-45'}`}
          >
            <span className="relative h-[18px] w-[18px] shrink-0 overflow-hidden rounded-sm">
              <MaskPicture mask={mask} stepId={step.id} layerId={layerId} />
            </span>
            <span className={`truncate ${step.on ? '' : 'line-through'}`}>{stepWord(step, sheet)}</span>
          </button>
        </span>
      ))}
      {mask.steps.length === 0 && (
        <span className="text-[12px] text-ink-soft">{mask.ground >= 0.5 ? 'shows all over' : 'hides all over'}</span>
      )}
      <AddStep sheet={sheet} mask={mask} />
    </div>
  );
}

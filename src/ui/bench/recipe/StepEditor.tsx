'use client';
/** The open step of a recipe: what it is made from, how it joins, what is done to it. */
import { ArrowLeft, ArrowRight, Trash2 } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { STEP_BLENDS, type Mask, type Sheet, type Step, type StepBlend } from '@/core/document/schema';
import { Choice } from '../../kit/Choice';
import { IconButton } from '../../kit/Button';
import { Switch } from '../../kit/Switch';
import { PercentField } from '../../kit/PercentField';
import { FilterSteps } from '../filters/FilterSteps';
import { moveStep, previewStep, removeStep, setStep } from '../mask/steps';
import { JOINING, stepWord } from './RecipeSentence';
import { StepFields } from './StepFields';

export function StepEditor({ sheet, mask, step }: { sheet: Sheet; mask: Mask; step: Step }) {
  const n = mask.steps.indexOf(step);
  const set = (after: Partial<Step>, label: string) => setStep(mask, step.id, after, label);
  const box = useRef<HTMLDivElement>(null);
  // What was opened is to be seen; the list knows its new height a frame later.
  useEffect(() => {
    const frame = requestAnimationFrame(() => box.current?.scrollIntoView({ block: 'nearest' }));
    return () => cancelAnimationFrame(frame);
  }, [step.id]);
  return (
    <div ref={box} className="space-y-1 rounded border border-line bg-panel p-1.5" data-testid="step">
      <div className="flex items-center gap-1">
        <span className="min-w-0 flex-1 truncate pl-0.5 font-semibold first-letter:uppercase">{stepWord(step, sheet)}</span>
        <Switch
          label={step.on ? 'On' : 'Off'}
          checked={step.on}
          onChange={(on) => set({ on }, on ? 'a step on' : 'a step off')}
        />
        <IconButton label="Earlier" className="h-6 w-6" disabled={n === 0} onClick={() => moveStep(mask, step.id, -1)}>
          <ArrowLeft size={13} />
        </IconButton>
        <IconButton
          label="Later"
          className="h-6 w-6"
          disabled={n === mask.steps.length - 1}
          onClick={() => moveStep(mask, step.id, 1)}
        >
          <ArrowRight size={13} />
        </IconButton>
        <IconButton label="Take this step out of the mask" className="h-6 w-6" onClick={() => removeStep(mask, step.id)}>
          <Trash2 size={13} />
        </IconButton>
      </div>
      <div className="flex items-center gap-2">
        <div className="min-w-0 flex-1">
          <Choice
            label="Joins"
            value={step.blend}
            options={STEP_BLENDS.map((value) => ({ value, label: `${JOINING[value]} (${value})` }))}
            onChange={(blend: StepBlend) => set({ blend }, JOINING[blend])}
          />
        </div>
        <Switch
          label="Not"
          hint="Turns its values round"
          checked={step.invert}
          onChange={(invert) => set({ invert }, 'turned round')}
        />
      </div>
      <PercentField
        label="Amount"
        labelWidth="68px"
        reset={1}
        value={step.amount}
        onPreview={(v) => previewStep(mask, step.id, { amount: v })}
        onCommit={(v) => set({ amount: v }, `amount ${Math.round(v * 100)} %`)}
      />
      <StepFields
        sheet={sheet}
        mask={mask}
        step={step}
        source={step.source}
        show={(source) => previewStep(mask, step.id, { source })}
        set={(source, label) => set({ source }, label)}
      />
      <FilterSteps
        filters={step.filters}
        kinds={['mask']}
        onPreview={(filters) => previewStep(mask, step.id, { filters })}
        onCommit={(filters, label) => set({ filters }, label)}
      />
    </div>
  );
}

'use client';
import { MousePointerClick } from 'lucide-react';
import type { Step } from '@/core/document/schema';
import { STEPS } from '@/core/kinds/steps';
import { Tip } from '../../../kit/Tip';
import { useBench } from '../../store';

interface Props {
  step: Step;
  label?: string;
  hint?: string;
}

/** Clicks set the step, as its kind says (StepDef.pick), until it is switched off. */
export function PickSwitch({ step, label = 'Pick by clicking', hint }: Props) {
  const picking = useBench((s) => s.picking === step.id);
  const { of, once } = STEPS[step.source.type].pick!;
  return (
    <Tip label={picking ? 'Done: clicks paint again' : (hint ?? `Click ${of} in either pane to take them in or out`)}>
      <button
        type="button"
        aria-pressed={picking}
        onClick={() => useBench.setState({ picking: picking ? null : step.id })}
        className={`inline-flex h-6 items-center gap-1 rounded px-1.5 ${picking ? 'bg-accent-wash text-accent-ink' : 'hover:bg-field'}`}
      >
        <MousePointerClick size={13} /> {!picking ? label : once ? 'Click on the model' : 'Click on them'}
      </button>
    </Tip>
  );
}

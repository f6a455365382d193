'use client';
/** What a step is made from: what is the kind's own, then the controls of its definition. */
import { STEPS } from '@/core/kinds/steps';
import { Controls } from '../Controls';
import { stepUi } from './steps';
import type { StepEditorProps } from './steps/stepUi';

export function StepFields(props: StepEditorProps) {
  const { sheet, source, show, set } = props;
  const { Above, settable } = stepUi(source.type);
  const { controls, start } = STEPS[source.type];
  return (
    <>
      {Above && <Above {...props} />}
      {controls.length > 0 && (settable?.(sheet) ?? true) && (
        <Controls
          controls={controls}
          settings={source}
          start={start}
          onPreview={show}
          onCommit={(next, { label }) => set(next, label.toLowerCase())}
        />
      )}
    </>
  );
}

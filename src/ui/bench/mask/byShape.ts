/** Masks of one step that come of the model's shape, with numbers that look worn at once. */
import { stepSchema, type Layer } from '@/core/document/schema';
import { STEPS, STEP_TYPES, type StepSource } from '@/core/kinds/steps';
import { newId } from '../layers/ids';
import { useBench } from '../store';
import { giveMask, roomForMask } from './commands';
import { wantBakeOf } from './steps';

export const SHAPE_MASKS: readonly { label: string; hint: string; source: StepSource }[] = STEP_TYPES.flatMap((type) =>
  (STEPS[type].presets ?? []).flatMap(({ mask, settings }) => (mask ? [{ ...mask, source: settings }] : [])),
);

export function maskBy(source: StepSource, label: string, layer: Layer): void {
  if (!roomForMask()) return;
  wantBakeOf(source);
  const steps = [stepSchema.parse({ id: newId(), source })];
  giveMask(layer, label, () => `${layer.name}: ${label.toLowerCase()}`, { steps });
  useBench.setState({ openStep: steps[0].id });
}

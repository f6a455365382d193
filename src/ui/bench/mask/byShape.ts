/** Masks of one step that come of the model's shape, with numbers that look worn at once. */
import { batch, setLayerEdit } from '@/core/document/edits';
import { freeName, newMask } from '@/core/document/factory';
import { LIMITS, stepSchema, type Layer } from '@/core/document/schema';
import { STEPS, STEP_TYPES, type StepSource } from '@/core/kinds/steps';
import { newId } from '../layers/ids';
import { wantBakeOf } from './steps';
import { currentSheet, edit, say, useBench } from '../store';

export const SHAPE_MASKS: readonly { label: string; hint: string; source: StepSource }[] = STEP_TYPES.flatMap((type) =>
  (STEPS[type].presets ?? []).flatMap(({ mask, settings }) => (mask ? [{ ...mask, source: settings }] : [])),
);

export function maskBy(source: StepSource, label: string, layer: Layer): void {
  const sheet = currentSheet();
  if (sheet.masks.length >= LIMITS.maxMasks) return say(`A sheet holds up to ${LIMITS.maxMasks} masks.`);
  wantBakeOf(source);
  const now = currentSheet();
  const name = freeName(
    label,
    now.masks.map((m) => m.name),
  );
  const step = stepSchema.parse({ id: newId(), source });
  const mask = newMask(newId(), name, 0, { steps: [step] });
  edit(
    batch([
      { type: 'add-mask', sheetId: now.id, index: now.masks.length, mask },
      setLayerEdit(now, layer, { mask: { id: mask.id, on: true } }),
    ]),
    `${layer.name}: ${label.toLowerCase()}`,
  );
  useBench.setState({ openStep: step.id });
}

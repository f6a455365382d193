/** Masks of one step that come of the model's shape, with numbers that look worn at once. */
import { batch, setLayerEdit } from '@/core/document/edits';
import { freeName, newMask } from '@/core/document/factory';
import { LIMITS, stepSchema, type Layer } from '@/core/document/schema';
import type { StepSource } from '@/core/kinds/steps';
import { wantBake } from '../bakes/commands';
import { newId } from '../layers/ids';
import { currentSheet, edit, say, useBench } from '../store';

const EVEN = { contrast: 0.5, breakup: 0.5, grain: 0.03, seed: 1 };

export const SHAPE_MASKS: readonly { label: string; hint: string; source: StepSource }[] = [
  {
    label: 'Edge wear',
    hint: 'Along edges that stand out, broken up by a noise',
    source: { type: 'edges', angle: 25, width: 0.015, ...EVEN },
  },
  {
    label: 'Cavity grime',
    hint: 'In grooves and inner corners; cavities are baked for it',
    source: { type: 'bake', of: 'cavity', low: 0.1, high: 0.7, ...EVEN, breakup: 0.3, contrast: 0.3 },
  },
  {
    label: 'Dirt in corners',
    hint: 'Where little light reaches; occlusion is baked for it',
    source: { type: 'bake', of: 'occlusion', low: 0.85, high: 0.3, ...EVEN, breakup: 0.3, contrast: 0.2 },
  },
  { label: 'Dust on top', hint: 'On what faces up', source: { type: 'facing', direction: [0, 1, 0], angle: 70, soft: 0.6 } },
  {
    label: 'From the foot up',
    hint: 'Along the model’s height, fading',
    source: { type: 'span', axis: 'y', from: 0, to: 0.2, soft: 0.3 },
  },
];

export function maskBy(source: StepSource, label: string, layer: Layer): void {
  const sheet = currentSheet();
  if (sheet.masks.length >= LIMITS.maxMasks) return say(`A sheet holds up to ${LIMITS.maxMasks} masks.`);
  if (source.type === 'bake') wantBake(source.of);
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

/** The steps of a mask: joined, changed, moved, pointed at. */
import { bakeOf } from '@/core/document/bake';
import { STEPS, type StepSource } from '@/core/kinds/steps';
import { setMaskEdit, type Edit } from '@/core/document/edits';
import { fenceMask, isFence, setFenceEdit } from '@/core/document/fence';
import { LIMITS, paintedStep, stepSchema, type Mask, type Step } from '@/core/document/schema';
import { whyUnmakeable } from '@/core/document/tree';
import { wantBake } from '../bakes/commands';
import { newId } from '../layers/ids';
import type { PickPlace } from '@/engine/protocol';
import { bench, currentSheet, edit, preview, say, useBench } from '../store';

/** Of a mask, or of the fence, which is shown as one. */
export const setRecipe = (mask: Mask, after: Partial<Pick<Mask, 'ground' | 'invert' | 'steps'>>, sheet = currentSheet()): Edit =>
  isFence(mask) ? setFenceEdit(sheet, after) : setMaskEdit(sheet, mask, after);

const withSteps = (mask: Mask, steps: Step[]): Edit => setRecipe(mask, { steps });

/** Refuses what would be made from itself, in one sentence. */
export function sound(mask: Mask, steps: Step[]): boolean {
  const sheet = currentSheet();
  const fault = whyUnmakeable(
    sheet.layers,
    sheet.masks.map((m) => (m.id === mask.id ? { ...m, steps } : m)),
  );
  if (fault) say(`That cannot be: ${fault}.`);
  return !fault;
}

/** Has the bake made that a step takes its values from, if there is none yet. */
export function wantBakeOf(source: StepSource): void {
  const bake = STEPS[source.type].asks?.(source).bake;
  if (bake) wantBake(bake);
}

/** A step after those that are there, multiplied with them; the first simply is. */
export function addStep(mask: Mask, source: StepSource, label: string): void {
  if (mask.steps.length >= LIMITS.maxSteps)
    return say(`A ${isFence(mask) ? 'fence' : 'mask'} has up to ${LIMITS.maxSteps} steps.`);
  wantBakeOf(source);
  // What is painted at the end goes over what is there; all else weighs it.
  const blend = mask.steps.some((s) => s.on) && !STEPS[source.type].painted ? 'multiply' : 'normal';
  const step = stepSchema.parse({ id: newId(), source, blend });
  const steps = [...mask.steps, step];
  if (!sound(mask, steps)) return;
  edit(withSteps(mask, steps), `${mask.name}: ${label}`);
  useBench.setState({ openStep: step.id, ...(STEPS[source.type].painted ? { target: 'mask' as const, maskValue: 1 } : {}) });
}

const changed = (mask: Mask, stepId: string, after: Partial<Step>): Step[] =>
  mask.steps.map((s) => (s.id === stepId ? { ...s, ...after } : s));

export function setStep(mask: Mask, stepId: string, after: Partial<Step>, label: string): void {
  const steps = changed(mask, stepId, after);
  if (sound(mask, steps)) edit(withSteps(mask, steps), `${mask.name}: ${label}`);
}

export function previewStep(mask: Mask, stepId: string, after: Partial<Step>): void {
  preview(withSteps(mask, changed(mask, stepId, after)));
}

export function removeStep(mask: Mask, stepId: string): void {
  edit(
    withSteps(
      mask,
      mask.steps.filter((s) => s.id !== stepId),
    ),
    `${mask.name}: one step less`,
  );
}

export function moveStep(mask: Mask, stepId: string, by: 1 | -1): void {
  const at = mask.steps.findIndex((s) => s.id === stepId);
  const to = at + by;
  if (to < 0 || to >= mask.steps.length) return;
  const steps = [...mask.steps];
  [steps[at], steps[to]] = [steps[to], steps[at]];
  edit(withSteps(mask, steps), `${mask.name}: another order`);
}

/** The painted step that strokes go to: the one that is open, else the last. */
export function paintTarget(mask: Mask, openStep: string | null): Step | undefined {
  const open = mask.steps.find((s) => s.id === openStep && STEPS[s.source.type].painted);
  return open ?? paintedStep(mask);
}

/** The step that clicks go into, with its mask or fence; null: none, or it is gone. */
export function pickingStep(): { mask: Mask; step: Step } | null {
  const { picking } = useBench.getState();
  const sheet = currentSheet();
  for (const mask of [...sheet.masks, fenceMask(sheet)]) {
    const step = mask.steps.find((s) => s.id === picking);
    if (step) return { mask, step };
  }
  return null;
}

/** What lies under a point goes into the step that is picking, or out of it again, as its kind says. */
export async function pickInto(place: PickPlace): Promise<void> {
  const found = pickingStep();
  const pick = found && STEPS[found.step.source.type].pick;
  if (!pick) return useBench.setState({ picking: null });
  const { mask, step } = found;
  const sheet = currentSheet();
  const picture = pick.colourOf && bakeOf(sheet, pick.colourOf);
  const hit = await bench().ask({ ask: 'pick', sheetId: sheet.id, place, pictureId: picture?.id });
  const here = hit?.sheetId === sheet.id;
  if (!hit?.on && !(pick.colourOf && here))
    return say('There is no surface under the pointer: click on the model or on an island.');
  if (!here) return say('That belongs to another sheet: this mask is on the sheet that is chosen above.');
  const taken = pick.take(step.source, { on: hit.on, colour: hit.picture as [number, number, number] | null });
  if (typeof taken === 'string') return say(taken);
  setStep(mask, step.id, { source: taken.step }, taken.label);
  if (pick.once) useBench.setState({ picking: null });
}

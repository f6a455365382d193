/** What can be done to masks and their recipes, as functions: the keys, menus and buttons all call these. */
import { LAYERS } from '@/core/kinds/layers';
import { STEPS } from '@/core/kinds/steps';
import { batch, setLayerEdit, setMaskEdit, type Edit } from '@/core/document/edits';
import { freeName, newCoatLayer, newMask } from '@/core/document/factory';
import { LIMITS, paintedStep, stepSchema, type Layer, type Mask, type Sheet, type Step } from '@/core/document/schema';
import type { StepSource } from '@/core/kinds/steps';
import { findCycle, indexOfPlace } from '@/core/document/tree';
import { newId } from './layerCommands';
import type { PickPlace } from '@/engine/protocol';
import { bench, currentLayer, currentMask, currentSheet, edit, preview, say, selectLayer, useBench, work } from './store';

/** A new mask on the layer: white all over (shows), or black (hides). */
export function addMask(ground: 0 | 1, layer = currentLayer()): void {
  if (!layer) return;
  const sheet = currentSheet();
  if (sheet.masks.length >= LIMITS.maxMasks) return say(`A sheet holds up to ${LIMITS.maxMasks} masks.`);
  const name = freeName(
    `Mask of ${layer.name}`.slice(0, 110),
    sheet.masks.map((m) => m.name),
  );
  const mask = newMask(newId(), name, ground);
  edit(
    batch([
      { type: 'add-mask', sheetId: sheet.id, index: sheet.masks.length, mask },
      setLayerEdit(sheet, layer, { mask: { id: mask.id, on: true } }),
    ]),
    `Add ${name}`,
  );
  useBench.setState({ target: 'mask', maskValue: ground === 1 ? 0 : 1, openStep: null });
}

export function linkMask(layer: Layer, maskId: string | null): void {
  const sheet = currentSheet();
  const name = sheet.masks.find((m) => m.id === maskId)?.name;
  edit(
    setLayerEdit(sheet, layer, { mask: maskId ? { id: maskId, on: true } : null }),
    name ? `${layer.name}: ${name}` : `${layer.name}: no mask`,
  );
}

export const usersOf = (sheet: Sheet, maskId: string): Layer[] => sheet.layers.filter((l) => l.mask?.id === maskId);

export function deleteMask(mask: Mask): void {
  const sheet = currentSheet();
  const users = usersOf(sheet, mask.id);
  const index = sheet.masks.findIndex((m) => m.id === mask.id);
  edit(
    batch([...users.map((l) => setLayerEdit(sheet, l, { mask: null })), { type: 'remove-mask', sheetId: sheet.id, index, mask }]),
    `Delete ${mask.name}`,
  );
}

export function invertMask(mask = currentMask()): void {
  if (mask) edit(setMaskEdit(currentSheet(), mask, { invert: !mask.invert }), `Invert ${mask.name}`);
  else say('The selected layer has no mask to invert.');
}

export function fillMask(value: 0 | 1, mask = currentMask()): void {
  if (mask) work({ do: 'fill-mask', sheetId: currentSheet().id, maskId: mask.id, value });
}

export function switchTarget(): void {
  const { target } = useBench.getState();
  if (target === 'layer' && !currentMask()) return say('The selected layer has no mask: add one in its row.');
  useBench.setState({ target: target === 'layer' ? 'mask' : 'layer' });
}

export function cycleMaskMode(): void {
  const { maskMode } = useBench.getState();
  if (!currentMask()) return say('The selected layer has no mask to look at.');
  const next = { none: 'over', over: 'alone', alone: 'black', black: null } as const;
  useBench.setState({ maskMode: next[maskMode ?? 'none'] });
}

// ── Recipes ────────────────────────────────────────────────────────────────────────────────────────────────

const withSteps = (mask: Mask, steps: Step[]): Edit => setMaskEdit(currentSheet(), mask, { steps });

/** Refuses what would be made from itself, in one sentence. */
function sound(mask: Mask, steps: Step[]): boolean {
  const sheet = currentSheet();
  const cycle = findCycle(
    sheet.layers,
    sheet.masks.map((m) => (m.id === mask.id ? { ...m, steps } : m)),
  );
  if (cycle) say(`That cannot be: ${cycle}.`);
  return !cycle;
}

/** A step after those that are there, multiplied with them; the first simply is. */
export function addStep(mask: Mask, source: StepSource, label: string): void {
  if (mask.steps.length >= LIMITS.maxSteps) return say(`A mask has up to ${LIMITS.maxSteps} steps.`);
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

/** Takes the part, island or face under a point into the step that is picking, or out of it again. */
export async function pickInto(place: PickPlace): Promise<void> {
  const { picking } = useBench.getState();
  const sheet = currentSheet();
  const mask = sheet.masks.find((m) => m.steps.some((s) => s.id === picking));
  const step = mask?.steps.find((s) => s.id === picking);
  if (!mask || !step) return useBench.setState({ picking: null });
  const hit = await bench().ask({ ask: 'pick', sheetId: sheet.id, place });
  if (!hit?.on) return say('There is no surface under the pointer: click on the model or on an island.');
  if (hit.sheetId !== sheet.id) return say('That belongs to another sheet: this mask is on the sheet that is chosen above.');
  const toggled = <T>(list: readonly T[], v: T) => (list.includes(v) ? list.filter((x) => x !== v) : [...list, v]);
  const { source } = step;
  if (source.type === 'parts')
    setStep(mask, step.id, { source: { ...source, names: toggled(source.names, hit.on.part) } }, hit.on.part);
  if (source.type === 'islands')
    setStep(mask, step.id, { source: { ...source, ids: toggled(source.ids, hit.on.island) } }, 'islands');
  if (source.type === 'faces') setStep(mask, step.id, { source: { ...source, ids: toggled(source.ids, hit.on.face) } }, 'faces');
}

/** A layer lies in the gaps of what is below it: a mask by height on it. */
export function mixByHeight(layer = currentLayer()): void {
  if (!layer) return say('There is no layer to mix in: choose one.');
  const sheet = currentSheet();
  if (!sheet.maps.includes('height')) return say('This sheet carries no height to mix by: add the map first.');
  const source: StepSource = { type: 'contact', offset: 0, contrast: 0.7, line: 0 };
  const mask = layer.mask && sheet.masks.find((m) => m.id === layer.mask!.id);
  if (mask) return addStep(mask, source, 'mixed by height');
  const fresh = newMask(newId(), `Contact of ${layer.name}`.slice(0, 110), 0, {
    steps: [stepSchema.parse({ id: newId(), source })],
  });
  edit(
    batch([
      { type: 'add-mask', sheetId: sheet.id, index: sheet.masks.length, mask: fresh },
      setLayerEdit(sheet, layer, { mask: { id: fresh.id, on: true } }),
    ]),
    `Mix ${layer.name} by height`,
  );
  useBench.setState({ openStep: fresh.steps[0].id });
}

/** A coat above the layer that shows where its alpha's edge is near: a shadow, a line, or a bevel into height. */
export function shadeEdges(shape: 'shadow' | 'outline' | 'bevel', layer = currentLayer()): void {
  const sheet = currentSheet();
  const map = layer && sheet.maps.find((m) => layer.cells[m]?.on);
  if (!layer || !map || !LAYERS[layer.kind].byItself)
    return say('There is no layer with edges to shade: choose a painted layer, a coat or a group.');
  if (shape === 'bevel' && !sheet.maps.includes('height'))
    return say('A bevel goes into height, which this sheet does not carry: add the map first.');
  const name = { shadow: 'Edge shadow', outline: 'Outline', bevel: 'Bevel' }[shape];
  const source: StepSource = { type: 'layer', of: layer.id, map, take: 'alpha', by: 'luminance' };
  const step = stepSchema.parse({
    id: newId(),
    source,
    filters: [{ type: 'rim', shape, width: shape === 'outline' ? 3 : 16, soften: 0.3 }],
  });
  const mask = newMask(newId(), `${name} of ${layer.name}`.slice(0, 110), 0, { steps: [step] });
  const taken = sheet.layers.map((l) => l.name);
  const coat: Layer = {
    ...(shape === 'bevel'
      ? newCoatLayer(newId(), freeName(name, taken), { height: [0.6] }, sheet.maps)
      : newCoatLayer(newId(), freeName(name, taken), { 'base-colour': [0.12, 0.1, 0.09] }, sheet.maps)),
    mask: { id: mask.id, on: true },
    parent: layer.parent,
    ...(shape === 'shadow' ? { blend: 'multiply' as const, opacity: 0.7 } : {}),
  };
  const index = indexOfPlace(sheet.layers, { parent: layer.parent, above: layer.id });
  edit(
    batch([
      { type: 'add-mask', sheetId: sheet.id, index: sheet.masks.length, mask },
      { type: 'add-layer', sheetId: sheet.id, index, layer: coat },
    ]),
    `${name} of ${layer.name}`,
  );
  selectLayer(coat.id);
}

// ── Saved recipes ──────────────────────────────────────────────────────────────────────────────────────────

export interface Recipe {
  name: string;
  ground: number;
  invert: boolean;
  steps: Step[];
}
const RECIPES_KEY = 'brindle-recipes';
const MOST_RECIPES = 100;

/** The artist's own recipes stay in the browser, as brushes and wells do. */
export function savedRecipes(): Recipe[] {
  try {
    const list = JSON.parse(localStorage.getItem(RECIPES_KEY) ?? '[]') as Recipe[];
    return list.map((r) => ({ ...r, steps: r.steps.map((s) => stepSchema.parse(s)) }));
  } catch {
    return [];
  }
}

function store(recipes: Recipe[]): boolean {
  try {
    localStorage.setItem(RECIPES_KEY, JSON.stringify(recipes));
    return true;
  } catch {
    say('The browser’s store is full: delete saved recipes that you do not need.');
    return false;
  }
}

export function saveRecipe(mask: Mask, name: string): void {
  const steps = mask.steps.filter((s) => STEPS[s.source.type].anywhere);
  const left = mask.steps.length - steps.length;
  const others = savedRecipes().filter((r) => r.name !== name);
  if (others.length >= MOST_RECIPES) return say(`Up to ${MOST_RECIPES} recipes are kept: delete one first.`);
  const recipe: Recipe = { name, ground: mask.ground, invert: mask.invert, steps };
  if (store([...others, recipe]))
    say(
      left
        ? `"${name}" is saved without ${left === 1 ? 'one step' : `${left} steps`} that belong to this sheet only.`
        : `"${name}" is saved: any mask can take it.`,
    );
}

export function deleteRecipe(name: string): void {
  store(savedRecipes().filter((r) => r.name !== name));
}

/** Puts a saved recipe in place of a mask's steps. What was painted before comes back by undo. */
export function applyRecipe(mask: Mask, recipe: Recipe): void {
  const steps = recipe.steps.map((s) => ({ ...structuredClone(s), id: newId() }));
  if (!sound(mask, steps)) return;
  edit(
    setMaskEdit(currentSheet(), mask, { ground: recipe.ground, invert: recipe.invert, steps }),
    `${mask.name}: ${recipe.name}`,
  );
  useBench.setState({ openStep: null });
}

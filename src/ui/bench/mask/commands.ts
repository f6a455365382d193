/** What is done to the masks of layers. */
import { COLOUR_MAP } from '@/core/kinds/maps';
import { NORMAL_FROM } from '@/core/kinds/shown';
import { LAYERS } from '@/core/kinds/layers';
import { batch, setLayerEdit, setMaskEdit } from '@/core/document/edits';
import { freeName, newCoatLayer, newMask } from '@/core/document/factory';
import { LIMITS, stepSchema, type Layer, type Mask, type Sheet } from '@/core/document/schema';
import { startOfStep } from '@/core/kinds/steps';
import { indexOfPlace } from '@/core/document/tree';
import { newId } from '../layers/ids';
import { currentLayer, currentMask, currentSheet, edit, say, selectLayer, useBench, work } from '../store';
import { addStep } from './steps';

/** Says so where the sheet holds no more masks. */
export function roomForMask(): boolean {
  if (currentSheet().masks.length < LIMITS.maxMasks) return true;
  say(`A sheet holds up to ${LIMITS.maxMasks} masks.`);
  return false;
}

/** Puts a new mask on a layer, in one edit; `label`: what the history says of it, by the name that it gets. */
export function giveMask(
  layer: Layer,
  name: string,
  label: (name: string) => string,
  { ground = 0, ...over }: Partial<Pick<Mask, 'ground' | 'steps'>>,
): void {
  const sheet = currentSheet();
  const taken = sheet.masks.map((m) => m.name);
  const mask = newMask(newId(), freeName(name.slice(0, 110), taken), ground, over);
  edit(
    batch([
      { type: 'add-mask', sheetId: sheet.id, index: sheet.masks.length, mask },
      setLayerEdit(sheet, layer, { mask: { id: mask.id, on: true } }),
    ]),
    label(mask.name),
  );
}

/** A new mask on the layer: white all over (shows), or black (hides). */
export function addMask(ground: 0 | 1, layer = currentLayer()): void {
  if (!layer || !roomForMask()) return;
  giveMask(layer, `Mask of ${layer.name}`, (name) => `Add ${name}`, { ground });
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

/** A layer lies in the gaps of what is below it: a mask by height on it. */
export function mixByHeight(layer = currentLayer()): void {
  if (!layer) return say('There is no layer to mix in: choose one.');
  const sheet = currentSheet();
  if (!sheet.maps.includes(NORMAL_FROM.relief)) return say('This sheet carries no height to mix by: add the map first.');
  const source = startOfStep('contact');
  const mask = layer.mask && sheet.masks.find((m) => m.id === layer.mask!.id);
  if (mask) return addStep(mask, source, 'mixed by height');
  if (!roomForMask()) return;
  const steps = [stepSchema.parse({ id: newId(), source })];
  giveMask(layer, `Contact of ${layer.name}`, () => `Mix ${layer.name} by height`, { steps });
  useBench.setState({ openStep: steps[0].id });
}

/** A coat above the layer that shows where its alpha's edge is near: a shadow, a line, or a bevel into height. */
export function shadeEdges(shape: 'shadow' | 'outline' | 'bevel', layer = currentLayer()): void {
  const sheet = currentSheet();
  const map = layer && sheet.maps.find((m) => layer.cells[m]?.on);
  if (!layer || !map || !LAYERS[layer.kind].byItself)
    return say('There is no layer with edges to shade: choose a painted layer, a coat or a group.');
  if (shape === 'bevel' && !sheet.maps.includes(NORMAL_FROM.relief))
    return say('A bevel goes into height, which this sheet does not carry: add the map first.');
  if (!roomForMask()) return;
  const name = { shadow: 'Edge shadow', outline: 'Outline', bevel: 'Bevel' }[shape];
  const source = { ...startOfStep('layer'), of: layer.id, map };
  const step = stepSchema.parse({
    id: newId(),
    source,
    filters: [{ type: 'rim', shape, width: shape === 'outline' ? 3 : 16, soften: 0.3 }],
  });
  const mask = newMask(newId(), `${name} of ${layer.name}`.slice(0, 110), 0, { steps: [step] });
  const taken = sheet.layers.map((l) => l.name);
  const coat: Layer = {
    ...(shape === 'bevel'
      ? newCoatLayer(newId(), freeName(name, taken), { [NORMAL_FROM.relief]: [0.6] }, sheet.maps)
      : newCoatLayer(newId(), freeName(name, taken), { [COLOUR_MAP]: [0.12, 0.1, 0.09] }, sheet.maps)),
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

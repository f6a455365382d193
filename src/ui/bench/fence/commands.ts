/** What is done to the fence: put on, made of parts, islands and faces, kept under a name, turned into a mask and back. */
import { batch, setSheetEdit, type Edit } from '@/core/document/edits';
import { freeName, newMask } from '@/core/document/factory';
import { asMask, NO_FENCE, setFenceEdit } from '@/core/document/fence';
import { LIMITS, stepSchema, type Fence, type KeptFence, type Mask, type Step } from '@/core/document/schema';
import { setLayerEdit } from '@/core/document/edits';
import { STEPS, type StepSource } from '@/core/kinds/steps';
import { newId } from '../layers/ids';
import { bench, currentLayer, currentSheet, edit, say, useBench } from '../store';
import { rangesOf, type FaceChange } from '@/core/hand/chosenFaces';

const stepOf = (source: StepSource): Step => stepSchema.parse({ id: newId(), source });

export function setFence(after: Partial<Fence>, label: string): void {
  edit(setFenceEdit(currentSheet(), after), `Fence: ${label}`);
}

export function toggleFence(): void {
  const sheet = currentSheet();
  const { fence } = sheet;
  if (!fence || fence.fence.steps.length === 0)
    return say('There is no fence yet: hold the key and click a part, or open the fence and add a step.');
  edit(setSheetEdit(sheet, { fence: { ...fence, on: !fence.on } }), fence.on ? 'Fence off' : 'Fence on');
}

/** No fence any more. */
export function dropFence(): void {
  const sheet = currentSheet();
  if (sheet.fence) edit(setSheetEdit(sheet, { fence: null }), 'Fence: none');
  useBench.setState({ picking: null });
}

/** Only this, or with `more` this as well; what is let through already is taken out. */
export function fenceOn(source: StepSource, more: boolean, word: string): void {
  const { fence } = currentSheet();
  const there = more && STEPS[source.type].joined ? fence?.fence.steps : [];
  const last = there?.find((s) => s.source.type === source.type && !s.invert);
  if (!last) {
    const steps = more && fence ? [...fence.fence.steps, { ...stepOf(source), blend: 'lighten' as const }] : [stepOf(source)];
    return setFence({ ...(more ? {} : NO_FENCE), steps }, `only ${word}`);
  }
  const next = STEPS[source.type].joined!(last.source, source);
  const steps = fence!.fence.steps.map((s) => (s.id === last.id ? { ...s, source: next } : s));
  setFence({ steps }, word);
}

// ── Kept under a name ──────────────────────────────────────────────────────────────────────────────────────

export function keepFence(): void {
  const sheet = currentSheet();
  const { fence, fences } = sheet;
  if (!fence || fence.fence.steps.length === 0) return say('There is no fence to keep: add a step to it first.');
  if (fences.length >= LIMITS.maxFences) return say(`A sheet keeps up to ${LIMITS.maxFences} fences: delete one first.`);
  const name = freeName(
    'Fence',
    fences.map((f) => f.name),
  );
  const kept: KeptFence = { id: newId(), name, fence: fence.fence };
  edit(setSheetEdit(sheet, { fences: [...fences, kept] }), `Keep the fence as "${name}"`);
}

export function putOn(kept: KeptFence): void {
  edit(setSheetEdit(currentSheet(), { fence: { on: true, fence: kept.fence } }), `Fence: ${kept.name}`);
}

export function renameKept(kept: KeptFence, name: string): void {
  const sheet = currentSheet();
  edit(setSheetEdit(sheet, { fences: sheet.fences.map((f) => (f.id === kept.id ? { ...f, name } : f)) }), `Rename ${kept.name}`);
}

export function deleteKept(kept: KeptFence): void {
  const sheet = currentSheet();
  edit(setSheetEdit(sheet, { fences: sheet.fences.filter((f) => f.id !== kept.id) }), `Delete the fence ${kept.name}`);
}

// ── Masks ──────────────────────────────────────────────────────────────────────────────────────────────────

/** The layer at work gets a mask made as the fence is. */
export function fenceToMask(): void {
  const sheet = currentSheet();
  const layer = currentLayer();
  const { fence } = sheet;
  if (!fence || fence.fence.steps.length === 0) return say('There is no fence to make a mask of: add a step to it first.');
  if (!layer) return say('There is no layer for the mask: choose one first.');
  if (layer.lock === 'all') return say(`"${layer.name}" is locked: unlock it first.`);
  if (sheet.masks.length >= LIMITS.maxMasks) return say(`A sheet holds up to ${LIMITS.maxMasks} masks: delete one first.`);
  const name = freeName(
    `${layer.name} mask`,
    sheet.masks.map((m) => m.name),
  );
  const { ground, invert, steps } = asMask(fence.fence);
  const mask: Mask = newMask(newId(), name, ground, { invert, steps: steps.map((s) => ({ ...s, id: newId() })) });
  const add: Edit = { type: 'add-mask', sheetId: sheet.id, index: sheet.masks.length, mask };
  edit(batch([add, setLayerEdit(sheet, layer, { mask: { id: mask.id, on: true } })]), `${layer.name}: a mask from the fence`);
}

/** A mask limits strokes, linked. */
export function fenceFromMask(mask: Mask): void {
  setFence({ ...NO_FENCE, steps: [stepOf({ type: 'mask', of: mask.id })] }, mask.name);
}

/** What a layer's paint covers. */
export function fenceFromLayer(): void {
  const layer = currentLayer();
  if (!layer) return say('There is no layer to take it from: choose one first.');
  const sheet = currentSheet();
  const map = sheet.maps.find((m) => layer.cells[m]?.on) ?? sheet.maps[0];
  setFence({ ...NO_FENCE, steps: [stepOf({ type: 'layer', of: layer.id, map, take: 'alpha', by: 'luminance' })] }, layer.name);
}

/** Makes a choice of faces larger, smaller, whole or flat. */
export async function changeFaces(ids: readonly number[], how: FaceChange): Promise<number[] | null> {
  const next = await bench().ask({ ask: 'faces', sheetId: currentSheet().id, of: { ids: [...ids], how } });
  if (next.length === 0) say('No face would be left: the choice stays as it was.');
  return next.length === 0 ? null : next;
}

// ── What is seen of the model ──────────────────────────────────────────────────────────────────────────────

/** Hides parts and faces; what is hidden is neither seen nor painted. */
export function hide(parts: readonly string[], faces: readonly (readonly [number, number])[], label: string): void {
  const { hiddenParts, hiddenFaces } = useBench.getState().document!;
  const after = { hiddenParts: [...parts], hiddenFaces: faces.map(([a, b]) => [a, b] as [number, number]) };
  edit({ type: 'set-piece', before: { hiddenParts, hiddenFaces }, after }, label);
}

export const showAll = (): void => hide([], [], 'Show all of the model');

/** Hides the faces that the fence lets through; or with `others` all but these. */
export async function hideFenced(others: boolean): Promise<void> {
  const { document, geometry } = useBench.getState();
  const sheet = currentSheet();
  if (!geometry) return say('A canvas has no faces to hide.');
  if (!sheet.fence?.fence.steps.length) return say('There is no fence: hold its key and click a part first.');
  const faces = await bench().ask({ ask: 'faces', sheetId: sheet.id, of: 'fence' });
  if (faces.length === 0) return say('The fence lets no face of this sheet through: nothing was hidden.');
  const chosen = new Set(faces);
  const gone = others ? [...geometry.facePart.keys()].filter((f) => !chosen.has(f)) : faces;
  const known = others ? [] : document!.hiddenFaces.flatMap(([a, b]) => Array.from({ length: b - a + 1 }, (_, n) => a + n));
  const ranges = rangesOf([...known, ...gone]);
  if (ranges.length > LIMITS.maxFaceRanges) return say('These faces are too many pieces to hide: choose whole parts or islands.');
  hide(document!.hiddenParts, ranges, others ? 'Show only what the fence lets through' : 'Hide what the fence lets through');
}

/** What is done to layers. */
import { arrangeEdit, batch, setLayerEdit } from '@/core/document/edits';
import { freeName, newGroup } from '@/core/document/factory';
import { type Layer, type Sheet } from '@/core/document/schema';
import { blocksOf, whyUnmakeable, membersOf, moved, outermost, type Place } from '@/core/document/tree';
import { groupLayers, ungroupLayers } from '@/core/document/work/group';
import type { MergeHow } from '@/core/document/work/merge';
import { removeAll } from '@/core/document/work/work';
import { chooseLayers, currentLayer, currentSheet, edit, say, selectLayer, useBench, work } from '../store';
import { newId } from './ids';

export const names = (sheet: Sheet) => sheet.layers.map((l) => l.name);

export function chosenLayers(): Layer[] {
  const { chosen } = useBench.getState();
  return currentSheet().layers.filter((l) => chosen.includes(l.id));
}

/** Refuses in one sentence when something chosen is locked altogether. */
export function free(layers: readonly Layer[], what: string): boolean {
  const locked = layers.find((l) => l.lock === 'all');
  if (locked) say(`"${locked.name}" is locked, so it cannot be ${what}: unlock it first.`);
  return !locked;
}

export function groupChosen(): void {
  const sheet = currentSheet();
  const chosen = chosenLayers();
  if (!free(chosen, 'put into a group')) return;
  const group = newGroup(newId(), freeName('Group', names(sheet)), sheet.maps);
  edit(
    groupLayers(
      sheet,
      group,
      chosen.map((l) => l.id),
    ),
    `Group ${chosen.length === 1 ? chosen[0].name : `${chosen.length} layers`}`,
  );
  selectLayer(group.id);
}

export function ungroup(): void {
  const layer = currentLayer();
  if (layer?.kind !== 'group') return say('There is no group to open up: choose a group.');
  if (!free([layer], 'opened up')) return;
  const members = membersOf(currentSheet().layers, layer.id).map((l) => l.id);
  edit(ungroupLayers(currentSheet(), layer.id), `Ungroup ${layer.name}`);
  chooseLayers(members);
}

export function deleteLayers(layers = chosenLayers()): void {
  const sheet = currentSheet();
  const gone = blocksOf(
    sheet.layers,
    layers.map((l) => l.id),
  );
  if (gone.length === 0 || !free(gone, 'deleted')) return;
  const lowest = sheet.layers.indexOf(gone[0]);
  const next = sheet.layers.filter((l) => !gone.includes(l))[Math.max(0, lowest - 1)];
  const echoes = sheet.layers.filter((l) => l.echo && gone.some((g) => g.id === l.echo!.of) && !gone.includes(l));
  edit(batch(removeAll(sheet, gone)), `Delete ${gone.length === 1 ? gone[0].name : `${gone.length} layers`}`);
  if (next) selectLayer(next.id);
  if (echoes.length)
    say(`${echoes.map((e) => `"${e.name}"`).join(' and ')} echoed what is gone and shows nothing now. Undo brings it back.`);
}

export function duplicateChosen(): void {
  const { chosen } = useBench.getState();
  if (chosen.length) work({ do: 'duplicate', sheetId: currentSheet().id, ids: chosen });
}

/** Up is towards the eye, as in the list; at the end of a group it goes out of it, and into a group that comes next. */
export function moveChosen(step: 1 | -1): void {
  const sheet = currentSheet();
  const roots = outermost(sheet.layers, useBench.getState().chosen);
  if (roots.length === 0 || !free(roots, 'moved')) return;
  const edge = step > 0 ? roots.at(-1)! : roots[0];
  const siblings = membersOf(sheet.layers, edge.parent).filter((l) => l === edge || !roots.includes(l));
  const at = siblings.indexOf(edge);
  const next = siblings[at + step];
  let place: Place | null = null;
  if (next?.kind === 'group' && !useBench.getState().collapsed.includes(next.id))
    place = { parent: next.id, above: step > 0 ? null : (membersOf(sheet.layers, next.id).at(-1)?.id ?? null) };
  else if (next) place = { parent: edge.parent, above: step > 0 ? next.id : (siblings[at - 2]?.id ?? null) };
  else if (edge.parent !== null) {
    const group = sheet.layers.find((l) => l.id === edge.parent)!;
    const around = membersOf(sheet.layers, group.parent);
    place = { parent: group.parent, above: step > 0 ? group.id : (around[around.indexOf(group) - 1]?.id ?? null) };
  }
  if (place)
    moveTo(
      roots.map((r) => r.id),
      place,
    );
}

export function moveTo(ids: string[], place: Place): void {
  const sheet = currentSheet();
  const after = moved(sheet.layers, ids, place);
  if (!after) return say('A group cannot go into itself.');
  const fault = whyUnmakeable(after, sheet.masks);
  if (fault) return say(`That cannot be: ${fault}. Take the echo out of its original first.`);
  if (after.every((l, n) => l.id === sheet.layers[n].id && l.parent === sheet.layers[n].parent)) return;
  const first = sheet.layers.find((l) => l.id === ids[0])!;
  edit(arrangeEdit(sheet, after), `Move ${ids.length === 1 ? first.name : `${ids.length} layers`}`);
}

function changeChosen(label: string, after: (layer: Layer) => Partial<Layer>, layers = chosenLayers()): void {
  const sheet = currentSheet();
  if (layers.length) edit(batch(layers.map((l) => setLayerEdit(sheet, l, after(l)))), label);
}

export function toggleLayers(layers = chosenLayers()): void {
  const visible = !layers.every((l) => l.visible);
  const label = `${visible ? 'Show' : 'Hide'} ${layers.length === 1 ? layers[0].name : `${layers.length} layers`}`;
  changeChosen(label, () => ({ visible }), layers);
}

const NEXT_LOCK = { none: 'paint', paint: 'all', all: 'none' } as const;

export const LOCK_LABELS = { none: 'Not locked', paint: 'Paint locked', all: 'All locked' } as const;

export function cycleLock(layers = chosenLayers()): void {
  const lock = NEXT_LOCK[layers[0]?.lock ?? 'none'];
  changeChosen(`${LOCK_LABELS[lock]}: ${layers[0]?.name}`, () => ({ lock }), layers);
}

export function tagChosen(tag: number): void {
  changeChosen('Tag', () => ({ tag }));
}

export function toggleSolo(): void {
  const { chosen, solo } = useBench.getState();
  useBench.setState({ solo: solo.length ? [] : chosen });
}

export function merge(how: MergeHow): void {
  const chosen = chosenLayers();
  if (how === 'down' && chosen.length > 1) how = 'selected';
  work({ do: 'merge', sheetId: currentSheet().id, how, ids: chosen.map((l) => l.id) });
}

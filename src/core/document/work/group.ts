/** Groups are made and opened up. */
import { arrangeEdit, batch, type Edit } from '../edits';
import type { Layer, Sheet } from '../schema';
import { indexOfPlace, membersOf, moved, outermost, type Place } from '../tree';

/** Puts chosen layers into a new group in their place. */
export function groupLayers(sheet: Sheet, group: Layer, ids: readonly string[]): Edit {
  const roots = outermost(sheet.layers, ids);
  const top = roots.at(-1);
  const place: Place = top ? { parent: top.parent, above: top.id } : { parent: null, above: sheet.layers.at(-1)?.id ?? null };
  const index = indexOfPlace(sheet.layers, place);
  const withGroup = sheet.layers.toSpliced(index, 0, { ...group, parent: place.parent });
  const add: Edit = { type: 'add-layer', sheetId: sheet.id, index, layer: { ...group, parent: place.parent } };
  if (roots.length === 0) return add;
  const after = moved(
    withGroup,
    roots.map((r) => r.id),
    { parent: group.id, above: null },
  )!;
  return batch([add, arrangeEdit({ ...sheet, layers: withGroup }, after)]);
}

/** The members take the group's place. */
export function ungroupLayers(sheet: Sheet, groupId: string): Edit {
  const group = sheet.layers.find((l) => l.id === groupId)!;
  const members = membersOf(sheet.layers, groupId).map((l) => l.id);
  const after = moved(sheet.layers, members, { parent: group.parent, above: groupId })!;
  const index = after.findIndex((l) => l.id === groupId);
  return batch([arrangeEdit(sheet, after), { type: 'remove-layer', sheetId: sheet.id, index, layer: group }]);
}

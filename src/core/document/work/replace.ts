/** One edit from one state of a piece to another, whatever lies between: for what cannot be retraced step by step. */
import { batch, reshapeEdit, setPieceEdit, setSheetEdit, type Edit } from '../edits';
import type { Piece, Sheet } from '../schema';

/** Throws where the two are not states of one piece: other sheets, or another model. */
export function replaceEdit(from: Piece, to: Piece): Edit {
  const sheets = from.sheets.map((sheet, n): [Sheet, Sheet] => [sheet, to.sheets[n]]);
  if (from.sheets.length !== to.sheets.length || sheets.some(([a, b]) => a.id !== b.id) || !same(from.model, to.model))
    throw new Error('These are not two states of one piece.');
  const edits: Edit[] = [];
  const piece = changedFields(from, to, ['id', 'version', 'kind', 'sheets', 'model']);
  if (Object.keys(piece).length) edits.push(setPieceEdit(from, piece));
  for (const [a, b] of sheets) edits.push(...replaceSheet(a, b));
  return batch(edits);
}

function replaceSheet(from: Sheet, to: Sheet): Edit[] {
  const edits: Edit[] = [];
  const sheetId = from.id;
  const layers = !same(from.layers, to.layers);
  const masks = !same(from.masks, to.masks);
  // From the end, and in order: each edit finds its place.
  if (layers)
    for (const [index, layer] of [...from.layers.entries()].toReversed())
      edits.push({ type: 'remove-layer', sheetId, index, layer });
  if (masks)
    for (const [index, mask] of [...from.masks.entries()].toReversed()) edits.push({ type: 'remove-mask', sheetId, index, mask });
  const { width, height } = to;
  if (width !== from.width || height !== from.height) edits.push(reshapeEdit(from, { width, height }));
  const rest = changedFields(from, to, ['id', 'layers', 'masks', 'width', 'height']);
  if (Object.keys(rest).length) edits.push(setSheetEdit(from, rest));
  if (masks) for (const [index, mask] of to.masks.entries()) edits.push({ type: 'add-mask', sheetId, index, mask });
  if (layers) for (const [index, layer] of to.layers.entries()) edits.push({ type: 'add-layer', sheetId, index, layer });
  return edits;
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

function changedFields<T extends object>(from: T, to: T, without: readonly (keyof T & string)[]): Partial<T> {
  const changed = Object.entries(to).filter(
    ([key, value]) => !(without as readonly string[]).includes(key) && !same(value, from[key as keyof T]),
  );
  return Object.fromEntries(changed) as Partial<T>;
}

/**
 * An edit is data with an inverse. `applyEdit` never changes its input; `invertEdit` gives the edit that
 * brings the document back, byte for byte. Pixels travel beside an edit as tile changes (tile/tiles.ts).
 */
import { z } from 'zod';
import {
  findSheet,
  layerSchema,
  maskOfStep,
  maskSchema,
  pieceSchema,
  sheetSchema,
  type Layer,
  type Mask,
  type Piece,
  type Sheet,
} from './schema';
import { arranged, arrangementOf } from './tree';

const index = z.number().int().min(0);
const patch = z.record(z.string(), z.unknown());
const arrangement = z.array(z.tuple([z.string(), z.string().nullable()]));

const simpleEdit = z.discriminatedUnion('type', [
  z.object({ type: z.literal('add-layer'), sheetId: z.string(), index, layer: layerSchema }),
  z.object({ type: z.literal('remove-layer'), sheetId: z.string(), index, layer: layerSchema }),
  /** Order and nesting of all layers of a sheet. */
  z.object({ type: z.literal('arrange'), sheetId: z.string(), before: arrangement, after: arrangement }),
  z.object({ type: z.literal('set-layer'), sheetId: z.string(), layerId: z.string(), before: patch, after: patch }),
  z.object({ type: z.literal('add-mask'), sheetId: z.string(), index, mask: maskSchema }),
  z.object({ type: z.literal('remove-mask'), sheetId: z.string(), index, mask: maskSchema }),
  z.object({ type: z.literal('set-mask'), sheetId: z.string(), maskId: z.string(), before: patch, after: patch }),
  /** Size and what goes with it; the pixels travel beside. */
  z.object({ type: z.literal('reshape-sheet'), sheetId: z.string(), before: patch, after: patch }),
  z.object({ type: z.literal('set-sheet'), sheetId: z.string(), before: patch, after: patch }),
  z.object({ type: z.literal('set-piece'), before: patch, after: patch }),
  /** Pixels only: the document stays as it is. */
  z.object({ type: z.literal('paint'), sheetId: z.string(), layerId: z.string() }),
]);
type SimpleEdit = z.infer<typeof simpleEdit>;

export const editSchema = z.union([simpleEdit, z.object({ type: z.literal('batch'), edits: z.array(simpleEdit).max(10_000) })]);
export type Edit = SimpleEdit | { type: 'batch'; edits: SimpleEdit[] };

/** Thrown when an edit does not fit the document it is applied to: misuse, not bad input. */
export class EditMismatch extends Error {}

function withSheet(piece: Piece, sheetId: string, change: (sheet: Sheet) => Sheet): Piece {
  findSheet(piece, sheetId);
  return { ...piece, sheets: piece.sheets.map((s) => (s.id === sheetId ? change(s) : s)) };
}

/** Fields that a patch may set: those of the record, whether or not this one was written when they existed. */
const FIELDS = {
  layer: new Set(Object.keys(layerSchema.shape)),
  mask: new Set(Object.keys(maskSchema.shape)),
  sheet: new Set(Object.keys(sheetSchema.shape)),
  piece: new Set(Object.keys(pieceSchema.shape)),
};

function merged<T extends object>(target: T, kind: keyof typeof FIELDS, after: Record<string, unknown>, forbidden: string[]): T {
  for (const key of forbidden) if (key in after) throw new EditMismatch(`"${key}" cannot be set by a patch`);
  const next: Record<string, unknown> = { ...(target as Record<string, unknown>) };
  for (const [key, value] of Object.entries(after)) {
    if (!FIELDS[kind].has(key)) throw new EditMismatch(`unknown field "${key}"`);
    next[key] = value;
  }
  return next as T;
}

function layerAt(sheet: Sheet, at: number, id: string): void {
  if (sheet.layers[at]?.id !== id) throw new EditMismatch(`layer "${id}" is not at ${at} in sheet "${sheet.id}"`);
}

export function applyEdit(piece: Piece, edit: Edit): Piece {
  switch (edit.type) {
    case 'batch':
      return edit.edits.reduce<Piece>((p, e) => applyEdit(p, e), piece);
    case 'add-layer':
      return withSheet(piece, edit.sheetId, (s) => {
        if (edit.index > s.layers.length) throw new EditMismatch(`no place ${edit.index} in sheet "${s.id}"`);
        return { ...s, layers: s.layers.toSpliced(edit.index, 0, edit.layer) };
      });
    case 'remove-layer':
      return withSheet(piece, edit.sheetId, (s) => {
        layerAt(s, edit.index, edit.layer.id);
        return { ...s, layers: s.layers.toSpliced(edit.index, 1) };
      });
    case 'arrange':
      return withSheet(piece, edit.sheetId, (s) => {
        if (JSON.stringify(arrangementOf(s.layers)) !== JSON.stringify(edit.before))
          throw new EditMismatch(`the layers of sheet "${s.id}" are in another order`);
        const ids = (order: typeof edit.before) =>
          order
            .map(([id]) => id)
            .toSorted()
            .join();
        if (ids(edit.before) !== ids(edit.after)) throw new EditMismatch('an arrangement keeps all layers');
        return { ...s, layers: arranged(s.layers, edit.after) };
      });
    case 'set-layer':
      return withSheet(piece, edit.sheetId, (s) => {
        if (!s.layers.some((l) => l.id === edit.layerId)) throw new EditMismatch(`no layer "${edit.layerId}"`);
        return {
          ...s,
          layers: s.layers.map((l) => (l.id === edit.layerId ? merged(l, 'layer', edit.after, ['id', 'kind', 'parent']) : l)),
        };
      });
    case 'add-mask':
      return withSheet(piece, edit.sheetId, (s) => ({ ...s, masks: s.masks.toSpliced(edit.index, 0, edit.mask) }));
    case 'remove-mask':
      return withSheet(piece, edit.sheetId, (s) => {
        if (s.masks[edit.index]?.id !== edit.mask.id) throw new EditMismatch(`mask "${edit.mask.id}" is not at ${edit.index}`);
        return { ...s, masks: s.masks.toSpliced(edit.index, 1) };
      });
    case 'set-mask':
      return withSheet(piece, edit.sheetId, (s) => {
        if (!s.masks.some((m) => m.id === edit.maskId)) throw new EditMismatch(`no mask "${edit.maskId}"`);
        return { ...s, masks: s.masks.map((m) => (m.id === edit.maskId ? merged(m, 'mask', edit.after, ['id']) : m)) };
      });
    case 'reshape-sheet':
      return withSheet(piece, edit.sheetId, (s) => merged(s, 'sheet', edit.after, ['id', 'layers', 'masks', 'maps', 'ownMaps']));
    case 'set-sheet':
      return withSheet(piece, edit.sheetId, (s) => merged(s, 'sheet', edit.after, ['id', 'layers', 'masks', 'width', 'height']));
    case 'set-piece':
      return merged(piece, 'piece', edit.after, ['id', 'version', 'kind', 'sheets', 'model']);
    case 'paint':
      findSheet(piece, edit.sheetId);
      return piece;
  }
}

export function invertEdit(edit: Edit): Edit {
  switch (edit.type) {
    case 'batch':
      return { type: 'batch', edits: edit.edits.map((e) => invertEdit(e) as SimpleEdit).reverse() };
    case 'add-layer':
      return { ...edit, type: 'remove-layer' };
    case 'remove-layer':
      return { ...edit, type: 'add-layer' };
    case 'add-mask':
      return { ...edit, type: 'remove-mask' };
    case 'remove-mask':
      return { ...edit, type: 'add-mask' };
    case 'arrange':
      return { ...edit, before: edit.after, after: edit.before };
    case 'set-layer':
    case 'set-mask':
    case 'reshape-sheet':
    case 'set-sheet':
    case 'set-piece':
      return { ...edit, before: edit.after, after: edit.before };
    case 'paint':
      return edit;
  }
}

/** Applies and validates: for edits that come from outside (the server's door). */
export function applyEditChecked(piece: Piece, edit: Edit): { ok: true; value: Piece } | { ok: false; message: string } {
  try {
    const next = applyEdit(piece, edit);
    const valid = pieceSchema.safeParse(next);
    if (valid.success) return { ok: true, value: valid.data };
    return { ok: false, message: `The edit would damage the piece: ${valid.error.issues[0].message}.` };
  } catch (error) {
    return { ok: false, message: `The edit does not fit the piece: ${(error as Error).message}.` };
  }
}

/** What the fields of a patch are now. */
function fieldsOf<T extends object>(target: T, after: Partial<T>): Record<string, unknown> {
  return Object.fromEntries(Object.keys(after).map((key) => [key, target[key as keyof T]]));
}

/** An edit that sets some fields of a layer, remembering what they were. */
export function setLayerEdit(sheet: Sheet, layer: Layer, after: Partial<Layer>): Edit {
  return { type: 'set-layer', sheetId: sheet.id, layerId: layer.id, before: fieldsOf(layer, after), after };
}

export function setMaskEdit(sheet: Sheet, mask: Mask, after: Partial<Mask>): Edit {
  return { type: 'set-mask', sheetId: sheet.id, maskId: mask.id, before: fieldsOf(mask, after), after };
}

export function setSheetEdit(sheet: Sheet, after: Partial<Sheet>): Edit {
  return { type: 'set-sheet', sheetId: sheet.id, before: fieldsOf(sheet, after), after };
}

export function setPieceEdit(piece: Piece, after: Partial<Piece>): Edit {
  return { type: 'set-piece', before: fieldsOf(piece, after), after };
}

/** Size and what goes with it; the pixels travel beside. */
export function reshapeEdit(sheet: Sheet, after: Partial<Sheet>): Edit {
  return { type: 'reshape-sheet', sheetId: sheet.id, before: fieldsOf(sheet, after), after };
}

export function arrangeEdit(sheet: Sheet, after: readonly Layer[]): Edit {
  return { type: 'arrange', sheetId: sheet.id, before: arrangementOf(sheet.layers), after: arrangementOf(after) };
}

/** Several edits as one step of the trail; batches inside it are opened. */
export function batch(edits: readonly Edit[]): Edit {
  return { type: 'batch', edits: edits.flatMap((e) => (e.type === 'batch' ? e.edits : [e])) };
}

/** What the trail says about an edit. */
export function describeEdit(edit: Edit, piece: Piece): string {
  const layerName = (id: string) =>
    piece.sheets.flatMap((s) => [...s.layers, ...s.masks]).find((l) => l.id === id)?.name ??
    piece.sheets.map((s) => maskOfStep(s, id)).find((m) => m)?.name ??
    'a layer';
  switch (edit.type) {
    case 'batch':
      return edit.edits.length ? describeEdit(edit.edits[0], piece) : 'Nothing';
    case 'add-layer':
      return `Add ${edit.layer.name}`;
    case 'remove-layer':
      return `Delete ${edit.layer.name}`;
    case 'arrange':
      return 'Move layers';
    case 'add-mask':
      return `Add the mask ${edit.mask.name}`;
    case 'remove-mask':
      return `Delete the mask ${edit.mask.name}`;
    case 'set-mask':
      return `Mask: ${Object.keys(edit.after).join(', ')}`;
    case 'reshape-sheet':
      return `Sheet: ${Object.keys(edit.after).join(', ')}`;
    case 'set-layer':
      return `${layerName(edit.layerId)}: ${Object.keys(edit.after).join(', ')}`;
    case 'set-sheet':
      return `Sheet: ${Object.keys(edit.after).join(', ')}`;
    case 'set-piece':
      return `Piece: ${Object.keys(edit.after).join(', ')}`;
    case 'paint':
      return `Stroke on ${layerName(edit.layerId)}`;
  }
}

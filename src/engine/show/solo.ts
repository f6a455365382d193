/** Showing some layers alone, without touching the document. */
import type { Piece, Sheet } from '../../core/document/schema';
import { ancestors, block } from '../../core/document/tree';

/** Everything but the chosen layers, what is in them and the groups around them is hidden. Kept by sheet: equal input, the same object. */
const made = new WeakMap<Sheet, { key: string; sheet: Sheet }>();

export function soloed(piece: Piece, ids: readonly string[]): Piece {
  if (ids.length === 0) return piece;
  const chosen = new Set(ids);
  return { ...piece, sheets: piece.sheets.map((s) => (s.layers.some((l) => chosen.has(l.id)) ? soloedSheet(s, chosen) : s)) };
}

function soloedSheet(sheet: Sheet, chosen: ReadonlySet<string>): Sheet {
  const key = [...chosen].join();
  const known = made.get(sheet);
  if (known?.key === key) return known.sheet;
  const shown = new Set(
    [...chosen].flatMap((id) => [...ancestors(sheet.layers, id), ...block(sheet.layers, id)].map((l) => l.id)),
  );
  const layers = sheet.layers.map((l) => (shown.has(l.id) ? l : { ...l, visible: false }));
  const out = { ...sheet, layers };
  made.set(sheet, { key, sheet: out });
  return out;
}

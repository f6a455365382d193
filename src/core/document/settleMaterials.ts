/**
 * Which material of its model each sheet lies on, for documents that do not name it yet (before version 7). Their models were stored
 * with the materials in the order of first use, while sheets were numbered as the file had them, so that a sheet may lie on the wrong
 * material. A sheet was named after its material when it was made: that is how they are told apart.
 */
import type { Model } from '../mesh/model';
import { freeName } from './factory';
import { cleanName } from './names';
import { LIMITS, type Piece, type Sheet } from './schema';

/**
 * `model`: as it is stored with the piece. Sheets that name their material already stay as they are. What has
 * changed, and what cannot be told, becomes a notice of the piece. The same piece where there is nothing to settle. `again`: this was
 * tried before, so what still cannot be told is not said once more.
 */
export function settleMaterials(piece: Piece, model: Pick<Model, 'materials'>, { again = false } = {}): Piece {
  const materials = model.materials.map((m) => m.name);
  const open = piece.sheets.filter((s) => s.materialIndex !== null && s.materialName === null);
  if (!open.length) return piece;
  const taken = new Set(
    piece.sheets.filter((s) => s.materialName !== null && s.materialIndex !== null).map((s) => s.materialIndex!),
  );
  const free = materials.map((_, m) => m).filter((m) => !taken.has(m));
  const found = byName(open, materials, free);
  const left = free.filter((m) => ![...found.values()].includes(m));
  const unnamed = open.filter((s) => !found.has(s.id));
  if (unnamed.length === 1 && left.length === 1) found.set(unnamed.splice(0, 1)[0].id, left[0]);
  const stays = [...found].every(([id, m]) => open.find((s) => s.id === id)!.materialIndex === m);
  // Every sheet that can be told lies on its own material already, so the numbers of the others are taken to be right too.
  const sound = found.size > 0 && stays && unnamed.every((s) => left.includes(s.materialIndex!));
  const placed = placedFreely(unnamed, left);
  const moved: Sheet[] = [];
  const sheets = piece.sheets.map((sheet) => {
    if (!open.includes(sheet)) return sheet;
    const told = found.get(sheet.id) ?? (sound ? sheet.materialIndex! : undefined);
    const index = told ?? placed.get(sheet.id)!;
    if (index !== sheet.materialIndex) moved.push(sheet);
    return { ...sheet, materialIndex: index, materialName: told === undefined ? null : (materials[told] ?? null) };
  });
  if (again && sheets.every((s, n) => s.materialName === piece.sheets[n].materialName)) return piece;
  const notices = [...new Set([...piece.notices, ...sentences(moved, sound ? [] : unnamed)])].slice(-LIMITS.maxNotices);
  return { ...piece, sheets, notices };
}

const NAMED = 6;
const quoted = (sheets: readonly Sheet[]): string =>
  sheets
    .slice(0, NAMED)
    .map((s) => `"${s.name}"`)
    .join(', ') + (sheets.length > NAMED ? ` and ${sheets.length - NAMED} more` : '');

function sentences(moved: readonly Sheet[], unsure: readonly Sheet[]): string[] {
  const certain = moved.filter((s) => !unsure.includes(s));
  return [
    ...(certain.length
      ? [
          `${quoted(certain)} lay on another material of the model than the one named so, through a fault of earlier versions: each lies on its own now, with its paint.`,
        ]
      : []),
    ...(unsure.length
      ? [
          `Which materials of the model ${quoted(unsure)} belong to cannot be told: if paint lies on a wrong part, cut its layers there and paste them on the other sheet.`,
        ]
      : []),
  ];
}

/** Sheets whose name is that of one material only, and of no other sheet's material. */
function byName(open: readonly Sheet[], materials: readonly string[], free: readonly number[]): Map<string, number> {
  const found = new Map<string, number>();
  for (const sheet of open) {
    const like = free.filter((m) => cleanName(materials[m]) === sheet.name);
    // Of materials with equal names the sheets are "Steel", "Steel 2", …: which is which cannot be told.
    if (like.length === 1 && open.filter((s) => s.name === sheet.name).length === 1) found.set(sheet.id, like[0]);
  }
  return found;
}

/** Each sheet keeps its material if no other sheet has it, else it gets the first free one. */
function placedFreely(sheets: readonly Sheet[], left: readonly number[]): Map<string, number> {
  const rest = new Set(left);
  const placed = new Map<string, number>();
  for (const { id, materialIndex } of sheets) if (rest.delete(materialIndex!)) placed.set(id, materialIndex!);
  for (const { id, materialIndex } of sheets) {
    if (placed.has(id)) continue;
    const [next = materialIndex!] = rest;
    rest.delete(next);
    placed.set(id, next);
  }
  return placed;
}

/** The names of the sheets that are made for these materials, in order. */
export function sheetNames(materials: readonly string[]): string[] {
  const names: string[] = [];
  for (const name of materials) names.push(freeName(cleanName(name), names));
  return names;
}

/** The names of the files that a dispatch writes, before anything is rendered. */
import type { Piece, Sheet } from '../document/schema';
import { fileSafe } from '../text';
import { chosenSheets, PATTERN_FIELDS, type DispatchOptions } from './options';
import { offersOf, outputKind } from './outputs';

export interface PlannedFile {
  name: string;
  /** Of the output (outputs/). */
  id: string;
  /** null: one file for the whole piece; it has no size in texels. */
  sheet: Sheet | null;
  width: number;
  height: number;
}

export type Plan = { ok: true; files: PlannedFile[] } | { ok: false; message: string };

export function planDispatch(piece: Piece, options: DispatchOptions): Plan {
  const unknown = [...options.pattern.matchAll(/\{([^}]*)\}/g)].find(
    ([, f]) => !(PATTERN_FIELDS as readonly string[]).includes(f),
  );
  if (unknown)
    return {
      ok: false,
      message: `The naming pattern has "${unknown[0]}", which stands for nothing: use ${PATTERN_FIELDS.map((f) => `{${f}}`).join(', ')}.`,
    };
  if (/[/\\]/.test(options.pattern))
    return { ok: false, message: 'The naming pattern cannot contain slashes: the files go into one folder.' };
  const files: PlannedFile[] = [];
  const sheets = chosenSheets(piece, options);
  if (sheets.length === 0) return { ok: false, message: 'No sheet is chosen: choose at least one.' };
  if (options.maps.length === 0) return { ok: false, message: 'No map is chosen: choose at least one, or the GLB.' };
  const strange = options.maps.find((id) => !outputKind(id));
  if (strange !== undefined) {
    const there = offersOf(piece).map((o) => o.id);
    return { ok: false, message: `There is no map "${strange}": there are ${there.join(', ')}.` };
  }
  const sides = (side: number) => Math.max(1, Math.round(side / options.divide));
  for (const sheet of sheets)
    for (const id of new Set(options.maps)) {
      const kind = outputKind(id)!;
      if (kind.per !== 'sheet' || !(kind.sheetHas?.(id, sheet) ?? true)) continue;
      const [width, height] = [sides(sheet.width), sides(sheet.height)];
      const fields: Record<string, string> = {
        piece: piece.name,
        sheet: sheet.name,
        map: kind.word?.(id, sheet) ?? id,
        width: String(width),
        height: String(height),
      };
      const stem = options.pattern.replace(/\{([^}]*)\}/g, (_, f: string) => fileSafe(fields[f]));
      files.push({ name: `${stem.replace(/[^A-Za-z0-9_.-]+/g, '-')}.png`, sheet, id, width, height });
    }
  for (const id of new Set(options.maps)) {
    const kind = outputKind(id)!;
    if (kind.per === 'piece')
      files.push({ name: `${fileSafe(piece.name)}.${kind.ending}`, sheet: null, id, width: 0, height: 0 });
  }
  const names = new Set<string>();
  for (const { name } of files) {
    if (names.has(name))
      return { ok: false, message: `Two files would be named ${name}: put {sheet} and {map} into the pattern.` };
    names.add(name);
  }
  return { ok: true, files };
}

/** What a dispatch writes: options, and the names of the files, computed before anything is rendered. */
import { z } from 'zod';
import { isMapId, MAP_IDS, mapInfo, type MapId } from '../kinds/maps';
import type { Piece, Sheet } from '../document/schema';

export const OUTPUT_MAPS = [...MAP_IDS, 'orm'] as const;
/** Any map, or the packed one. `normal` is what height and the normal map make together. */
export type OutputMap = MapId | 'orm';

export const isOutputMap = (text: string): text is OutputMap => text === 'orm' || isMapId(text);

export function outputLabel(map: OutputMap, piece: Piece): string {
  if (map === 'orm') return 'Occlusion · roughness · metallic in one';
  const { label } = mapInfo(
    map,
    piece.sheets.flatMap((s) => s.ownMaps),
  );
  return map === 'normal' ? 'Normal, with what height makes' : label;
}

/** What a piece can deliver: the maps of its sheets, the normal and the packed one. */
export function outputsOf(piece: Piece): OutputMap[] {
  const carried = new Set(piece.sheets.flatMap((s) => s.maps));
  const own = [...carried].filter((m) => m.startsWith('own-'));
  return [...MAP_IDS.filter((m) => carried.has(m) || m === 'normal'), ...own, 'orm'];
}

export const PATTERN_FIELDS = ['piece', 'sheet', 'map', 'width', 'height'] as const;

export const dispatchSchema = z.object({
  /** Sheet ids; empty means all. */
  sheets: z.array(z.string()).default([]),
  maps: z
    .array(z.custom<OutputMap>((v) => typeof v === 'string' && isOutputMap(v), 'an unknown map'))
    .default(['base-colour', 'normal', 'roughness', 'metallic']),
  /** Full size divided by this. */
  divide: z.union([z.literal(1), z.literal(2), z.literal(4), z.literal(8)]).default(1),
  bits: z.union([z.literal(8), z.literal(16)]).default(8),
  /** 8 bit only: what lies between two codes becomes a fine pattern of both instead of a step. */
  dither: z.boolean().default(false),
  normalY: z.enum(['up', 'down']).default('up'),
  /** Texels of the delivered size around each island that repeat the island's border. */
  margin: z.number().int().min(0).max(64).default(16),
  pattern: z.string().min(1).max(120).default('{piece}_{sheet}_{map}'),
  glb: z.boolean().default(false),
});
export type DispatchOptions = z.infer<typeof dispatchSchema>;

export interface PlannedFile {
  name: string;
  sheet: Sheet;
  map: OutputMap;
  width: number;
  height: number;
}

/** Letters, digits, dash and underscore: safe in every file system and engine. */
export function fileSafe(text: string): string {
  return (
    text
      .normalize('NFKD')
      .replace(/[\u0300-\u036f]/g, '')
      .replace(/[^A-Za-z0-9_-]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .toLowerCase() || 'untitled'
  );
}

export function chosenSheets(piece: Piece, options: DispatchOptions): Sheet[] {
  return options.sheets.length ? piece.sheets.filter((s) => options.sheets.includes(s.id)) : piece.sheets;
}

export type Plan = { ok: true; files: PlannedFile[]; glbName: string | null } | { ok: false; message: string };

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
  if (options.maps.length === 0 && !options.glb)
    return { ok: false, message: 'No map is chosen: choose at least one, or the GLB.' };
  for (const sheet of sheets)
    for (const map of options.maps) {
      // A map of one's own belongs to the sheets that carry it.
      if (map.startsWith('own-') && !sheet.maps.includes(map as MapId)) continue;
      const width = Math.max(1, Math.round(sheet.width / options.divide));
      const height = Math.max(1, Math.round(sheet.height / options.divide));
      const fields: Record<string, string> = {
        piece: piece.name,
        sheet: sheet.name,
        map: map.startsWith('own-') ? mapInfo(map as MapId, sheet.ownMaps).label : map,
        width: String(width),
        height: String(height),
      };
      const stem = options.pattern.replace(/\{([^}]*)\}/g, (_, f: string) => fileSafe(fields[f]));
      files.push({ name: `${stem.replace(/[^A-Za-z0-9_.-]+/g, '-')}.png`, sheet, map, width, height });
    }
  const names = new Set<string>();
  for (const { name } of files) {
    if (names.has(name))
      return { ok: false, message: `Two files would be named ${name}: put {sheet} and {map} into the pattern.` };
    names.add(name);
  }
  return { ok: true, files, glbName: options.glb ? `${fileSafe(piece.name)}.glb` : null };
}

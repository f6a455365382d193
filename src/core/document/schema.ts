/**
 * The document: everything about a piece except its pixels and its mesh, which are kept as
 * content-addressed blobs beside it. Type, validator, version and migrations live here together.
 */
import { z } from 'zod';
import { BLEND_IDS } from '../colour/blend';
import { MAP_IDS, type MapId } from './maps';

export const DOCUMENT_VERSION = 2;

/** Limits are explicit so that a hostile file is refused with a sentence, not by running out of memory. */
export const LIMITS = {
  minSize: 16,
  maxSize: 8192,
  maxSheets: 32,
  maxLayers: 10_000,
  maxNameLength: 120,
  maxPalette: 256,
} as const;

const unit = z.number().min(0).max(1);
const id = z.string().regex(/^[A-Za-z0-9_-]{1,40}$/, 'ids are 1 to 40 letters, digits, - or _');
export const nameSchema = z
  .string()
  .trim()
  .min(1, 'A name needs at least one character.')
  .max(LIMITS.maxNameLength, `A name can be ${LIMITS.maxNameLength} characters long.`)
  // Names become file names on the way out, and slashes would become folders.
  .refine((s) => !/[/\\\u0000-\u001f]/.test(s), 'A name cannot contain slashes or control characters.');

export const cellSchema = z.object({
  on: z.boolean(),
  /** What a coat lays down: RGB in the sRGB curve, or one value. Painted layers have none. */
  value: z.array(unit).min(1).max(3).optional(),
  /** Overrides the layer's blend mode for this map. */
  blend: z.enum(BLEND_IDS).optional(),
});
export type Cell = z.infer<typeof cellSchema>;

const cells = z.partialRecord(z.enum(MAP_IDS), cellSchema);

export const LAYER_KINDS = ['painted', 'coat'] as const;
export const layerSchema = z
  .object({
    id,
    kind: z.enum(LAYER_KINDS),
    name: nameSchema,
    visible: z.boolean(),
    opacity: unit,
    blend: z.enum(BLEND_IDS),
    cells,
  })
  .superRefine((layer, ctx) => {
    for (const [map, cell] of Object.entries(layer.cells)) {
      const channels = map === 'base-colour' ? 3 : 1;
      if (layer.kind === 'coat' && cell?.value?.length !== channels)
        ctx.addIssue({
          code: 'custom',
          path: ['cells', map, 'value'],
          message: `a coat on ${map} needs ${channels} number${channels > 1 ? 's' : ''}`,
        });
    }
  });
export type Layer = z.infer<typeof layerSchema>;
export type LayerKind = Layer['kind'];

const dimension = z
  .number()
  .int()
  .min(LIMITS.minSize, `A canvas side is at least ${LIMITS.minSize} texels.`)
  .max(LIMITS.maxSize, `A canvas side is at most ${LIMITS.maxSize} texels.`);

export const sheetSchema = z.object({
  id,
  name: nameSchema,
  width: dimension,
  height: dimension,
  /** Bits that the finished maps are meant for. Stored pixels are always 16 bit. */
  depth: z.union([z.literal(8), z.literal(16)]),
  wrapU: z.boolean(),
  wrapV: z.boolean(),
  /** Material slot of the model that this sheet covers; null on a canvas. */
  materialIndex: z.number().int().min(0).nullable(),
  maps: z.array(z.enum(MAP_IDS)).min(1),
  /** Full height range (value 0 to 1) as a fraction of the sheet's width; drives the computed normal. */
  heightSpan: z.number().min(0).max(0.2),
  /** How the preview draws the material where it is see-through (glass). */
  preview: z.object({ alpha: unit, doubleSided: z.boolean() }),
  /** Bottom first. */
  layers: z.array(layerSchema).max(LIMITS.maxLayers),
});
export type Sheet = z.infer<typeof sheetSchema>;

export const pieceSchema = z
  .object({
    version: z.literal(DOCUMENT_VERSION),
    id,
    name: nameSchema,
    kind: z.enum(['model', 'canvas']),
    /** The mesh: hash of its GLB, and which UV set is painted. */
    model: z.object({ blob: z.string(), uvSet: z.number().int().min(0).max(7) }).nullable(),
    sheets: z.array(sheetSchema).min(1).max(LIMITS.maxSheets),
    /** sRGB hex, for example "#b87333". */
    palette: z.array(z.string().regex(/^#[0-9a-f]{6}$/)).max(LIMITS.maxPalette),
    hiddenParts: z.array(z.string()),
    /** How often a canvas repeats on the preview plane. */
    planeRepeats: z.number().int().min(1).max(16),
  })
  .superRefine((piece, ctx) => {
    if ((piece.kind === 'model') !== (piece.model !== null))
      ctx.addIssue({ code: 'custom', path: ['model'], message: 'a model piece has a mesh, a canvas has none' });
    const seen = new Set<string>();
    for (const sheet of piece.sheets)
      for (const key of [sheet.id, ...sheet.layers.map((l) => l.id)]) {
        if (seen.has(key)) ctx.addIssue({ code: 'custom', path: ['sheets'], message: `the id "${key}" is used twice` });
        seen.add(key);
      }
  });
export type Piece = z.infer<typeof pieceSchema>;

type Raw = Record<string, unknown>;
/** migrations[n] turns a document of version n into version n + 1. */
const migrations: Record<number, (old: Raw) => Raw> = {
  // Version 1 kept the height range in texels; as a fraction it survives a change of size.
  1: (old) => ({
    ...old,
    version: 2,
    sheets: (Array.isArray(old.sheets) ? old.sheets : []).map((s: Raw) => {
      const { heightTexels, ...rest } = s;
      return { ...rest, heightSpan: Number(heightTexels ?? 16) / Number(s.width ?? 1024) };
    }),
  }),
};

export type Parsed<T> = { ok: true; value: T } | { ok: false; message: string };

/** Reads a document of any known version. Never throws: what is wrong comes back as one sentence. */
export function parsePiece(input: unknown): Parsed<Piece> {
  if (typeof input !== 'object' || input === null || Array.isArray(input))
    return { ok: false, message: 'This is not a Brindle document: a JSON object was expected.' };
  let raw = input as Raw;
  let version = raw.version;
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1)
    return { ok: false, message: 'This is not a Brindle document: it carries no version number.' };
  if (version > DOCUMENT_VERSION)
    return {
      ok: false,
      message: `This document has version ${version}, newer than this Brindle reads (${DOCUMENT_VERSION}): update Brindle to open it.`,
    };
  while (version < DOCUMENT_VERSION) {
    raw = migrations[version](raw);
    version++;
  }
  const result = pieceSchema.safeParse(raw);
  if (result.success) return { ok: true, value: result.data };
  const issue = result.error.issues[0];
  return { ok: false, message: `The document is damaged at ${issue.path.join('.') || 'its root'}: ${issue.message}.` };
}

export function findSheet(piece: Piece, sheetId: string): Sheet {
  const sheet = piece.sheets.find((s) => s.id === sheetId);
  if (!sheet) throw new Error(`No sheet "${sheetId}" in piece "${piece.id}"`);
  return sheet;
}

export function findLayer(sheet: Sheet, layerId: string): Layer | undefined {
  return sheet.layers.find((l) => l.id === layerId);
}

/** The name of the pixel plane that holds what was painted on one map of one layer. */
export function planeKey(layerId: string, map: MapId): string {
  return `${layerId}/${map}`;
}

export function parsePlaneKey(key: string): { layerId: string; map: MapId } {
  const slash = key.lastIndexOf('/');
  return { layerId: key.slice(0, slash), map: key.slice(slash + 1) as MapId };
}

/**
 * The document: everything about a piece except its pixels and its mesh, which are kept as
 * content-addressed blobs beside it. Type, validator, version and migrations live here together.
 */
import { STEPS } from '../kinds/steps';
import { z } from 'zod';
import { issueInWords } from '../issue';
import { swatchSchema } from '../colour/palette';
import { isOwnMap, type OwnMap } from '../kinds/maps';
import {
  LIMITS,
  fenceSchema,
  keptFenceSchema,
  layerSchema,
  maskSchema,
  nameSchema,
  picturesUsed,
  pictureSchema,
  type Fence,
  type Layer,
  type Mask,
  type Picture,
} from './layer';
import { id, mapId, unit } from '../kinds/fields';
import { pinSchema } from './pin';
import { keptStencilSchema } from './stencil';
import { MODEL_LIMITS } from '../mesh/model';
import { whyUnmakeable, strayLayer } from './tree';

export * from './layer';

export const DOCUMENT_VERSION = 7;

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
  /** Name of that material in the model; null: not known, as in documents before version 7 (settleMaterials.ts). */
  materialName: z.string().max(MODEL_LIMITS.maxNameLength).nullable().default(null),
  maps: z.array(mapId).min(1).max(LIMITS.maxMaps),
  /** Names of the sheet's own grayscale masks among `maps`. */
  ownMaps: z
    .array(
      z.object({
        id: z.custom<OwnMap['id']>((v) => typeof v === 'string' && isOwnMap(v)),
        name: nameSchema,
      }),
    )
    .max(LIMITS.maxMaps)
    .default([]),
  /** Full height range (value 0 to 1) as a fraction of the sheet's width; drives the computed normal. */
  heightSpan: z.number().min(0).max(0.2),
  /** Texels across that the slope of the height is taken from; wider is smoother. */
  normalKernel: z.union([z.literal(3), z.literal(5), z.literal(7), z.literal(9)]).default(3),
  /** How the preview draws the material where it is see-through (glass). */
  preview: z.object({ alpha: unit, doubleSided: z.boolean() }),
  /** Bottom first; the members of a group come right before it (tree.ts). */
  layers: z.array(layerSchema).max(LIMITS.maxLayers, `a sheet holds up to ${LIMITS.maxLayers} layers`),
  masks: z.array(maskSchema).max(LIMITS.maxMasks).default([]),
  /** Pictures that coats and masks place on the sheet. */
  pictures: z.array(pictureSchema).max(LIMITS.maxPictures, `a sheet holds up to ${LIMITS.maxPictures} pictures`).default([]),
  /** What limits where paint may go, switched on or off; null: there is none yet. */
  fence: z.object({ on: z.boolean(), fence: fenceSchema }).nullable().default(null),
  fences: z.array(keptFenceSchema).max(LIMITS.maxFences, `a sheet keeps up to ${LIMITS.maxFences} fences`).default([]),
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
    /** Paint keeps to the palette at hand. */
    onlyPalette: z.boolean().default(false),
    /** Palettes that are kept under a name; `palette` is the one at hand. */
    palettes: z
      .array(z.object({ id, name: nameSchema, swatches: z.array(swatchSchema).min(1).max(LIMITS.maxPalette) }))
      .max(LIMITS.maxPalettes, `a piece keeps up to ${LIMITS.maxPalettes} palettes`)
      .default([]),
    hiddenParts: z.array(z.string()),
    /** Faces of the model that are hidden by themselves: from … to, both included, rising. */
    hiddenFaces: z
      .array(z.tuple([z.number().int().min(0), z.number().int().min(0)]))
      .max(LIMITS.maxFaceRanges)
      .default([]),
    /** Reference pictures, the last on top. */
    pins: z.array(pinSchema).max(LIMITS.maxPins, `a pinboard holds up to ${LIMITS.maxPins} pictures`).default([]),
    /** Stencils that are at hand. */
    stencils: z
      .array(keptStencilSchema)
      .max(LIMITS.maxStencils, `a piece keeps up to ${LIMITS.maxStencils} stencils`)
      .default([]),
    /** Messages about changes that the application made to this piece, shown until the artist dismisses them. */
    notices: z.array(z.string().max(LIMITS.maxNote)).max(LIMITS.maxNotices).default([]),
    /** How often a canvas repeats on the preview plane. */
    planeRepeats: z.number().int().min(1).max(16),
  })
  .superRefine((piece, ctx) => {
    if ((piece.kind === 'model') !== (piece.model !== null))
      ctx.addIssue({ code: 'custom', path: ['model'], message: 'a model piece has a mesh, a canvas has none' });
    const seen = new Set<string>();
    const wrong = (message: string) => ctx.addIssue({ code: 'custom', path: ['sheets'], message });
    for (const sheet of piece.sheets) {
      // The first painted step of a mask goes by the mask's own id.
      const steps = sheet.masks.flatMap((m) => m.steps.map((s) => s.id).filter((s) => s !== m.id));
      const ids = [sheet, ...sheet.layers, ...sheet.masks, ...sheet.pictures].map((r) => r.id);
      for (const key of [...ids, ...steps]) {
        if (seen.has(key)) wrong(`the id "${key}" is used twice`);
        seen.add(key);
      }
      const pictures = new Set(sheet.pictures.map((p) => p.id));
      for (const used of picturesUsed(sheet.layers, [...sheet.masks, ...fencesOf(sheet)]))
        if (!pictures.has(used)) wrong(`the picture "${used}" is asked for, but is not there`);
      if (new Set(sheet.maps).size !== sheet.maps.length) wrong(`"${sheet.name}" lists a map twice`);
      for (const map of sheet.maps)
        if (isOwnMap(map) && !sheet.ownMaps.some((o) => o.id === map)) wrong(`the map "${map}" has no name`);
      const stray = strayLayer(sheet.layers);
      if (stray) wrong(stray);
      const masks = new Set(sheet.masks.map((m) => m.id));
      for (const l of sheet.layers)
        if (l.mask && !masks.has(l.mask.id)) wrong(`"${l.name}" asks for the mask "${l.mask.id}", which is not there`);
      const fault = stray ? null : whyUnmakeable(sheet.layers, sheet.masks);
      if (fault) wrong(fault);
    }
  });
export type Piece = z.infer<typeof pieceSchema>;
export type KeptPalette = Piece['palettes'][number];

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
  // Version 2 had a flat list of layers, and called the adding of height offsets `add`. Fields that are new in
  // version 3 have defaults in the schema.
  2: (old) => ({
    ...old,
    version: 3,
    sheets: (Array.isArray(old.sheets) ? old.sheets : []).map((s: Raw) => ({
      ...s,
      layers: Array.isArray(s.layers) ? s.layers.map(offsetForAdd) : s.layers,
    })),
  }),
  // Version 3 had painted masks only; what was painted is the one step of a recipe now.
  3: (old) => ({
    ...eachMask(old, (m) => ({ ...m, steps: m.steps ?? [{ id: m.id, source: { type: 'paint' } }] })),
    version: 4,
  }),
  // What is new in version 5 (fences, hidden faces) has defaults in the schema.
  4: (old) => ({ ...old, version: 5 }),
  // What is new in version 6 (bakes, steps of the model's shape) has defaults in the schema.
  5: (old) => ({ ...old, version: 6 }),
  // Sheets name their material from version 7 on. What is stored with its model is settled where both are at hand.
  6: (old) => ({ ...old, version: 7 }),
};

/** In every mask of a raw document. */
function eachMask(old: Raw, change: (mask: Raw) => Raw): Raw {
  return {
    ...old,
    sheets: (Array.isArray(old.sheets) ? old.sheets : []).map((s: Raw) => ({
      ...s,
      masks: Array.isArray(s.masks) ? s.masks.map((m: Raw) => (typeof m === 'object' && m ? change(m) : m)) : s.masks,
    })),
  };
}

function offsetForAdd(layer: Raw): Raw {
  const cells = Object.entries((layer?.cells as Record<string, Raw>) ?? {}).map(([map, cell]) => [
    map,
    cell?.blend === 'add' ? { ...cell, blend: 'offset' } : cell,
  ]);
  return { ...layer, blend: layer?.blend === 'add' ? 'offset' : layer?.blend, cells: Object.fromEntries(cells) as Raw };
}

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
    try {
      raw = migrations[version](raw);
    } catch {
      return {
        ok: false,
        message: `This document of version ${version} is damaged: what that version has is not all there. Export the piece again.`,
      };
    }
    version++;
  }
  const result = pieceSchema.safeParse(raw);
  if (result.success) return { ok: true, value: result.data };
  return { ok: false, message: `The document is damaged ${issueInWords(result.error)}.` };
}

export function findSheet(piece: Piece, sheetId: string): Sheet {
  const sheet = piece.sheets.find((s) => s.id === sheetId);
  if (!sheet) throw new Error(`No sheet "${sheetId}" in piece "${piece.id}"`);
  return sheet;
}

export function findLayer(sheet: Sheet, layerId: string): Layer | undefined {
  return sheet.layers.find((l) => l.id === layerId);
}

export function findMask(sheet: Sheet, maskId: string): Mask | undefined {
  return sheet.masks.find((m) => m.id === maskId);
}

export const findPicture = (sheet: Pick<Sheet, 'pictures'>, pictureId: string): Picture | undefined =>
  sheet.pictures.find((p) => p.id === pictureId);

/** A picture of any of a piece's sheets. */
export const pictureOf = (piece: Pick<Piece, 'sheets'>, id: string): Picture | undefined =>
  piece.sheets.flatMap((s) => s.pictures).find((p) => p.id === id);

/** All fences of a sheet: the one that is at hand, and those that are kept. */
export const fencesOf = ({ fence, fences }: Pick<Sheet, 'fence' | 'fences'>): Fence[] => [
  ...(fence ? [fence.fence] : []),
  ...fences.map((kept) => kept.fence),
];

/** The mask that a painted step belongs to. */
export const maskOfStep = (sheet: Sheet, stepId: string): Mask | undefined =>
  sheet.masks.find((m) => m.steps.some((s) => s.id === stepId && STEPS[s.source.type].painted));

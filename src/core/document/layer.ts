/** The record of a layer and of a mask: types, validators and limits. Part of the document (schema.ts). */
import { z } from 'zod';
import { BLEND_IDS } from '../colour/blend';
import { filterSchema } from '../strata/filters';
import { isMapId, valueChannels, type MapId } from './maps';

/** Limits are explicit so that a hostile file is refused with a sentence, not by running out of memory. */
export const LIMITS = {
  minSize: 16,
  maxSize: 8192,
  maxSheets: 32,
  maxLayers: 10_000,
  maxDepth: 32,
  maxMasks: 1000,
  maxMaps: 24,
  maxNameLength: 120,
  maxNote: 2000,
  maxPalette: 256,
  maxFilters: 8,
} as const;

export const unit = z.number().min(0).max(1);
export const id = z.string().regex(/^[A-Za-z0-9_-]{1,40}$/, 'ids are 1 to 40 letters, digits, - or _');
export const mapId = z.custom<MapId>((v) => typeof v === 'string' && isMapId(v), 'an unknown map');
export const nameSchema = z
  .string()
  .trim()
  .min(1, 'A name needs at least one character.')
  .max(LIMITS.maxNameLength, `A name can be ${LIMITS.maxNameLength} characters long.`)
  // Names become file names on the way out, and slashes would become folders.
  .refine((s) => !/[/\\\u0000-\u001f]/.test(s), 'A name cannot contain slashes or control characters.');

export const cellSchema = z.object({
  on: z.boolean(),
  /** What a coat lays down: colour in the sRGB curve, a direction, or one value. Painted layers have none. */
  value: z.array(unit).min(1).max(3).optional(),
  /** Name of the picture that a coat lays down instead of its value; its pixels are a plane like paint. */
  picture: nameSchema.optional(),
  /** Times the layer's; 1 if left out. */
  opacity: unit.optional(),
  /** Overrides the layer's blend mode for this map. */
  blend: z.enum(BLEND_IDS).optional(),
});
export type Cell = z.infer<typeof cellSchema>;

export const LAYER_KINDS = ['painted', 'coat', 'group', 'adjust', 'echo'] as const;
export const TAGS = 7;

export const echoSchema = z.object({
  /** Id of the layer or group that is repeated. */
  of: id,
  /** The map of it that is taken. */
  from: mapId,
  /** Members that weigh differently here: 0 is left out, 1 as is, up to 2 emphasised. */
  members: z.record(id, z.number().min(0).max(2)).default({}),
  /** What is done to it on the way. */
  filters: z.array(filterSchema).max(LIMITS.maxFilters).default([]),
});
export type Echo = z.infer<typeof echoSchema>;

export const layerSchema = z
  .object({
    id,
    kind: z.enum(LAYER_KINDS),
    name: nameSchema,
    /** Id of the group that it is in. */
    parent: id.nullable().default(null),
    visible: z.boolean(),
    opacity: unit,
    blend: z.enum(BLEND_IDS),
    cells: z.record(mapId, cellSchema) as unknown as z.ZodType<Partial<Record<MapId, Cell>>>,
    mask: z.object({ id, on: z.boolean() }).nullable().default(null),
    /** `paint`: its pixels are safe. `all`: nothing about it changes. */
    lock: z.enum(['none', 'paint', 'all']).default('none'),
    /** 0: none. 1 to 6: one of the tag colours. */
    tag: z
      .number()
      .int()
      .min(0)
      .max(TAGS - 1)
      .default(0),
    note: z.string().max(LIMITS.maxNote).default(''),
    /** Groups: members blend with what lies below the group, not among themselves first. */
    passThrough: z.boolean().default(false),
    /** Adjust layers. */
    filter: filterSchema.nullable().default(null),
    /** Echo layers. */
    echo: echoSchema.nullable().default(null),
  })
  .superRefine((layer, ctx) => {
    const wrong = (path: string[], message: string) => ctx.addIssue({ code: 'custom', path, message });
    for (const [map, cell] of Object.entries(layer.cells)) {
      const channels = valueChannels(map as MapId);
      if (layer.kind === 'coat' && cell?.value?.length !== channels)
        wrong(['cells', map, 'value'], `a coat on ${map} needs ${channels} number${channels > 1 ? 's' : ''}`);
    }
    if ((layer.kind === 'adjust') !== (layer.filter !== null)) wrong(['filter'], 'adjust layers, and only they, have a filter');
    if ((layer.kind === 'echo') !== (layer.echo !== null)) wrong(['echo'], 'echo layers, and only they, have an original');
  });
export type Layer = z.infer<typeof layerSchema>;

/** A painted mask; several layers may use one. Its paint is the plane `planeKey(id, 'mask')`. */
export const maskSchema = z.object({
  id,
  name: nameSchema,
  /** What it is where nothing is painted: 0 hides, 1 shows. */
  ground: unit,
  invert: z.boolean().default(false),
});
export type Mask = z.infer<typeof maskSchema>;

/** What a mask lets through where nothing is painted. */
export const maskGround = ({ ground, invert }: Pick<Mask, 'ground' | 'invert'>): number => (invert ? 1 - ground : ground);

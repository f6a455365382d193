/** The record of a layer and of a mask: types, validators and limits. Part of the document (schema.ts). */
import { z } from 'zod';
import { BLEND_IDS } from '../colour/blend';
import { filterSchema } from '../kinds/filters';
import { bakeRecordSchema } from '../kinds/bakes/record';
import { id, mapId, pictureUseSchema, unit } from '../kinds/fields';
import { greySchema } from '../kinds/grey';
import { placementSchema } from '../kinds/placement';
import { madeSchema } from '../kinds/sources';
import { LAYER_KINDS, layerFaults } from '../kinds/layers';
import { valueChannels, type MapId } from '../kinds/maps';
import { STEPS, stepSourceSchema } from '../kinds/steps';
import type { Asking } from '../kinds/steps/step';
import { MODEL_LIMITS } from '../mesh/model';

/** Limits are explicit so that a hostile file is refused with a sentence, not by running out of memory. */
export const LIMITS = {
  minSize: 16,
  maxSize: 8192,
  /** One a material. */
  maxSheets: MODEL_LIMITS.maxMaterials,
  maxLayers: 10_000,
  maxDepth: 32,
  /** Layers that are gone through to make one of them. A hundred thousand take minutes to evaluate. */
  maxWork: 100_000,
  maxMasks: 1000,
  maxMaps: 24,
  maxNameLength: 120,
  maxNote: 2000,
  maxNotices: 8,
  maxPalette: 256,
  maxPalettes: 64,
  maxPins: 100,
  maxFilters: 8,
  maxSteps: 24,
  maxPictures: 256,
  maxFences: 100,
  maxStencils: 64,
  maxFaceRanges: 100_000,
  /** Texels. */
  maxSoften: 64,
  /** Pictures larger than this are made smaller when they come in. */
  maxPictureSide: 4096,
  maxStops: 16,
} as const;

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
  /** A picture that lies where the layer's placement puts it. */
  placed: pictureUseSchema.optional(),
  /** What the layer's source becomes where it is 0; `value` is where it is 1. Without it the source does not reach this map. */
  low: z.array(unit).min(1).max(3).optional(),
  /** Colours: what the source becomes, by rising place; in place of `low` and `value`. */
  ramp: z
    .array(z.object({ at: unit, colour: z.tuple([unit, unit, unit]) }))
    .min(1)
    .max(LIMITS.maxStops)
    .optional(),
  /** Times the layer's; 1 if left out. */
  opacity: unit.optional(),
  /** Overrides the layer's blend mode for this map. */
  blend: z.enum(BLEND_IDS).optional(),
});
export type Cell = z.infer<typeof cellSchema>;

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
  /** Colour into a value: which number of it. */
  by: greySchema.default('luminance'),
  /** A value into a normal: how steep (1: as the sheet's own relief) and how many texels are looked at across. */
  relief: z
    .object({ strength: z.number().min(-20).max(20), kernel: z.union([z.literal(3), z.literal(5), z.literal(7), z.literal(9)]) })
    .default({ strength: 1, kernel: 3 }),
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
    /** Coats: a rule that spreads the cells between their `low` and their `value`. */
    source: madeSchema.nullable().default(null),
    /** Coats: how the source and the placed pictures lie; null: plainly over the sheet. */
    placement: placementSchema.nullable().default(null),
  })
  .superRefine((layer, ctx) => {
    const wrong = (path: string[], message: string) => ctx.addIssue({ code: 'custom', path, message });
    for (const { path, message } of layerFaults(layer)) wrong(path, message);
    for (const [map, cell] of Object.entries(layer.cells)) {
      const channels = valueChannels(map as MapId);
      if (cell?.low && cell.low.length !== channels)
        wrong(['cells', map, 'low'], `the low end of a coat on ${map} needs ${channels} number${channels > 1 ? 's' : ''}`);
    }
  });
export type Layer = z.infer<typeof layerSchema>;

export const STEP_BLENDS = [
  'normal',
  'multiply',
  'screen',
  'add',
  'subtract',
  'lighten',
  'darken',
  'overlay',
  'difference',
  'exclusion',
  'divide',
] as const;
export type StepBlend = (typeof STEP_BLENDS)[number];

export const stepSchema = z.object({
  id,
  on: z.boolean().default(true),
  source: stepSourceSchema,
  blend: z.enum(STEP_BLENDS).default('normal'),
  amount: unit.default(1),
  invert: z.boolean().default(false),
  /** What is done to its values before they are laid over the steps below. */
  filters: z.array(filterSchema).max(LIMITS.maxFilters).default([]),
});
export type Step = z.infer<typeof stepSchema>;

/** A mask: steps laid over a ground, from the first to the last. Several layers may use one. */
export const maskSchema = z.object({
  id,
  name: nameSchema,
  /** What it is before any step: 0 hides, 1 shows. */
  ground: unit,
  invert: z.boolean().default(false),
  steps: z.array(stepSchema).max(LIMITS.maxSteps, `a mask has up to ${LIMITS.maxSteps} steps`).default([]),
});
export type Mask = z.infer<typeof maskSchema>;

/**
 * A fence: what limits where paint may go, made of the same steps as a mask. 1 lets through, 0 keeps clean. `soften`: texels
 * from its edge inwards over which it rises.
 */
export const fenceSchema = z.object({
  ground: unit.default(0),
  invert: z.boolean().default(false),
  soften: z.number().min(0).max(LIMITS.maxSoften).default(0),
  steps: z
    .array(stepSchema)
    .max(LIMITS.maxSteps, `a fence has up to ${LIMITS.maxSteps} steps`)
    .refine((steps) => !steps.some((s) => STEPS[s.source.type].painted), 'a fence has no paint of its own: make it of a mask')
    .default([]),
});
export type Fence = z.infer<typeof fenceSchema>;

/** A fence that is kept under a name. */
export const keptFenceSchema = z.object({ id, name: nameSchema, fence: fenceSchema });
export type KeptFence = z.infer<typeof keptFenceSchema>;

/** What a painted mask lets through where nothing is painted. */
export const maskGround = ({ ground, invert }: Pick<Mask, 'ground' | 'invert'>): number => (invert ? 1 - ground : ground);

/** The paint of a mask that is only painted, as version 3 had them: the step goes by the mask's own id. */
export const paintStep = (stepId: string): Step => stepSchema.parse({ id: stepId, source: { type: 'paint' } });

/** The step of a mask that strokes go to: the last painted one. */
export const paintedStep = (mask: Pick<Mask, 'steps'>): Step | undefined =>
  mask.steps.findLast((s) => STEPS[s.source.type].painted);

/** A picture of the sheet; its pixels are the plane `planeKey(id, 'picture')`, RGBA. */
export const pictureSchema = z.object({
  id,
  name: nameSchema,
  width: z.number().int().min(1).max(LIMITS.maxPictureSide),
  height: z.number().int().min(1).max(LIMITS.maxPictureSide),
  /** `srgb`: a colour; `linear`: values as they are. */
  encoding: z.enum(['srgb', 'linear']),
  /** How it was baked from the model; left out: it came in as it is. */
  bake: bakeRecordSchema.optional(),
});
export type Picture = z.infer<typeof pictureSchema>;

/** What a step is made from beside its own settings. */
export const asksOf = ({ source }: Pick<Step, 'source'>): Asking => STEPS[source.type].asks?.(source) ?? {};

/** Every picture that a layer, a mask or a fence uses. */
export function picturesUsed(layers: readonly Layer[], masks: readonly Pick<Mask, 'steps'>[]): Set<string> {
  const out = new Set<string>();
  for (const l of layers) for (const cell of Object.values(l.cells)) if (cell?.placed) out.add(cell.placed.picture);
  for (const m of masks) for (const s of m.steps) for (const p of asksOf(s).pictures ?? []) out.add(p);
  return out;
}

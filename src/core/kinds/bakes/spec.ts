/** All that a bake hangs on, as plain data: equal specs give equal bytes, whoever bakes. */
import { z } from 'zod';
import { bakeSettingsSchema } from '.';

/** What changes the pixels of bakes without a change of their settings raises it: nothing baked before is then taken for the same. */
export const BAKE_VERSION = 2;

const hash = z.string().regex(/^[0-9a-f]{64}$/, 'an address is 64 hexadecimal digits');
export const supersampleSchema = z.union([z.literal(1), z.literal(2), z.literal(4), z.literal(8)]);

const matrix = z.array(z.number()).length(16);

/** A grey picture over the sheet, kept on the server by its content; `mask`: of which of the sheet's masks it was made. */
export const shareSchema = z.object({ file: hash, mask: z.string().max(64).default('') });

/** How a dense twin is used. Reaches are shares of the model's size. */
export const twinUseSchema = z.object({
  /** Address and name of its file. */
  file: hash,
  name: z.string().min(1).max(200),
  outward: z.number().min(0).max(2).default(0.02),
  inward: z.number().min(0).max(2).default(0.02),
  /** 0: along directions averaged over hard edges, without gaps; 1: along the model's own normals, without slant. */
  split: z.number().min(0).max(1).default(0),
  /** How much of both reaches counts, place by place. null: all of them. */
  reachBy: shareSchema.nullable().default(null),
  /** Takes the place of `split`, place by place. */
  splitBy: shareSchema.nullable().default(null),
  /** `whole`: all of it; `names`: of each part, that of the twin whose name begins with it; `pairs`: as they are chosen. */
  match: z.enum(['whole', 'names', 'pairs']).default('whole'),
  pairs: z
    .array(z.tuple([z.string().max(200), z.string().max(200)]))
    .max(4096)
    .default([]),
  /** Moves the twin onto the model, column by column; null: it lies there already. */
  place: matrix.nullable().default(null),
});
export type TwinUse = z.infer<typeof twinUseSchema>;

export const bakeSpecSchema = z
  .object({
    version: z.literal(BAKE_VERSION),
    /** Address of the model's GLB. */
    model: hash,
    uvSet: z.number().int().min(0).max(7),
    material: z.number().int().min(0),
    width: z.number().int().min(16).max(4096),
    height: z.number().int().min(16).max(4096),
    supersample: supersampleSchema,
    settings: bakeSettingsSchema,
    twin: twinUseSchema.nullable(),
  })
  .refine((s) => s.twin === null || s.twin.outward + s.twin.inward > 0, {
    message: 'the dense model is looked for neither outwards nor inwards: raise one of the reaches',
  });
export type BakeSpec = z.infer<typeof bakeSpecSchema>;

/** Addresses of the grey pictures that a bake reads. */
export const sharesOf = ({ twin }: Pick<BakeSpec, 'twin'>): string[] =>
  [twin?.reachBy, twin?.splitBy].flatMap((s) => (s ? [s.file] : []));

/** The same text for the same spec, however it was put together. */
export function specText(spec: BakeSpec): string {
  const sorted = (v: unknown): unknown =>
    Array.isArray(v)
      ? v.map(sorted)
      : typeof v === 'object' && v !== null
        ? Object.fromEntries(
            Object.entries(v)
              .sort(([a], [b]) => (a < b ? -1 : 1))
              .map(([k, x]) => [k, sorted(x)]),
          )
        : v;
  return JSON.stringify(sorted(bakeSpecSchema.parse(spec)));
}

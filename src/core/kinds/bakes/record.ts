/** What a picture of a sheet keeps of how it was baked. */
import { z } from 'zod';
import { bakeSettingsSchema } from '.';
import { supersampleSchema, twinUseSchema } from './spec';

export const bakeRecordSchema = z.object({
  settings: bakeSettingsSchema,
  supersample: supersampleSchema.default(1),
  twin: twinUseSchema.nullable().default(null),
  /** The text of the spec that its pixels were made from; `file`: they were baked elsewhere; empty: there are none yet. */
  made: z.string().max(100_000).default(''),
  /** Texels that met nothing of the twin. */
  missed: z.number().int().min(0).default(0),
});
export type BakeRecord = z.infer<typeof bakeRecordSchema>;

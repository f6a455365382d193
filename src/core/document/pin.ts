/** The pinboard: reference pictures beside the work. Their bytes lie on the server, by content; here is how they hang. */
import { z } from 'zod';
import { id, unit } from '../kinds/fields';
import { LIMITS, nameSchema } from './layer';

/** Pictures are kept this large at most. */
export const MOST_PIN_SIDE = 4096;

const place = z.number().min(-1e6).max(1e6);

export const pinSchema = z.object({
  id,
  name: nameSchema,
  /** SHA-256 of its bytes. */
  picture: z.string().regex(/^[0-9a-f]{64}$/),
  /** Of the picture, in pixels. */
  width: z.number().int().min(1).max(MOST_PIN_SIDE),
  height: z.number().int().min(1).max(MOST_PIN_SIDE),
  /** Its upper left corner and how many times its size it is, on the board. */
  x: place,
  y: place,
  scale: z.number().min(0.005).max(50),
  flip: z.boolean().default(false),
  grey: z.boolean().default(false),
  /** 0: sharp. 1: only its largest masses are seen. */
  blur: unit.default(0),
  note: z.string().max(LIMITS.maxNote).default(''),
});
export type Pin = z.infer<typeof pinSchema>;

/** Pointer samples: where the pen was, and how. What strokes are made of, and what is picked as a source. */
import { z } from 'zod';
import { unit } from '../kinds/fields';

const finite = z.number().refine(Number.isFinite, 'a finite number');
const vector = z.tuple([finite, finite, finite]);
const pen = { pressure: unit.default(1), tiltX: finite.default(0), tiltY: finite.default(0), time: finite.default(0) };

export const sampleSchema = z.discriminatedUnion('pane', [
  z.object({
    pane: z.literal('model'),
    /** View ray in world space. */
    origin: vector,
    direction: vector,
    /** Metres that one screen pixel spans at one metre from the eye. */
    pixelSpread: z.number().positive().default(0.001),
    /** Where the screen's right is, unit, in world space; left out: level with the ground. */
    right: vector.optional(),
    ...pen,
  }),
  z.object({
    pane: z.literal('flat'),
    /** Texels from the top left of the sheet; may lie outside where the sheet wraps. */
    x: finite,
    y: finite,
    texelsPerPixel: z.number().positive().default(1),
    ...pen,
  }),
]);
export type Sample = z.infer<typeof sampleSchema>;
export type ModelSample = Extract<Sample, { pane: 'model' }>;
export type FlatSample = Extract<Sample, { pane: 'flat' }>;

/** Where a tool takes from. */
export const sourceSchema = z.object({
  /** The place that was picked, in either pane. */
  at: sampleSchema,
  /**
   * The place of the first stroke since it was picked, which `at` belongs to: later strokes take from as far beside it as
   * they are beside this one. Left out: each stroke begins at `at`.
   */
  from: sampleSchema.optional(),
});
export type Source = z.infer<typeof sourceSchema>;

/** A straight mix of two samples of the same pane. */
export function mixSamples(a: Sample, b: Sample, t: number): Sample {
  const mix = (p: number, q: number) => p + (q - p) * t;
  const rest = {
    pressure: mix(a.pressure, b.pressure),
    tiltX: mix(a.tiltX, b.tiltX),
    tiltY: mix(a.tiltY, b.tiltY),
    time: mix(a.time, b.time),
  };
  if (a.pane === 'flat' && b.pane === 'flat')
    return { pane: 'flat', x: mix(a.x, b.x), y: mix(a.y, b.y), texelsPerPixel: mix(a.texelsPerPixel, b.texelsPerPixel), ...rest };
  if (a.pane === 'model' && b.pane === 'model') {
    const v = (p: number[], q: number[]): [number, number, number] => [mix(p[0], q[0]), mix(p[1], q[1]), mix(p[2], q[2])];
    return {
      pane: 'model',
      origin: v(a.origin, b.origin),
      direction: v(a.direction, b.direction),
      pixelSpread: mix(a.pixelSpread, b.pixelSpread),
      ...(a.right && b.right && { right: v(a.right, b.right) }),
      ...rest,
    };
  }
  throw new Error('A stroke stays in the pane it began in');
}

/** Distance between two samples in screen pixels, about. */
export function pixelDistance(a: Sample, b: Sample): number {
  if (a.pane === 'flat' && b.pane === 'flat') return Math.hypot(a.x - b.x, a.y - b.y) / b.texelsPerPixel;
  if (a.pane === 'model' && b.pane === 'model') {
    const d = Math.hypot(a.direction[0] - b.direction[0], a.direction[1] - b.direction[1], a.direction[2] - b.direction[2]);
    return d / b.pixelSpread;
  }
  return Infinity;
}

/** Pointer samples: where the pen was, and how. What strokes are made of, and what is picked as a source. */
import { z } from 'zod';
import { id, unit } from '../kinds/fields';

/** Far beyond any sheet, however often it repeats, and any model; near enough for distances to be worked out. */
const MOST_TEXELS = 1e7;
const MOST_METRES = 1e9;
/** Milliseconds: thirty years. */
const MOST_TIME = 1e12;

const within = (most: number) => z.number().min(-most).max(most);
const texels = within(MOST_TEXELS);
const metres = z.tuple([within(MOST_METRES), within(MOST_METRES), within(MOST_METRES)]);
const direction = z.tuple([within(1e6), within(1e6), within(1e6)]);
const pen = {
  pressure: unit.default(1),
  tiltX: within(360).default(0),
  tiltY: within(360).default(0),
  time: within(MOST_TIME).default(0),
};

export const sampleSchema = z.discriminatedUnion('pane', [
  z.object({
    pane: z.literal('model'),
    /** View ray in world space. */
    origin: metres,
    direction,
    /** Metres that one screen pixel spans at one metre from the eye. */
    pixelSpread: z.number().min(1e-9).max(1e3).default(0.001),
    /** Where the screen's right is, unit, in world space; left out: level with the ground. */
    right: direction.optional(),
    ...pen,
  }),
  z.object({
    pane: z.literal('flat'),
    /** Texels from the top left of the sheet; may lie outside where the sheet wraps. */
    x: texels,
    y: texels,
    texelsPerPixel: z.number().min(1e-6).max(1e6).default(1),
    /** Radians by which the sheet was turned under the pen, clockwise: tips stay as they are on the screen. Left out: upright. */
    turn: within(1e3).optional(),
    /** Left and right of the screen had changed places, after it was turned. Left out: they had not. */
    flip: z.literal(true).optional(),
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
  /** A picture of the sheet that it takes from instead of the sheet: `at` is a place of it, in its own texels. */
  picture: id.optional(),
});
export type Source = z.infer<typeof sourceSchema>;

const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
const mixed = (a: readonly number[], b: readonly number[], t: number): [number, number, number] => [
  mix(a[0], b[0], t),
  mix(a[1], b[1], t),
  mix(a[2], b[2], t),
];

/** A straight mix of two samples of the same pane. */
export function mixSamples(a: Sample, b: Sample, t: number): Sample {
  const rest = {
    pressure: mix(a.pressure, b.pressure, t),
    tiltX: mix(a.tiltX, b.tiltX, t),
    tiltY: mix(a.tiltY, b.tiltY, t),
    time: mix(a.time, b.time, t),
  };
  if (a.pane === 'flat' && b.pane === 'flat')
    return {
      ...{ pane: 'flat', x: mix(a.x, b.x, t), y: mix(a.y, b.y, t) },
      texelsPerPixel: mix(a.texelsPerPixel, b.texelsPerPixel, t),
      ...(b.turn !== undefined && { turn: b.turn }),
      ...(b.flip && { flip: b.flip }),
      ...rest,
    };
  if (a.pane === 'model' && b.pane === 'model') {
    return {
      pane: 'model',
      origin: mixed(a.origin, b.origin, t),
      direction: mixed(a.direction, b.direction, t),
      pixelSpread: mix(a.pixelSpread, b.pixelSpread, t),
      ...(a.right && b.right && { right: mixed(a.right, b.right, t) }),
      ...rest,
    };
  }
  throw new Error('A stroke stays in the pane it began in');
}

/**
 * A sample between `b` and `c` on the parabola (in time) through `a`, `b` and `c`. `share`: of the time from b to c. `abMs`, `bcMs`: the two
 * durations. Pressure and the other fields are interpolated linearly.
 */
export function bentSample(a: Sample, b: Sample, c: Sample, abMs: number, bcMs: number, share: number): Sample {
  const mixed = mixSamples(b, c, share);
  const by = (share * (share - 1) * bcMs * bcMs) / (abMs + bcMs);
  const bent = (x: number, y: number, z: number) => by * ((z - y) / bcMs - (y - x) / abMs);
  if (a.pane === 'flat' && b.pane === 'flat' && c.pane === 'flat' && mixed.pane === 'flat')
    return { ...mixed, x: mixed.x + bent(a.x, b.x, c.x), y: mixed.y + bent(a.y, b.y, c.y) };
  if (a.pane === 'model' && b.pane === 'model' && c.pane === 'model' && mixed.pane === 'model') {
    const along = (of: 'origin' | 'direction') =>
      mixed[of].map((v, k) => v + bent(a[of][k], b[of][k], c[of][k])) as [number, number, number];
    return { ...mixed, origin: along('origin'), direction: along('direction') };
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

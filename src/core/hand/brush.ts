/** Brush settings and pointer samples: the data that a stroke is made of, for the bench and for recorded strokes. */
import { z } from 'zod';
import { unit } from '../kinds/fields';
import { isMapId, type PlaneMap } from '../kinds/maps';
import { mirrorSchema } from './mirror';
import { textureSchema } from './texture';
import { tipSchema } from './tip';
import { TOOL_TYPES } from './tools';
import { MOST_LINES, varySchema } from './vary';

export const RECORDING_LIMITS = { maxStrokes: 100_000, maxSamples: 100_000 } as const;

export const MOST_DABS = 16;

export const writeSchema = z.object({
  on: z.boolean(),
  /** RGB in the sRGB curve, or one value 0..1 (height: 0.5 is level). */
  value: z.array(unit).min(1).max(3),
  /** How much of the stroke's coverage this map gets. */
  amount: unit,
});

export type Write = z.infer<typeof writeSchema>;

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

/** Recordings of before brushes had lines: pressure was two switches. */
function withLines(input: unknown): unknown {
  if (typeof input !== 'object' || input === null || 'vary' in input) return input;
  const { pressureSize = true, pressureOpacity = false, ...rest } = input as Record<string, unknown>;
  const byPressure = (what: string) => ({ what, by: 'pressure', amount: 1 });
  return {
    ...rest,
    vary: [...(pressureSize === true ? [byPressure('size')] : []), ...(pressureOpacity === true ? [byPressure('opacity')] : [])],
  };
}

const fields = z.object({
  /** Which tool strokes with it (tools/), and that tool's own settings. */
  mode: z.enum(TOOL_TYPES).default('paint'),
  settings: z.record(z.string().max(40), z.union([z.number(), z.string().max(40)])).default({}),
  /** Diameter: screen pixels, or millimetres on the model (a canvas counts as one metre wide). */
  size: z.number().min(0.1).max(4096).default(40),
  sizeUnit: z.enum(['screen', 'model']).default('screen'),
  /** 0: soft from the centre on. 1: full up to the rim. */
  hardness: unit.default(0.7),
  flow: unit.default(0.6),
  /** No texel gets more than this in one stroke. */
  opacity: unit.default(1),
  /** Distance between dabs as a share of the diameter. */
  spacing: z.number().min(0.02).max(4).default(0.12),
  /** 0: the path is the pointer's. 1: it lags far behind and comes out very calm. */
  smoothing: unit.default(0.3),
  tip: tipSchema.default({ shape: 'round', roundness: 1, angle: 0, grid: false }),
  /** Breaks the tip up. Left out: nothing does. */
  texture: textureSchema.optional(),
  /** At every step so many dabs, which only chance tells apart. */
  dabs: z.number().int().min(1).max(MOST_DABS).default(1),
  /** Dabs a second while the pen rests; 0: none. */
  rate: z.number().min(0).max(60).default(0),
  /** The pen pulls the tip on a string of so many screen pixels; 0: there is none. */
  string: z.number().min(0).max(400).default(0),
  /** The other well, to which colours mix: RGB in the sRGB curve. Left out: the colour that is written. */
  second: z.array(unit).length(3).optional(),
  /** What varies, and by what. Left out: the size, by pressure. */
  vary: z.array(varySchema).max(MOST_LINES),
  /** Images of each dab. Left out: none. */
  mirror: mirrorSchema.optional(),
  /** `connected`: only the surface that hangs together under the dab. `all`: everything within the ball. */
  reach: z.enum(['connected', 'all']).default('connected'),
  /** Where the tool takes from, if it takes from elsewhere. */
  source: sourceSchema.optional(),
  /** By map; `mask` when a mask is painted. */
  writes: (
    z.record(
      z.custom<PlaneMap>((v) => typeof v === 'string' && (v === 'mask' || isMapId(v)), 'an unknown map'),
      writeSchema,
    ) as unknown as z.ZodType<Partial<Record<PlaneMap, Write>>>
  ).default({}),
});
export const brushSchema = z.preprocess(withLines, fields);
export type Brush = z.infer<typeof fields>;

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

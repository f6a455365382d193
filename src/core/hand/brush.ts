/** Brush settings and pointer samples: the data that a stroke is made of, for the bench and for recorded strokes. */
import { z } from 'zod';
import { MOST_COLOURS } from '../colour/palette';
import { unit } from '../kinds/fields';
import { isMapId, type PlaneMap } from '../kinds/maps';
import { fenceSchema } from '../document/layer';
import { stencilSchema } from '../document/stencil';
import { areaSchema } from './areas';
import { mirrorSchema } from './mirror';
import { sourceSchema } from './sample';
import { textureSchema } from './texture';
import { tipSchema } from './tip';
import { TOOLS, type ToolType } from './tools';
import { MOST_LINES, varySchema } from './vary';
import { viewSchema } from './view';

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
  mode: z.custom<ToolType>((v) => typeof v === 'string' && Object.hasOwn(TOOLS, v), 'an unknown tool').default('paint'),
  settings: z.record(z.string().max(40), z.union([z.number(), z.string().max(40)])).default({}),
  /** Diameter: screen pixels, millimetres on the model (a canvas counts as one metre wide), or texels of the sheet. */
  size: z.number().min(0.1).max(4096).default(40),
  sizeUnit: z.enum(['screen', 'model', 'texel']).default('screen'),
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
  /**
   * `connected`: only the surface that hangs together under the dab. `all`: everything within the ball. `seen`: what the eye
   * sees within the tip's outline in the pane, by `view`. `through`: what lies behind that too.
   */
  reach: z.enum(['connected', 'all', 'seen', 'through']).default('connected'),
  /** Where what is seen begins to fade as it turns away from the eye, as a cosine; 0: it does not. */
  grazing: unit.default(0.2),
  /** The eye of the model pane, where it matters: it stays where it is during a stroke. */
  view: viewSchema.optional(),
  /** Paint that is not a path of dabs: the samples are its points. */
  area: areaSchema.optional(),
  /** What lies between it and the work. */
  stencil: stencilSchema.optional(),
  /** What limits where paint may go. */
  fence: fenceSchema.optional(),
  /** Colours come out as the nearest of these, in full or not at all. Left out: as they are. */
  only: z
    .array(z.string().regex(/^#[0-9a-f]{6}$/))
    .min(1)
    .max(MOST_COLOURS)
    .optional(),
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

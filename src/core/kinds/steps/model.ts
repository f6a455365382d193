/** Steps that come of the model's own shape: its bakes, which way it faces, where along it, how far from somewhere. */
import { z } from 'zod';
import { sizeOf } from '../../mesh/model';
import type { Surface, SurfaceTexels } from '../../mesh/surface';
import { TILE_TEXELS } from '../../tile/tiles';
import { BAKES, type BakeType } from '../bakes';
import { axis, degrees, percent } from '../control';
import { unit } from '../fields';
import { broken, BROKEN_CONTROLS, brokenFields, EVEN } from './broken';
import type { StepDef } from './step';

const BAKE = { type: 'bake' as const, of: 'cavity' as BakeType, low: 0, high: 1, ...EVEN };
const bakeSchema = z.object({
  type: z.literal('bake'),
  of: z.custom<BakeType>((v) => typeof v === 'string' && Object.hasOwn(BAKES, v), 'an unknown bake'),
  /** The values that become 0 and 1; the first may be the higher one. */
  low: unit.default(BAKE.low),
  high: unit.default(BAKE.high),
  ...brokenFields,
});
export const bake: StepDef<z.infer<typeof bakeSchema>> = {
  type: 'bake',
  schema: bakeSchema,
  start: BAKE,
  controls: [percent('low', 'Black at'), percent('high', 'White at'), ...BROKEN_CONTROLS],
  presets: [
    {
      label: 'Cavities (grime)',
      hint: 'Grooves and inner corners, by the bake of cavities',
      settings: { ...BAKE, of: 'cavity', low: 0.1, high: 0.7, breakup: 0.3, contrast: 0.3 },
      added: 'cavities (grime)',
      mask: { label: 'Cavity grime', hint: 'In grooves and inner corners; cavities are baked for it' },
    },
    {
      label: 'Occlusion (dirt)',
      hint: 'Corners that little light reaches, by the bake of occlusion',
      settings: { ...BAKE, of: 'occlusion', low: 0.85, high: 0.3, breakup: 0.3, contrast: 0.2 },
      added: 'occlusion (dirt)',
      mask: { label: 'Dirt in corners', hint: 'Where little light reaches; occlusion is baked for it' },
    },
    {
      label: 'Thickness',
      hint: 'Thin places, by the bake of thickness',
      settings: { ...BAKE, of: 'thickness', low: 0.5, high: 0.05, breakup: 0, contrast: 0 },
      added: 'thickness',
    },
  ],
  needsModel: true,
  word: (p) => BAKES[p.of].label.toLowerCase(),
  asks: (p) => ({ bake: p.of }),
  onSurface: (p) => p.breakup > 0,
  anywhere: true,
  compile: (p, build) => {
    const baked = build.baked(p.of);
    if (!baked) return null;
    return broken(
      p,
      build,
      build.adjusted(baked, [{ type: 'levels', black: p.low, white: p.high, gamma: 1, outBlack: 0, outWhite: 1 }]),
    );
  },
};

type Vector = [number, number, number];

/** 1 under `a`, 0 over `b`, smooth between. */
function fades(a: number, b: number, v: number): number {
  if (v <= a) return 1;
  if (v >= b) return 0;
  const t = (v - a) / (b - a);
  return 1 - t * t * (3 - 2 * t);
}

const FACING = { type: 'facing' as const, direction: [0, 1, 0] as Vector, angle: 70, soft: 0.6 };
const facingSchema = z.object({
  type: z.literal('facing'),
  /** In the space of the model; any length but 0. */
  direction: z.tuple([z.number(), z.number(), z.number()]).default(FACING.direction),
  /** Degrees off the direction at which it ends, and the share of them over which it fades. */
  angle: z.number().min(1).max(180).default(FACING.angle),
  soft: unit.default(FACING.soft),
});
type Facing = z.infer<typeof facingSchema>;
export const facing: StepDef<Facing> = {
  type: 'facing',
  schema: facingSchema,
  start: FACING,
  controls: [degrees('angle', 'Within', 1, 180), percent('soft', 'Fades')],
  presets: [
    {
      label: 'Facing up (dust)',
      hint: 'What faces up, or any direction',
      settings: FACING,
      added: 'facing up',
      mask: { label: 'Dust on top', hint: 'On what faces up' },
    },
  ],
  needsModel: true,
  word: ({ direction: [x, y, z] }) => {
    const l = Math.hypot(x, y, z) || 1;
    const names: [string, number][] = [
      ['up', y],
      ['down', -y],
      ['right', x],
      ['left', -x],
      ['to the front', z],
      ['to the back', -z],
    ];
    return `facing ${names.find(([, v]) => v / l > 0.995)?.[0] ?? 'one way'}`;
  },
  pick: {
    of: 'the model',
    once: true,
    take: (p, { on }) => ({ step: { ...p, direction: on!.normal }, label: 'as picked' }),
  },
  onSurface: () => true,
  anywhere: true,
  compile: (p, build) => build.onSurface(p, (_, texels, out) => facingTile(texels, p, out)),
};

/** 1 along the direction, 0 from `angle` degrees off it on. */
function facingTile({ normal, face }: SurfaceTexels, { direction, angle, soft }: Facing, out: Float32Array): void {
  const l = Math.hypot(...direction) || 1;
  const [x, y, z] = direction.map((v) => v / l / 127);
  const end = (angle * Math.PI) / 180;
  for (let i = 0, o = 0; i < TILE_TEXELS; i++, o += 3) {
    if (face[i] < 0) continue;
    const cos = normal[o] * x + normal[o + 1] * y + normal[o + 2] * z;
    out[i] = fades(end * (1 - soft), end, Math.acos(cos < -1 ? -1 : cos > 1 ? 1 : cos));
  }
}

const SPAN = { type: 'span' as const, axis: 'y' as const, from: 0, to: 0.25, soft: 0.25 };
const spanSchema = z.object({
  type: z.literal('span'),
  axis: z.enum(['x', 'y', 'z']).default(SPAN.axis),
  /** Shares of the model's extent along the axis. */
  from: unit.default(SPAN.from),
  to: unit.default(SPAN.to),
  soft: unit.default(SPAN.soft),
});
type Span = z.infer<typeof spanSchema>;
export const span: StepDef<Span> = {
  type: 'span',
  schema: spanSchema,
  start: SPAN,
  controls: [axis('axis', 'Along'), percent('from', 'From'), percent('to', 'To'), percent('soft', 'Fades')],
  presets: [
    {
      label: 'Span along an axis',
      hint: 'From the foot up, with soft ends',
      settings: SPAN,
      added: 'a span',
      mask: { label: 'From the foot up', hint: 'Along the model’s height, fading' },
    },
  ],
  needsModel: true,
  word: (p) => `${Math.round(p.from * 100)} to ${Math.round(p.to * 100)} % along ${p.axis.toUpperCase()}`,
  onSurface: () => true,
  anywhere: true,
  compile: (p, build) => build.onSurface(p, (surface, texels, out) => spanTile(surface, texels, p, out)),
};

function spanTile(
  { min, max }: Surface,
  { position, face }: SurfaceTexels,
  { axis: along, from, to, soft }: Span,
  out: Float32Array,
): void {
  const k = { x: 0, y: 1, z: 2 }[along];
  const extent = max[k] - min[k] || 1;
  const [a, b] = [Math.min(from, to), Math.max(from, to)];
  for (let i = 0; i < TILE_TEXELS; i++) {
    if (face[i] < 0) continue;
    const t = (position[i * 3 + k] - min[k]) / extent;
    // A span that begins or ends where the model does has no slope there.
    const up = a <= 0 ? 1 : 1 - fades(a - soft, a, t);
    out[i] = b >= 1 ? up : up * fades(b, b + soft, t);
  }
}

const DISTANCE = {
  type: 'distance' as const,
  shape: 'point' as const,
  at: [0, 0, 0] as Vector,
  normal: [0, 1, 0] as Vector,
  reach: 0.25,
  soft: 0.8,
};
const distanceSchema = z.object({
  type: z.literal('distance'),
  shape: z.enum(['point', 'plane']).default(DISTANCE.shape),
  /** Model units. */
  at: z.tuple([z.number(), z.number(), z.number()]),
  normal: z.tuple([z.number(), z.number(), z.number()]).default(DISTANCE.normal),
  /** Share of the model's size at which it ends, and the share of that over which it fades. */
  reach: z.number().min(0.001).max(4).default(DISTANCE.reach),
  soft: unit.default(DISTANCE.soft),
});
type Distance = z.infer<typeof distanceSchema>;
export const distance: StepDef<Distance> = {
  type: 'distance',
  schema: distanceSchema,
  start: DISTANCE,
  controls: [
    {
      kind: 'choice',
      key: 'shape',
      label: 'From a',
      options: [
        { value: 'point', label: 'Point' },
        { value: 'plane', label: 'Plane' },
      ],
    },
    { ...percent('reach', 'Reach', 0.001, 2), digits: 1, fine: true },
    percent('soft', 'Fades'),
  ],
  needsModel: true,
  word: (p) => `near a ${p.shape}`,
  pick: {
    of: 'the model',
    once: true,
    take: (p, { on }) => ({ step: { ...p, at: on!.place, normal: on!.normal }, label: 'as picked' }),
  },
  onSurface: () => true,
  anywhere: false,
  compile: (p, build) => build.onSurface(p, (surface, texels, out) => distanceTile(surface, texels, p, out)),
};

function distanceTile(surface: Surface, { position, face }: SurfaceTexels, p: Distance, out: Float32Array): void {
  const reach = p.reach * sizeOf(surface);
  const l = Math.hypot(...p.normal) || 1;
  const [nx, ny, nz] = p.normal.map((v) => v / l);
  for (let i = 0, o = 0; i < TILE_TEXELS; i++, o += 3) {
    if (face[i] < 0) continue;
    const [x, y, z] = [position[o] - p.at[0], position[o + 1] - p.at[1], position[o + 2] - p.at[2]];
    const d = p.shape === 'point' ? Math.sqrt(x * x + y * y + z * z) : Math.abs(x * nx + y * ny + z * nz);
    out[i] = fades(reach * (1 - p.soft), reach, d);
  }
}

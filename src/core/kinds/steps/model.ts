/** Steps that come of the model's own shape: its edges, which way it faces, where along it, how far from somewhere, its bakes. */
import { z } from 'zod';
import { unit } from '../fields';
import { BAKES, type BakeType } from '../bakes';
import type { Build, StepDef } from './step';

/** Noise that breaks a step up: how much of it, how large its grain is (a share of the model's size), which. */
const brokenFields = {
  contrast: unit.default(0.5),
  breakup: unit.default(0.5),
  grain: z.number().min(0.001).max(1).default(0.03),
  seed: z.number().int().min(0).max(9999).default(1),
};
interface Broken {
  contrast: number;
  breakup: number;
  grain: number;
  seed: number;
}
const broken = <Node, Scope>(p: Broken, build: Build<Node, Scope>, node: Node | null): Node | null =>
  node && build.broken(node, { contrast: p.contrast, breakup: p.breakup, grain: p.grain, seed: p.seed });

const edgesSchema = z.object({
  type: z.literal('edges'),
  /** Degrees by which the surface turns at least. */
  angle: z.number().min(1).max(179).default(25),
  /** Share of the model's size. */
  width: z.number().min(0.0005).max(0.5).default(0.015),
  ...brokenFields,
});
export const edges: StepDef<z.infer<typeof edgesSchema>> = {
  type: 'edges',
  schema: edgesSchema,
  word: () => 'edges',
  onSurface: () => true,
  anywhere: true,
  compile: (p, build) => broken(p, build, build.shape({ type: 'edges', angle: p.angle, width: p.width })),
};

const bakeSchema = z.object({
  type: z.literal('bake'),
  of: z.custom<BakeType>((v) => typeof v === 'string' && Object.hasOwn(BAKES, v), 'an unknown bake'),
  /** The values that become 0 and 1; the first may be the higher one. */
  low: unit.default(0),
  high: unit.default(1),
  ...brokenFields,
});
export const bake: StepDef<z.infer<typeof bakeSchema>> = {
  type: 'bake',
  schema: bakeSchema,
  word: (p) => BAKES[p.of].label.toLowerCase(),
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

const facingSchema = z.object({
  type: z.literal('facing'),
  /** In the space of the model; any length but 0. */
  direction: z.tuple([z.number(), z.number(), z.number()]).default([0, 1, 0]),
  /** Degrees off the direction at which it ends, and the share of them over which it fades. */
  angle: z.number().min(1).max(180).default(70),
  soft: unit.default(0.6),
});
export const facing: StepDef<z.infer<typeof facingSchema>> = {
  type: 'facing',
  schema: facingSchema,
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
  onSurface: () => true,
  anywhere: true,
  compile: (p, build) => build.shape({ type: 'facing', direction: p.direction, angle: p.angle, soft: p.soft }),
};

const spanSchema = z.object({
  type: z.literal('span'),
  axis: z.enum(['x', 'y', 'z']).default('y'),
  /** Shares of the model's extent along the axis. */
  from: unit.default(0),
  to: unit.default(0.3),
  soft: unit.default(0.2),
});
export const span: StepDef<z.infer<typeof spanSchema>> = {
  type: 'span',
  schema: spanSchema,
  word: (p) => `${Math.round(p.from * 100)} to ${Math.round(p.to * 100)} % along ${p.axis.toUpperCase()}`,
  onSurface: () => true,
  anywhere: true,
  compile: (p, build) => build.shape({ type: 'span', axis: p.axis, from: p.from, to: p.to, soft: p.soft }),
};

const distanceSchema = z.object({
  type: z.literal('distance'),
  shape: z.enum(['point', 'plane']).default('point'),
  /** Model units. */
  at: z.tuple([z.number(), z.number(), z.number()]),
  normal: z.tuple([z.number(), z.number(), z.number()]).default([0, 1, 0]),
  /** Share of the model's size at which it ends, and the share of that over which it fades. */
  reach: z.number().min(0.001).max(4).default(0.25),
  soft: unit.default(0.8),
});
export const distance: StepDef<z.infer<typeof distanceSchema>> = {
  type: 'distance',
  schema: distanceSchema,
  word: (p) => `near a ${p.shape}`,
  onSurface: () => true,
  anywhere: false,
  compile: (p, build) =>
    build.shape({ type: 'distance', shape: p.shape, at: p.at, normal: p.normal, reach: p.reach, soft: p.soft }),
};

/** The registry of what can be baked: one line each. */
import { oneOfKinds } from '../fields';
import type { BakeDef } from './bake';
import { ids } from './ids';
import { bentNormal, occlusion, thickness } from './light';
import { distance, facing, position, worldNormal } from './places';
import { cavity, curvature, edges } from './shape';
import { height, normal, vertexColour } from './twin';

const registry = {
  occlusion,
  curvature,
  cavity,
  edges,
  thickness,
  position,
  'world-normal': worldNormal,
  facing,
  'bent-normal': bentNormal,
  ids,
  distance,
  normal,
  height,
  'vertex-colour': vertexColour,
};

type Defs = typeof registry;
export type BakeType = keyof Defs;
/** What is baked, with its settings. */
export type BakeSettings = { [K in BakeType]: Defs[K] extends BakeDef<infer P> ? P : never }[BakeType];

export const BAKES = registry as unknown as Record<BakeType, BakeDef<BakeSettings>>;
export const BAKE_TYPES = Object.keys(registry) as BakeType[];

export const bakeSettingsSchema = oneOfKinds<BakeSettings>(BAKES);

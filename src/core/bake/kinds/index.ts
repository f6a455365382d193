/** The registry of how bakes are worked out: one line each (kinds/bakes/index.ts says what there is). */
import type { BakeSettings, BakeType } from '../../kinds/bakes';
import { ids } from './ids';
import type { BakeKind } from './kind';
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
} satisfies Record<BakeType, unknown>;

export const BAKE_KINDS = registry as unknown as Record<BakeType, BakeKind<BakeSettings>>;

/** The registry of how steps are added and set: one line each, in the order of the menu. */
import type { StepType } from '@/core/kinds/steps';
import { ids } from './ids';
import { bake, distance, edges, facing, span } from './model';
import { constant, made, paint, picture } from './plain';
import { colour, range } from './ranges';
import { faces, islands, parts } from './regions';
import type { StepUi } from './stepUi';
import { below, contact, layer, mask } from './strata';

const registry = {
  paint,
  made,
  picture,
  edges,
  bake,
  facing,
  span,
  distance,
  constant,
  parts,
  islands,
  faces,
  ids,
  contact,
  range,
  colour,
  below,
  layer,
  mask,
} satisfies Record<StepType, unknown>;

export const STEP_UI = registry as unknown as Record<StepType, StepUi>;

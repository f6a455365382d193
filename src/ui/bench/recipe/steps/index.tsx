/**
 * The registry of how steps are added and set: one line each, in the order of the menu. Kinds without a line are added
 * by their presets and set by their controls.
 */
import { STEP_TYPES, type StepType } from '@/core/kinds/steps';
import { ids } from './ids';
import { bake, distance, edges, facing, span } from './model';
import { constant, made, paint, picture } from './plain';
import { colour, range } from './ranges';
import { faces, islands, parts } from './regions';
import { presetEntries, type StepUi } from './stepUi';
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
};

const named = registry as unknown as { [T in StepType]?: StepUi };

export const stepUi = (type: StepType): StepUi => named[type] ?? { entries: presetEntries(type) };

/** All kinds, in the order of the menu. */
export const stepUis = (): StepUi[] => [...new Set([...(Object.keys(registry) as StepType[]), ...STEP_TYPES])].map(stepUi);

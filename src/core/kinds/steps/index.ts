/** The registry of what a mask's steps are made from: one line each. */
import { oneOfKinds } from '../fields';
import { edges } from './edges';
import { ids } from './ids';
import { bake, distance, facing, span } from './model';
import { constant, made, paint, picture } from './plain';
import { like, range } from './ranges';
import { faces, islands, parts } from './regions';
import type { StepDef } from './step';
import { below, contact, layer, mask } from './strata';

const registry = {
  constant,
  paint,
  made,
  picture,
  edges,
  bake,
  facing,
  span,
  distance,
  parts,
  islands,
  faces,
  ids,
  layer,
  below,
  contact,
  mask,
  range,
  colour: like,
};

type Defs = typeof registry;
export type StepType = keyof Defs;
/** A kind of step with its settings. */
export type StepSource = { [K in StepType]: Defs[K] extends StepDef<infer P> ? P : never }[StepType];
export type StepSourceOf<K extends StepType> = Extract<StepSource, { type: K }>;

export const STEPS = registry as unknown as Record<StepType, StepDef<StepSource>>;
export const STEP_TYPES = Object.keys(registry) as StepType[];

export const stepSourceSchema = oneOfKinds<StepSource>(STEPS);

/** What a new step of a kind begins with. */
export const startOfStep = <K extends StepType>(type: K): StepSourceOf<K> => STEPS[type].start as StepSourceOf<K>;

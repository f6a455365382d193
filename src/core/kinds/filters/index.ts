/** The registry of adjustments: one line each. */
import { oneOfKinds } from '../fields';
import { median, sharpen, shift, slopeWarp, smear, warp } from './around';
import { balance } from './balance';
import { blur } from './blur';
import { curves } from './curves';
import { rim } from './edges';
import { grow } from './grow';
import type { FilterDef } from './filter';
import { colourise, hue } from './hue';
import { levels } from './levels';
import { albedo, band, grey, posterise, threshold } from './more';
import { ramp } from './ramp';
import { contrast, desaturate, invert } from './tone';

const registry = {
  levels,
  curve: curves,
  contrast,
  hue,
  balance,
  colourise,
  desaturate,
  grey,
  ramp,
  invert,
  posterise,
  threshold,
  band,
  albedo,
  blur,
  smear,
  sharpen,
  median,
  warp,
  slope: slopeWarp,
  grow,
  rim,
  shift,
};

type Defs = typeof registry;
export type FilterType = keyof Defs;
export type Filter = { [K in FilterType]: Defs[K] extends FilterDef<infer P> ? P : never }[FilterType];
export type FilterOf<K extends FilterType> = Extract<Filter, { type: K }>;

export const FILTERS = registry as unknown as Record<FilterType, FilterDef<Filter>>;
export const FILTER_TYPES = Object.keys(registry) as FilterType[];

export const filterSchema = oneOfKinds<Filter>(FILTERS);

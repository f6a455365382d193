/** The registry of sources: one line each. */
import { oneOfKinds } from '../fields';
import { gradient } from './gradient';
import { marble } from './marble';
import { cells, clouds, cracks, fibres, grain, leaks, ridges, smudges, spots, streaks } from './noise';
import { bricks, checks, dots, hexagons, rings, scales, stripes, weave } from './patterns';
import type { SourceDef } from './source';

const registry = {
  clouds,
  ridges,
  cells,
  grain,
  spots,
  streaks,
  leaks,
  fibres,
  smudges,
  cracks,
  marble,
  bricks,
  checks,
  stripes,
  hexagons,
  scales,
  weave,
  dots,
  rings,
  gradient,
};

type Defs = typeof registry;
export type SourceType = keyof Defs;
/** A rule with its settings. */
export type Made = { [K in SourceType]: Defs[K] extends SourceDef<infer P> ? P : never }[SourceType];
export type MadeOf<K extends SourceType> = Extract<Made, { type: K }>;

export const SOURCES = registry as unknown as Record<SourceType, SourceDef<Made>>;
export const SOURCE_TYPES = Object.keys(registry) as SourceType[];

export const madeSchema = oneOfKinds<Made>(SOURCES);

/** The registry of areas: one line each. */
import { oneOfTypes } from '../../kinds/fields';
import type { AreaDef } from './area';
import { fill } from './fill';
import { frame } from './frame';
import { gradient } from './gradient';
import { same } from './same';
import { shape } from './shape';

const registry = { shape, gradient, fill, same, frame };

type Defs = typeof registry;
export type AreaType = keyof Defs;
/** A kind of area with its settings. */
export type Area = { [K in AreaType]: Defs[K] extends AreaDef<infer P> ? P : never }[AreaType];

export const AREAS = registry as unknown as Record<AreaType, AreaDef<Area>>;
export const AREA_TYPES = Object.keys(registry) as AreaType[];

export const areaSchema = oneOfTypes<Area>(AREA_TYPES.map((t) => AREAS[t].schema));

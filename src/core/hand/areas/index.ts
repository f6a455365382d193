/** The registry of areas: one line each. */
import { oneOfKinds } from '../../kinds/fields';
import type { AreaDef, AreaWay } from './area';
import { fill } from './fill';
import { frame } from './frame';
import { gradient } from './gradient';
import { same } from './same';
import { shape } from './shape';

const registry = { shape, gradient, fill, same, frame };

type Defs = typeof registry;
export type AreaType = keyof Defs;
/** A kind of area with its settings. */
export type Area = { [K in AreaType]: Defs[K] extends AreaDef<infer P, infer _> ? P : never }[AreaType];

export const AREAS = registry as unknown as Record<AreaType, AreaDef<Area>>;
export const AREA_TYPES = Object.keys(registry) as AreaType[];

export const areaSchema = oneOfKinds<Area>(AREAS);

/** What areas are set to; one setting serves all that have it. */
export type AreaSettings = Record<string, number | string | boolean>;
export const areaStart = (): AreaSettings => Object.assign({}, ...Object.values(AREAS).map((d) => d.settings)) as AreaSettings;

type Way = AreaWay<Area, AreaSettings> & { type: AreaType };

/** All ways to lay areas, by kind. */
export const areaWays = (): Way[] => AREA_TYPES.flatMap((type) => AREAS[type].ways.map((way): Way => ({ ...way, type }) as Way));

/** undefined: there is none of that name, as for strokes. */
export const areaWay = (id: string): Way | undefined => areaWays().find((w) => w.id === id);

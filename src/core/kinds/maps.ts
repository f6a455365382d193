/**
 * The maps a sheet can carry. Adding a map means adding a row here (and, if it should be visible in the lit
 * view, a channel in `src/core/strata/displayPlanes.ts`). Besides these a sheet can have grayscale masks of its
 * own, named by the artist ("oil", "transmission"): their ids begin with `own-`.
 */
export const MAP_IDS = ['base-colour', 'height', 'roughness', 'metallic', 'normal', 'emissive', 'opacity', 'occlusion'] as const;
export type BuiltInMap = (typeof MAP_IDS)[number];
export type MapId = BuiltInMap | `own-${string}`;
/** What pixel planes hold: a map of a layer, the paint of a mask, or a picture. */
export type PlaneMap = MapId | 'mask' | 'picture';

/** The maps that a new sheet starts with. */
export const START_MAPS: readonly MapId[] = ['base-colour', 'height', 'roughness', 'metallic'];

export interface MapInfo {
  id: MapId;
  label: string;
  /** Two letters for a column head. */
  short: string;
  /** `colour`: RGB in the sRGB curve. `value`: one number, 0..1, as is. `normal`: a direction, each axis −1..1 as 0..1. */
  kind: 'colour' | 'value' | 'normal';
  /** What the sheet shows where no layer says anything. sRGB 0..1 for colour. */
  ground: readonly number[];
  /** Value a new coat cell starts with. */
  start: readonly number[];
  /** How values are written for people. `offset`: 0.5 is level, shown as −0.5 … +0.5. */
  display: 'colour' | 'percent' | 'offset';
  hint: string;
}

export const MAPS: Record<BuiltInMap, MapInfo> = {
  'base-colour': {
    id: 'base-colour',
    label: 'Base colour',
    short: 'Co',
    kind: 'colour',
    ground: [0.5, 0.5, 0.5],
    start: [0.6, 0.5, 0.4],
    display: 'colour',
    hint: 'The colour of the surface without light.',
  },
  height: {
    id: 'height',
    label: 'Height',
    short: 'He',
    kind: 'value',
    ground: [0.5],
    start: [0.5],
    display: 'offset',
    hint: 'Raised or sunk against the model. Layers add up; the normal that is shown is computed from it.',
  },
  roughness: {
    id: 'roughness',
    label: 'Roughness',
    short: 'Ro',
    kind: 'value',
    ground: [0.6],
    start: [0.5],
    display: 'percent',
    hint: '0 mirrors, 100 is chalk.',
  },
  metallic: {
    id: 'metallic',
    label: 'Metallic',
    short: 'Me',
    kind: 'value',
    ground: [0],
    start: [1],
    display: 'percent',
    hint: 'Bare metal or not: real surfaces are nearly always 0 or 100.',
  },
  normal: {
    id: 'normal',
    label: 'Normal',
    short: 'No',
    kind: 'normal',
    ground: [0.5, 0.5, 1],
    start: [0.5, 0.5, 1],
    display: 'colour',
    hint: 'Fine relief as directions, Y up. It is laid over the normal that height makes.',
  },
  emissive: {
    id: 'emissive',
    label: 'Emissive',
    short: 'Em',
    kind: 'colour',
    ground: [0, 0, 0],
    start: [1, 0.8, 0.5],
    display: 'colour',
    hint: 'Light that the surface gives off by itself.',
  },
  opacity: {
    id: 'opacity',
    label: 'Opacity',
    short: 'Op',
    kind: 'value',
    ground: [1],
    start: [1],
    display: 'percent',
    hint: '0 is a hole, 100 is solid.',
  },
  occlusion: {
    id: 'occlusion',
    label: 'Occlusion',
    short: 'Oc',
    kind: 'value',
    ground: [1],
    start: [1],
    display: 'percent',
    hint: 'How much of the surroundings’ light arrives: 0 is a deep corner.',
  },
};

export interface OwnMap {
  id: `own-${string}`;
  name: string;
}

export function mapInfo(map: MapId, owns: readonly OwnMap[] = []): MapInfo {
  const builtIn = (MAPS as Record<string, MapInfo>)[map];
  if (builtIn) return builtIn;
  const name = owns.find((o) => o.id === map)?.name ?? map.slice(4);
  return {
    id: map,
    label: name,
    short: name.slice(0, 2).replace(/^./, (c) => c.toUpperCase()),
    kind: 'value',
    ground: [0],
    start: [1],
    display: 'percent',
    hint: 'A grayscale mask of your own; it goes out as a file of its own.',
  };
}

/** Only what depends on the id: for code that needs no names. */
export const mapKind = (map: PlaneMap): MapInfo['kind'] => (MAPS as Record<string, MapInfo>)[map]?.kind ?? 'value';
export const mapGround = (map: MapId): readonly number[] => (MAPS as Record<string, MapInfo>)[map]?.ground ?? [0];

/** Stored channels of a painted tile: three values + coverage, or value + coverage. */
export function storedChannels(map: PlaneMap): 2 | 4 {
  if (map === 'picture') return 4;
  return mapKind(map) === 'value' ? 2 : 4;
}

/** Channels of an evaluated map: the stored ones without the coverage. */
export function valueChannels(map: PlaneMap): 1 | 3 {
  return mapKind(map) === 'value' ? 1 : 3;
}

export function isMapId(text: string): text is MapId {
  return (MAP_IDS as readonly string[]).includes(text) || /^own-[a-z0-9-]{1,40}$/.test(text);
}

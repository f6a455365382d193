/**
 * The maps a sheet can carry. Adding a map means adding a row here (and, if it should be visible in the
 * lit view, a channel in `src/core/strata/displayPlanes.ts`).
 */
export const MAP_IDS = ['base-colour', 'height', 'roughness', 'metallic'] as const;
export type MapId = (typeof MAP_IDS)[number];

export interface MapInfo {
  id: MapId;
  label: string;
  /** Two letters for a column head. */
  short: string;
  /** `colour`: RGB in the sRGB curve. `value`: one number, 0..1, stored as is (never curve-encoded). */
  kind: 'colour' | 'value';
  /** What the sheet shows where no layer says anything. sRGB 0..1 for colour. */
  ground: readonly number[];
  /** Value a new coat cell starts with. */
  start: readonly number[];
  /** How values are written for people. `offset`: 0.5 is level, shown as −0.5 … +0.5. */
  display: 'colour' | 'percent' | 'offset';
  hint: string;
}

export const MAPS: Record<MapId, MapInfo> = {
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
    hint: 'Raised or sunk against the model. Layers add up; the normal map is computed from it.',
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
};

/** Stored channels of a painted tile: RGBA for colour, value + coverage for the rest. */
export function storedChannels(map: MapId): 2 | 4 {
  return MAPS[map].kind === 'colour' ? 4 : 2;
}

/** Channels of an evaluated map: the stored ones without the coverage. */
export function valueChannels(map: MapId): 1 | 3 {
  return MAPS[map].kind === 'colour' ? 3 : 1;
}

export function isMapId(text: string): text is MapId {
  return (MAP_IDS as readonly string[]).includes(text);
}

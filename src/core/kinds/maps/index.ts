/** The registry of maps: one line each, in the order of the columns. */
import { baseColour } from './baseColour';
import { emissive } from './emissive';
import { height } from './height';
import type { MapDef } from './map';
import { metallic } from './metallic';
import { normal } from './normal';
import { occlusion } from './occlusion';
import { opacity } from './opacity';
import { roughness } from './roughness';

const registry = {
  'base-colour': baseColour,
  height,
  roughness,
  metallic,
  normal,
  emissive,
  opacity,
  occlusion,
};

export type BuiltInMap = keyof typeof registry;
export type MapId = BuiltInMap | `own-${string}`;
/** What pixel planes hold: a map of a layer, the paint of a mask, or a picture. */
export type PlaneMap = MapId | 'mask' | 'picture';
export type MapInfo = MapDef & { id: MapId };

export const MAP_IDS = Object.keys(registry) as BuiltInMap[];
export const MAPS = Object.fromEntries(Object.entries(registry).map(([id, def]) => [id, { id, ...def }])) as Record<
  BuiltInMap,
  MapInfo
>;

/** The built-in maps' rows, in order. */
export const MAP_ROWS: readonly MapInfo[] = MAP_IDS.map((id) => MAPS[id]);

/** The maps that a new sheet starts with. */
export const START_MAPS: readonly MapId[] = MAP_ROWS.filter((m) => m.atStart).map((m) => m.id);

/** The map that the lit view shows as colour: what colour goes to where no map is named. */
export const COLOUR_MAP: MapId = MAP_ROWS.find((m) => m.kind === 'colour')!.id;

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

/** What a plane holds, for those who resample it. */
export const holdsOf = (map: PlaneMap): 'colour' | 'values' => (mapKind(map) === 'colour' ? 'colour' : 'values');

/** Maps that one picture packs, by channel: red, green, blue. */
export const PACKED_MAPS: readonly MapId[] = [0, 1, 2].map((c) => MAP_ROWS.find((m) => m.packed === c)!.id);

/** Stored channels of a painted tile: three values + coverage, or value + coverage. */
export function storedChannels(map: PlaneMap): 2 | 4 {
  if (map === 'picture') return 4;
  return mapKind(map) === 'value' ? 2 : 4;
}

/** Channels of an evaluated map: the stored ones without the coverage. */
export function valueChannels(map: PlaneMap): 1 | 3 {
  return mapKind(map) === 'value' ? 1 : 3;
}

/** A map of the artist's own. */
export const isOwnMap = (text: string): text is OwnMap['id'] => /^own-[a-z0-9-]{1,40}$/.test(text);

export const isMapId = (text: string): text is MapId => Object.hasOwn(MAPS, text) || isOwnMap(text);

/** How a picture file of a map says that its numbers are meant. */
export const encodingOf = (map: MapId): 'srgb' | 'data' => (mapKind(map) === 'colour' ? 'srgb' : 'data');

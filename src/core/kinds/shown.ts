/**
 * What the viewport draws: 8-bit RGBA planes computed from the maps.
 *   colour    base colour, sRGB · A opacity
 *   surface   R occlusion · G roughness · B metallic (glTF's places) · A height, data
 *   normal    tangent-space normal from height with the normal map laid over it, Y up, data
 *   emissive  only on sheets that carry it, sRGB
 *   fence     only where a fence is on: what it lets through, grey, data
 *   view      one thing looked at by itself that is in none of these: a map of one's own, a mask; grey, data
 */
import { mapInfo, mapKind, MAP_ROWS, type MapId } from './maps';

export const PLANE_IDS = ['colour', 'surface', 'normal', 'emissive', 'fence', 'view'] as const;
export type PlaneId = (typeof PLANE_IDS)[number];

/** Maps of a plane, by the channel that they begin at. */
const mapsOn = (plane: PlaneId): MapId[] =>
  MAP_ROWS.filter((m) => m.shown?.plane === plane)
    .toSorted((a, b) => a.shown!.channel - b.shown!.channel)
    .map((m) => m.id);

const rowOn = (plane: PlaneId, channel: number) => MAP_ROWS.find((m) => m.shown?.plane === plane && m.shown.channel === channel);

/** The map that is drawn in a channel of a plane. */
export const mapOn = (plane: PlaneId, channel: number): MapId => rowOn(plane, channel)!.id;

/** The map of a colour map's holes: the alpha of the plane that both are drawn in. null: it has none. */
export function alphaOf(map: MapId): MapId | null {
  const { kind, shown } = mapInfo(map);
  return (kind === 'colour' && shown && rowOn(shown.plane, 3)?.id) || null;
}

/** What normals are made of: the map whose slopes they are, and the one of directions that is laid over them. */
export const NORMAL_FROM: { relief: MapId; directions: MapId } = {
  relief: MAP_ROWS.find((m) => m.relief)!.id,
  directions: MAP_ROWS.find((m) => mapKind(m.id) === 'normal')!.id,
};

export const PLANES: Record<PlaneId, { encoding: 'srgb' | 'linear'; maps: readonly MapId[]; halo: number }> = {
  colour: { encoding: 'srgb', maps: mapsOn('colour'), halo: 0 },
  surface: { encoding: 'linear', maps: mapsOn('surface'), halo: 0 },
  normal: { encoding: 'linear', maps: [NORMAL_FROM.relief, NORMAL_FROM.directions], halo: 4 },
  emissive: { encoding: 'srgb', maps: mapsOn('emissive'), halo: 0 },
  fence: { encoding: 'linear', maps: [], halo: 0 },
  view: { encoding: 'linear', maps: [], halo: 0 },
};

/** Which plane and channel shows a map; −1: colour, −2: three channels as they are. */
export function shownOn(map: MapId | 'mask' | 'bake'): { plane: PlaneId; channel: number } {
  if (map === 'bake') return { plane: 'view', channel: -2 };
  const shown = map === 'mask' ? undefined : mapInfo(map).shown;
  if (!shown) return { plane: 'view', channel: 0 };
  return { plane: shown.plane, channel: { colour: -1, normal: -2, value: shown.channel }[mapKind(map)] };
}

/**
 * The maps a sheet can carry. Adding a map means adding a row here: where it is drawn, how layers join on it, how it
 * goes out and what files of it are called all stand in the row. Besides these a sheet can have grayscale masks of its
 * own, named by the artist ("oil", "transmission"): their ids begin with `own-`.
 */
import type { BlendId } from '../colour/blend';

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
  /** The first of its channels in the planes that the lit view draws from (strata/displayPlanes.ts); left out: it is looked at by itself only. */
  shown?: { plane: 'colour' | 'surface' | 'normal' | 'emissive'; channel: 0 | 1 | 2 | 3 };
  /** Its slopes are seen in the normal that is drawn and delivered. */
  relief?: boolean;
  /** How layers, and adjustments, join on it unless a cell says otherwise; left out: by the layer's own mode. */
  joins?: { layer: BlendId; adjust: BlendId };
  /** Its channel in the picture that packs three maps in one, in glTF's places (glTF 2.0, 3.9.2 and 3.9.3). */
  packed?: 0 | 1 | 2;
  /** On a tab, where the label is long. */
  tab?: string;
  /** A word or two of a file's name that mean it: what the trade calls it. */
  fileWords?: RegExp;
  /** What a new brush writes into it; left out: nothing, and `start` once it is switched on. */
  brush?: { on: boolean; value: number };
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
    shown: { plane: 'colour', channel: 0 },
    tab: 'Colour',
    fileWords: /^(base ?colou?r|albedo|diffuse|diff|colou?r|col|basecolou?r)$/,
    brush: { on: true, value: 0 },
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
    shown: { plane: 'surface', channel: 3 },
    relief: true,
    joins: { layer: 'offset', adjust: 'normal' },
    fileWords: /^(height|displacement|disp|bump|depth)$/,
    brush: { on: false, value: 0.62 },
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
    shown: { plane: 'surface', channel: 1 },
    packed: 1,
    tab: 'Rough',
    fileWords: /^(roughness|rough|rgh)$/,
    brush: { on: false, value: 0.4 },
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
    shown: { plane: 'surface', channel: 2 },
    packed: 2,
    tab: 'Metal',
    fileWords: /^(metallic|metalness|metal|mtl)$/,
    brush: { on: false, value: 0 },
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
    shown: { plane: 'normal', channel: 0 },
    joins: { layer: 'reorient', adjust: 'normal' },
    fileWords: /^(normal|normals|nrm|nor|norm|nml)$/,
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
    shown: { plane: 'emissive', channel: 0 },
    fileWords: /^(emissive|emission|emit|glow)$/,
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
    shown: { plane: 'colour', channel: 3 },
    fileWords: /^(opacity|alpha|transparency)$/,
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
    shown: { plane: 'surface', channel: 0 },
    packed: 0,
    fileWords: /^(occlusion|ao|ambientocclusion)$/,
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

/** What a plane holds, for those who resample it. */
export const holdsOf = (map: PlaneMap): 'colour' | 'values' => (mapKind(map) === 'colour' ? 'colour' : 'values');

/** The built-in maps' rows, in order. */
export const MAP_ROWS: readonly MapInfo[] = MAP_IDS.map((id) => MAPS[id]);

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

export function isMapId(text: string): text is MapId {
  return (MAP_IDS as readonly string[]).includes(text) || /^own-[a-z0-9-]{1,40}$/.test(text);
}

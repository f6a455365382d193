/** New records with sensible defaults. Ids come from the caller: the core has no randomness of its own. */
import type { Filter } from '../kinds/filters';
import { mapInfo, START_MAPS, type MapId } from '../kinds/maps';
import { DOCUMENT_VERSION, echoSchema, paintStep, type Cell, type Layer, type Mask, type Piece, type Sheet } from './schema';

function newLayer(id: string, kind: Layer['kind'], name: string): Layer {
  return {
    id,
    kind,
    name,
    parent: null,
    visible: true,
    opacity: 1,
    blend: 'normal',
    cells: {},
    mask: null,
    lock: 'none',
    tag: 0,
    note: '',
    passThrough: false,
    filter: null,
    echo: null,
    source: null,
    placement: null,
  };
}

const cellsOn = (maps: readonly MapId[]): Layer['cells'] => Object.fromEntries(maps.map((m) => [m, { on: true }]));

export function newPaintedLayer(id: string, name: string, maps: readonly MapId[] = START_MAPS): Layer {
  return { ...newLayer(id, 'painted', name), cells: cellsOn(maps) };
}

/** A coat lays one value per map over the whole sheet; maps that are not named are off. */
export function newCoatLayer(
  id: string,
  name: string,
  values: Partial<Record<MapId, readonly number[]>>,
  maps: readonly MapId[] = START_MAPS,
): Layer {
  const cells: Layer['cells'] = {};
  for (const map of new Set([...maps, ...(Object.keys(values) as MapId[])])) {
    const value = values[map];
    cells[map] = { on: value !== undefined, value: [...(value ?? mapInfo(map).start)] } satisfies Cell;
  }
  return { ...newLayer(id, 'coat', name), cells };
}

export function newGroup(id: string, name: string, maps: readonly MapId[] = START_MAPS): Layer {
  return { ...newLayer(id, 'group', name), cells: cellsOn(maps) };
}

export function newAdjustLayer(id: string, name: string, filter: Filter, maps: readonly MapId[]): Layer {
  return { ...newLayer(id, 'adjust', name), cells: cellsOn(maps), filter };
}

/** Repeats `of` in another map. */
export function newEchoLayer(id: string, name: string, of: string, from: MapId, to: readonly MapId[]): Layer {
  return { ...newLayer(id, 'echo', name), cells: cellsOn(to), echo: echoSchema.parse({ of, from }) };
}

/** A mask to paint on: its ground, and one painted step. */
export function newMask(id: string, name: string, ground: number, over: Partial<Mask> = {}): Mask {
  return { id, name, ground, invert: false, steps: [paintStep(id)], ...over };
}

export function newSheet(id: string, name: string, width: number, height: number, over: Partial<Sheet> = {}): Sheet {
  return {
    id,
    name,
    width,
    height,
    depth: 16,
    wrapU: false,
    wrapV: false,
    materialIndex: null,
    materialName: null,
    maps: [...START_MAPS],
    ownMaps: [],
    heightSpan: 0.016,
    normalKernel: 3,
    preview: { alpha: 1, doubleSided: false },
    layers: [],
    masks: [],
    pictures: [],
    fence: null,
    fences: [],
    ...over,
  };
}

export function newPiece(id: string, name: string, kind: Piece['kind'], sheets: Sheet[], over: Partial<Piece> = {}): Piece {
  return {
    version: DOCUMENT_VERSION,
    id,
    name,
    kind,
    model: null,
    sheets,
    palette: [],
    onlyPalette: false,
    palettes: [],
    hiddenParts: [],
    hiddenFaces: [],
    pins: [],
    stencils: [],
    notices: [],
    planeRepeats: 2,
    ...over,
  };
}

/** A name that is not taken yet: "Hand", "Hand 2", "Hand 3" … */
export function freeName(base: string, taken: Iterable<string>): string {
  const used = new Set(taken);
  if (!used.has(base)) return base;
  const stem = base.replace(/ \d+$/, '');
  for (let n = 2; ; n++) if (!used.has(`${stem} ${n}`)) return `${stem} ${n}`;
}

/** New records with sensible defaults. Ids come from the caller: the core has no randomness of its own. */
import { MAPS, MAP_IDS, type MapId } from './maps';
import { DOCUMENT_VERSION, type Cell, type Layer, type Piece, type Sheet } from './schema';

export function newPaintedLayer(id: string, name: string, maps: readonly MapId[] = MAP_IDS): Layer {
  const cells: Layer['cells'] = {};
  for (const map of maps) cells[map] = { on: true };
  return { id, kind: 'painted', name, visible: true, opacity: 1, blend: 'normal', cells };
}

/** A coat lays one value per map over the whole sheet; maps that are not named are off. */
export function newCoatLayer(id: string, name: string, values: Partial<Record<MapId, readonly number[]>>): Layer {
  const cells: Layer['cells'] = {};
  for (const map of MAP_IDS) {
    const value = values[map];
    cells[map] = { on: value !== undefined, value: [...(value ?? MAPS[map].start)] } satisfies Cell;
  }
  return { id, kind: 'coat', name, visible: true, opacity: 1, blend: 'normal', cells };
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
    maps: [...MAP_IDS],
    heightSpan: 0.016,
    preview: { alpha: 1, doubleSided: false },
    layers: [],
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
    hiddenParts: [],
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

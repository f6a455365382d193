/** Copying layers with their paint: duplicates, and the clipboard between sheets and pieces. */
import { storedChannels, type MapId } from '../../kinds/maps';
import { STEPS } from '../../kinds/steps';
import type { Renaming } from '../../kinds/steps/step';
import {
  pictureFromTiles,
  tilesFromPicture,
  type TileChange,
  type TileIndex,
  type TileStore,
  type TileVersion,
} from '../../tile/tiles';
import { batch, setSheetEdit, type Edit } from '../edits';
import { freeName } from '../factory';
import { asksOf } from '../layer';
import { planeKey, planesOfSheet } from '../planes';
import { reshapePlane, type Extent } from '../reshape';
import { picturesUsed, type Layer, type Mask, type Picture, type Sheet, type Step } from '../schema';
import { blocksOf, indexOfPlace, outermost, type Place } from '../tree';
import { addAll, checkLayerCount, WorkError, type Work } from './work';

/** Layers on their way to another place, sheet or piece. Tiles by their address, so that any piece can take them. */
export interface Clip {
  pieceId: string;
  width: number;
  height: number;
  /** Post order, as in a sheet; the outermost have `parent: null`. */
  layers: Layer[];
  masks: Mask[];
  ownMaps: Sheet['ownMaps'];
  pictures: Picture[];
  tiles: [plane: string, tile: TileIndex, hash: string][];
}

function planesOf(
  sheet: Sheet,
  layers: readonly Layer[],
  masks: readonly Mask[],
  pictures: readonly Picture[] = [],
): ReturnType<typeof planesOfSheet> {
  return planesOfSheet({ ...sheet, layers: [...layers], masks: [...masks], pictures: [...pictures] });
}

/** Masks of layers, with those that they are made from. */
function masksOf(sheet: Sheet, layers: readonly Layer[]): Mask[] {
  const used = new Set(layers.map((l) => l.mask?.id));
  for (let n = -1; n !== used.size;) {
    n = used.size;
    for (const m of sheet.masks)
      if (used.has(m.id)) for (const s of m.steps) for (const other of asksOf(s).masks ?? []) used.add(other);
  }
  return sheet.masks.filter((m) => used.has(m.id));
}

function renamedStep(step: Step, id: string, to: Renaming): Step {
  const next = { ...structuredClone(step), id };
  next.source = STEPS[next.source.type].renamed?.(next.source, to) ?? next.source;
  return next;
}

function renamedCells(cells: Layer['cells'], to: Renaming): Layer['cells'] {
  return Object.fromEntries(
    Object.entries(cells).map(([map, cell]) => [
      map,
      cell?.placed ? { ...cell, placed: { ...cell.placed, picture: to.picture(cell.placed.picture) } } : cell,
    ]),
  );
}

/** Fresh ids for copied layers; what points among them follows. Masks of the same sheet stay linked. */
function renamed(
  layers: readonly Layer[],
  newId: () => string,
  masks: ReadonlyMap<string, string>,
): { layers: Layer[]; ids: Map<string, string> } {
  const ids = new Map(layers.map((l) => [l.id, newId()]));
  const to = (id: string) => ids.get(id) ?? id;
  return {
    ids,
    layers: layers.map((l) => ({
      ...structuredClone(l),
      id: to(l.id),
      parent: l.parent === null ? null : to(l.parent),
      mask: l.mask && { ...l.mask, id: masks.get(l.mask.id) ?? l.mask.id },
      echo: l.echo && {
        ...structuredClone(l.echo),
        of: to(l.echo.of),
        members: Object.fromEntries(Object.entries(l.echo.members).map(([id, w]) => [to(id), w])),
      },
    })),
  };
}

export function duplicateLayers(sheet: Sheet, store: TileStore, ids: readonly string[], newId: () => string): Work {
  const roots = outermost(sheet.layers, ids);
  if (roots.length === 0) throw new WorkError('There is no layer to duplicate: choose one');
  const blocks = blocksOf(sheet.layers, ids);
  checkLayerCount(sheet, blocks.length);
  const copy = renamed(blocks, newId, new Map());
  const top = roots.at(-1)!;
  const taken = sheet.layers.map((l) => l.name);
  const copies = copy.layers.map((l, n) => {
    if (!roots.includes(blocks[n])) return l;
    const name = freeName(l.name, taken);
    taken.push(name);
    return { ...l, name, parent: top.parent };
  });
  const index = indexOfPlace(sheet.layers, { parent: top.parent, above: top.id });
  return {
    edit: batch(addAll(sheet, copies, index)),
    label: `Duplicate ${roots.length === 1 ? roots[0].name : `${roots.length} layers`}`,
    changes: copiedTiles(planesOf(sheet, blocks, []), store, (id) => copy.ids.get(id)!),
    select: roots.map((r) => copy.ids.get(r.id)!),
  };
}

function copiedTiles(planes: ReturnType<typeof planesOfSheet>, store: TileStore, to: (id: string) => string): TileChange[] {
  return planes.flatMap(({ key, owner, map }) =>
    [...store.tilesOf(key)].map(([tile, after]) => ({ plane: planeKey(to(owner.id), map), tile, before: null, after })),
  );
}

/** What goes onto the clipboard. `hashOf` gives a tile's address. */
export async function copyLayers(
  pieceId: string,
  sheet: Sheet,
  store: TileStore,
  ids: readonly string[],
  hashOf: (version: TileVersion) => Promise<string>,
): Promise<Clip> {
  const roots = new Set(outermost(sheet.layers, ids).map((r) => r.id));
  const layers = blocksOf(sheet.layers, ids).map((l) => (roots.has(l.id) ? { ...l, parent: null } : l));
  const masks = masksOf(sheet, layers);
  const shown = picturesUsed(layers, masks);
  const pictures = sheet.pictures.filter((p) => shown.has(p.id));
  const tiles: Clip['tiles'] = [];
  for (const { key } of planesOf(sheet, layers, masks, pictures))
    for (const [tile, version] of store.tilesOf(key))
      if (version.data || version.hash) tiles.push([key, tile, await hashOf(version)]);
  return { pieceId, width: sheet.width, height: sheet.height, layers, masks, ownMaps: sheet.ownMaps, pictures, tiles };
}

/** Puts a clip above a layer. `versions`: its tiles, with pixels in memory, by address. */
export function pasteLayers(
  sheet: Sheet,
  clip: Clip,
  place: Place,
  versions: ReadonlyMap<string, TileVersion>,
  newId: () => string,
): Work {
  checkLayerCount(sheet, clip.layers.length);
  // A mask that this very sheet has already stays the one mask; others come along.
  const masks = clip.masks.filter((m) => !sheet.masks.some((own) => own.id === m.id));
  const maskIds = new Map(masks.map((m) => [m.id, newId()]));
  const pictures = clip.pictures.filter((p) => !sheet.pictures.some((own) => own.id === p.id));
  const pictureIds = new Map(pictures.map((p) => [p.id, newId()]));
  const stepIds = new Map(masks.flatMap((m) => m.steps.map((s) => [s.id, maskIds.get(s.id) ?? newId()])));
  const { layers, ids } = renamed(clip.layers, newId, maskIds);
  const to: Renaming = {
    layer: (id) => ids.get(id) ?? id,
    mask: (id) => maskIds.get(id) ?? id,
    picture: (id) => pictureIds.get(id) ?? id,
  };
  const taken = sheet.layers.map((l) => l.name);
  const there = new Set(sheet.layers.map((l) => l.id));
  const pasted = layers.map((l) => {
    const root = l.parent === null;
    const name = root ? freeName(l.name, taken) : l.name;
    if (root) taken.push(name);
    const here = Object.entries(l.cells).filter(([map]) => sheet.maps.includes(map as MapId));
    const cells = renamedCells(Object.fromEntries(here), to);
    const lost = l.echo && ![...ids.values(), ...there].includes(l.echo.of);
    return {
      ...l,
      name,
      cells,
      parent: root ? place.parent : l.parent,
      note: lost ? `${l.note} (its original stayed behind)`.trim() : l.note,
    };
  });
  const owner = (id: string) => ids.get(id) ?? stepIds.get(id) ?? pictureIds.get(id);
  const planes = new Map<string, Map<TileIndex, TileVersion>>();
  for (const [key, tile, hash] of clip.tiles) {
    const version = versions.get(hash);
    if (version) planes.set(key, (planes.get(key) ?? new Map()).set(tile, version));
  }
  const changes: TileChange[] = [];
  for (const { key, owner: old, map } of planesOf(sheet, clip.layers, masks, pictures)) {
    const id = owner(old.id);
    const tiles = planes.get(key);
    if (!id || !tiles) continue;
    if (map === 'picture') {
      for (const [tile, after] of tiles) changes.push({ plane: planeKey(id, map), tile, before: null, after });
      continue;
    }
    if (map !== 'mask' && !sheet.maps.includes(map)) continue;
    for (const [tile, after] of fittedTiles(tiles, { ...clip, wrapU: sheet.wrapU, wrapV: sheet.wrapV }, sheet, map))
      changes.push({ plane: planeKey(id, map), tile, before: null, after });
  }
  const index = indexOfPlace(sheet.layers, place);
  const edits: Edit[] = masks.map((m, n) => ({
    type: 'add-mask',
    sheetId: sheet.id,
    index: sheet.masks.length + n,
    mask: { ...m, id: maskIds.get(m.id)!, steps: m.steps.map((s) => renamedStep(s, stepIds.get(s.id)!, to)) },
  }));
  if (pictures.length)
    edits.unshift(
      setSheetEdit(sheet, { pictures: [...sheet.pictures, ...pictures.map((p) => ({ ...p, id: pictureIds.get(p.id)! }))] }),
    );
  const roots = pasted.filter((l) => l.parent === place.parent && !pasted.some((p) => p.id === l.parent));
  return {
    edit: batch([...edits, ...addAll(sheet, pasted, index)]),
    label: `Paste ${roots.length === 1 ? roots[0].name : `${roots.length} layers`}`,
    changes,
    select: roots.map((r) => r.id),
  };
}

function fittedTiles(
  tiles: ReadonlyMap<TileIndex, TileVersion>,
  from: Extent & { wrapU?: boolean; wrapV?: boolean },
  to: Extent,
  map: MapId | 'mask',
): Iterable<[TileIndex, TileVersion]> {
  if (from.width === to.width && from.height === to.height) return tiles;
  const channels = storedChannels(map);
  const pixels = pictureFromTiles(tiles, from.width, from.height, channels);
  const fitted = reshapePlane(pixels, from, map, { kind: 'resize', width: to.width, height: to.height });
  return [...tilesFromPicture(fitted, to.width, to.height, channels)].map(([tile, data]) => [tile, { data, hash: null }]);
}

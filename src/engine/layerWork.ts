/**
 * Changes that need both the document and its pixels: copying, pasting, merging, reshaping, filling masks, laying
 * down pictures. Each gives an edit, the tiles that change with it, and what to select afterwards.
 */
import { asksOf } from '../core/document/layer';
import { STEPS } from '../core/kinds/steps';
import type { Renaming } from '../core/kinds/steps/step';
import type { Bitmap } from '../core/tile/bitmap';
import { arrangeEdit, batch, reshapeEdit, setMaskEdit, setSheetEdit, type Edit } from '../core/document/edits';
import { freeName, newPaintedLayer } from '../core/document/factory';
import { storedChannels, type MapId } from '../core/kinds/maps';
import {
  LIMITS,
  paintedStep,
  paintStep,
  picturesUsed,
  type Layer,
  type Mask,
  type Picture,
  type Sheet,
  type Step,
} from '../core/document/schema';
import { planeKey, planesOfSheet } from '../core/document/planes';
import { blocksOf, indexOfPlace, membersOf, moved, outermost, type Place } from '../core/document/tree';
import { fitPicture } from '../core/tile/fit';
import { extentFault, reshapedExtent, reshapePlane, type Reshape } from '../core/document/reshape';
import {
  pictureFromTiles,
  tilesFromPicture,
  type TileChange,
  type TileIndex,
  type TileStore,
  type TileVersion,
} from '../core/tile/tiles';
import { mergedPaint } from '../core/strata/merge';
import type { TileCache } from '../core/strata/tileCache';

export interface Work {
  edit: Edit;
  label: string;
  changes: TileChange[];
  select?: string[];
}

/** Thrown with one sentence for people. */
export class WorkError extends Error {}

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

const addAll = (sheet: Sheet, layers: readonly Layer[], index: number): Edit[] =>
  layers.map((layer, n) => ({ type: 'add-layer', sheetId: sheet.id, index: index + n, layer }));

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

function checkLayerCount(sheet: Sheet, more: number): void {
  if (sheet.layers.length + more > LIMITS.maxLayers)
    throw new WorkError(
      `A sheet holds up to ${LIMITS.maxLayers.toLocaleString('en')} layers, and this would be more: merge some first`,
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
    for (const [tile, after] of fittedTiles(tiles, clip, sheet, map))
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
  from: { width: number; height: number },
  to: { width: number; height: number },
  map: MapId | 'mask',
): Iterable<[TileIndex, TileVersion]> {
  if (from.width === to.width && from.height === to.height) return tiles;
  const channels = storedChannels(map);
  const pixels = pictureFromTiles(tiles, from.width, from.height, channels);
  const fitted = reshapePlane(pixels, from, map, { kind: 'resize', width: to.width, height: to.height });
  return [...tilesFromPicture(fitted, to.width, to.height, channels)].map(([tile, data]) => [tile, { data, hash: null }]);
}

/** Takes layers out, from the top down so that places stay right. */
export const removeAll = (sheet: Sheet, layers: readonly Layer[]): Edit[] =>
  sheet.layers
    .map((layer, index) => ({ layer, index }))
    .filter(({ layer }) => layers.includes(layer))
    .toReversed()
    .map(({ layer, index }) => ({ type: 'remove-layer', sheetId: sheet.id, index, layer }));

export type MergeHow = 'down' | 'selected' | 'visible' | 'flatten';

/**
 * `down`: a layer with the one right below it (a group: with all in it). `selected`: all that are chosen.
 * `visible`: a copy of all that shows, on top. `flatten`: everything into one painted layer.
 */
export function mergeLayers(
  sheet: Sheet,
  store: TileStore,
  how: MergeHow,
  ids: readonly string[],
  newId: () => string,
  cache?: TileCache,
): Work {
  const roots = how === 'visible' || how === 'flatten' ? membersOf(sheet.layers, null) : mergeRoots(sheet, how, ids);
  const rootIds = roots.map((r) => r.id);
  const gone = how === 'visible' ? [] : blocksOf(sheet.layers, rootIds);
  const locked = gone.find((l) => l.lock !== 'none');
  if (locked) throw new WorkError(`"${locked.name}" is locked, so it cannot be merged: unlock it first`);
  const id = newId();
  const paint = mergedPaint(sheet, store, rootIds, id, cache);
  const base = roots[0];
  const name =
    how === 'visible'
      ? freeName(
          'Merged',
          sheet.layers.map((l) => l.name),
        )
      : how === 'flatten'
        ? 'Flattened'
        : base.name;
  const kept = how === 'down' || how === 'selected';
  const layer: Layer = {
    ...newPaintedLayer(id, name, paint.maps),
    parent: kept ? base.parent : null,
    blend: kept ? base.blend : 'normal',
    tag: kept ? base.tag : 0,
  };
  // How the lowest one blended with what lies below stays, map by map.
  if (kept) for (const map of paint.maps) if (base.cells[map]?.blend) layer.cells[map]!.blend = base.cells[map].blend;
  if (how === 'visible') {
    checkLayerCount(sheet, 1);
    return {
      edit: batch(addAll(sheet, [layer], sheet.layers.length)),
      label: 'Merged copy of the visible',
      changes: paint.changes,
      select: [id],
    };
  }
  const rest = sheet.layers.filter((l) => !gone.includes(l));
  const below = membersOf(sheet.layers, base.parent);
  const under = below[below.indexOf(base) - 1];
  const index = how === 'flatten' ? 0 : indexOfPlace(rest, { parent: base.parent, above: under?.id ?? null });
  return {
    edit: batch([...removeAll(sheet, gone), ...addAll(sheet, [layer], index)]),
    label: how === 'flatten' ? 'Flatten' : `Merge into ${base.name}`,
    changes: paint.changes,
    select: [id],
  };
}

function mergeRoots(sheet: Sheet, how: 'down' | 'selected', ids: readonly string[]): Layer[] {
  const roots = outermost(sheet.layers, ids);
  if (how === 'selected' || roots.length > 1) {
    if (roots.some((r) => r.parent !== roots[0].parent))
      throw new WorkError('The chosen layers lie in different groups: choose layers of one group to merge them');
    return roots;
  }
  const layer = roots[0];
  if (!layer) throw new WorkError('There is no layer to merge: choose one');
  if (layer.kind === 'group') return [layer];
  const siblings = membersOf(sheet.layers, layer.parent);
  const below = siblings[siblings.indexOf(layer) - 1];
  if (!below) throw new WorkError(`There is nothing right below "${layer.name}" to merge it with`);
  return [below, layer];
}

/** Puts chosen layers into a new group in their place. */
export function groupLayers(sheet: Sheet, group: Layer, ids: readonly string[]): Edit {
  const roots = outermost(sheet.layers, ids);
  const top = roots.at(-1);
  const place: Place = top ? { parent: top.parent, above: top.id } : { parent: null, above: sheet.layers.at(-1)?.id ?? null };
  const index = indexOfPlace(sheet.layers, place);
  const withGroup = sheet.layers.toSpliced(index, 0, { ...group, parent: place.parent });
  const add: Edit = { type: 'add-layer', sheetId: sheet.id, index, layer: { ...group, parent: place.parent } };
  if (roots.length === 0) return add;
  const after = moved(
    withGroup,
    roots.map((r) => r.id),
    { parent: group.id, above: null },
  )!;
  return batch([add, arrangeEdit({ ...sheet, layers: withGroup }, after)]);
}

/** The members take the group's place. */
export function ungroupLayers(sheet: Sheet, groupId: string): Edit {
  const group = sheet.layers.find((l) => l.id === groupId)!;
  const members = membersOf(sheet.layers, groupId).map((l) => l.id);
  const after = moved(sheet.layers, members, { parent: group.parent, above: groupId })!;
  const index = after.findIndex((l) => l.id === groupId);
  return batch([arrangeEdit(sheet, after), { type: 'remove-layer', sheetId: sheet.id, index, layer: group }]);
}

/** All tiles of a plane give way to others. */
function replaced(
  plane: string,
  old: ReadonlyMap<TileIndex, TileVersion>,
  fresh: ReadonlyMap<TileIndex, Uint16Array>,
): TileChange[] {
  return [...new Set([...old.keys(), ...fresh.keys()])].map((tile) => {
    const data = fresh.get(tile);
    return { plane, tile, before: old.get(tile) ?? null, after: data ? { data, hash: null } : null };
  });
}

export function reshapeSheet(sheet: Sheet, store: TileStore, by: Reshape): Work {
  if (sheet.materialIndex !== null && by.kind !== 'resize')
    throw new WorkError(
      'The model’s UVs say where this sheet lies, so it can only be resized: crop, turn and mirror are for canvases',
    );
  const to = reshapedExtent(sheet, by);
  const fault = extentFault(to);
  if (fault) throw new WorkError(fault);
  const changes: TileChange[] = [];
  for (const { key, map } of planesOfSheet(sheet)) {
    const old = store.tilesOf(key);
    // Pictures have a size of their own.
    if (old.size === 0 || map === 'picture') continue;
    const channels = storedChannels(map);
    const pixels = reshapePlane(pictureFromTiles(old, sheet.width, sheet.height, channels), sheet, map, by);
    const fresh = tilesFromPicture(pixels, to.width, to.height, channels);
    changes.push(...replaced(key, old, fresh));
  }
  const quarter = by.kind === 'turn' && by.quarters !== 2;
  const after: Partial<Sheet> = {
    ...to,
    // Relief keeps its size in texels, except where the texels themselves are resized.
    heightSpan: by.kind === 'resize' ? sheet.heightSpan : Math.min(0.2, (sheet.heightSpan * sheet.width) / to.width),
    wrapU: quarter ? sheet.wrapV : sheet.wrapU,
    wrapV: quarter ? sheet.wrapU : sheet.wrapV,
  };
  const what = { resize: 'Resize', frame: 'Crop or extend', turn: 'Turn', mirror: 'Mirror' }[by.kind];
  return {
    edit: reshapeEdit(sheet, after),
    label: `${what} ${sheet.name}: ${to.width} × ${to.height}`,
    changes,
  };
}

/** Makes a mask even and only painted: its steps and its paint go, its ground is set. */
export function fillMask(sheet: Sheet, store: TileStore, mask: Mask, value: number): Work {
  const kept = paintedStep(mask)?.id ?? mask.id;
  const gone = mask.steps.filter((s) => STEPS[s.source.type].painted).map((s) => planeKey(s.id, 'mask'));
  return {
    edit: setMaskEdit(sheet, mask, { ground: value, invert: false, steps: [paintStep(kept)] }),
    label: `${value >= 0.5 ? 'Fill' : 'Clear'} ${mask.name}`,
    changes: gone.flatMap((plane) => [...store.tilesOf(plane)].map(([tile, before]) => ({ plane, tile, before, after: null }))),
  };
}

/** A picture on its way to a sheet, under the id that it will go by. */
export interface NewPicture {
  id: string;
  name: string;
  encoding: Picture['encoding'];
  picture: Bitmap;
}

/** Takes pictures up into a sheet, made smaller where they are too large, together with an edit that uses them. */
export function addPictures(sheet: Sheet, pictures: readonly NewPicture[], then: Edit, label: string, select?: string[]): Work {
  if (sheet.pictures.length + pictures.length > LIMITS.maxPictures)
    throw new WorkError(`A sheet holds up to ${LIMITS.maxPictures} pictures, and this would be more: delete some first`);
  const changes: TileChange[] = [];
  const added = pictures.map(({ id, name, encoding, picture }): Picture => {
    const shrink = Math.min(1, LIMITS.maxPictureSide / Math.max(picture.width, picture.height));
    const width = Math.max(1, Math.round(picture.width * shrink));
    const height = Math.max(1, Math.round(picture.height * shrink));
    const pixels = fitPicture(picture, width, height, 4, encoding === 'srgb');
    for (const [tile, data] of tilesFromPicture(pixels, width, height, 4))
      changes.push({ plane: planeKey(id, 'picture'), tile, before: null, after: { data, hash: null } });
    return { id, name, width, height, encoding };
  });
  return {
    edit: batch([setSheetEdit(sheet, { pictures: [...sheet.pictures, ...added] }), then]),
    label,
    changes,
    select,
  };
}

/**
 * A sheet seen from afar: the same layers and masks over a few texels (128 a side: one tile), for thumbnails of anything
 * in the strata and for a first, coarse picture of what takes long. Paint is averaged over a few samples a texel; filters that count in texels are scaled.
 */
import { storedChannels, type PlaneMap } from '../kinds/maps';
import { type Sheet } from '../document/schema';
import { planesOfSheet } from '../document/planes';
import { stampOf, TILE, tileIndex, tilesFromPicture, TileStore } from '../tile/tiles';
import type { StrataSource } from '../strata/evaluator';
import { scaledSettings } from '../kinds/control';
import { FILTERS, type Filter } from '../kinds/filters';
import { shareSurfaces } from '../strata/surfaceUnder';
import { TileCache } from '../strata/tileCache';

/** Samples along each side of a texel of the miniature. */
const SAMPLES = 3;
export const scaledFilter = (filter: Filter, scale: number): Filter =>
  scaledSettings(FILTERS[filter.type].controls, filter, scale);

/** What thumbnails and coarse pictures have in common is computed once. */
const CACHE_BYTES = 48 * 1024 * 1024;

interface Known {
  stamps: Map<string, number>;
  store: TileStore;
  cache: TileCache;
}
const known = new WeakMap<TileStore, Map<string, Known>>();

/** The miniature of a sheet as it is now; what has not changed since the last time is used again. */
export function miniatureOf(sheet: Sheet, store: TileStore, side = TILE): StrataSource & { cache: TileCache } {
  const scale = Math.min(1, side / Math.max(sheet.width, sheet.height));
  const width = Math.max(1, Math.round(sheet.width * scale));
  const height = Math.max(1, Math.round(sheet.height * scale));
  const filters = (list: Filter[]) => list.map((f) => scaledFilter(f, scale));
  const small: Sheet = {
    ...sheet,
    id: `${sheet.id}~${side}`,
    width,
    height,
    layers: sheet.layers.map((l) => ({
      ...l,
      filter: l.filter && scaledFilter(l.filter, scale),
      echo: l.echo && { ...l.echo, filters: filters(l.echo.filters) },
    })),
    masks: sheet.masks.map((m) => ({ ...m, steps: m.steps.map((s) => ({ ...s, filters: filters(s.filters) })) })),
  };
  const bySheet = known.get(store) ?? known.set(store, new Map()).get(store)!;
  const key = `${sheet.id} ${sheet.width} ${sheet.height} ${side}`;
  let mine = bySheet.get(key);
  if (!mine) bySheet.set(key, (mine = { stamps: new Map(), store: new TileStore(), cache: new TileCache(CACHE_BYTES) }));
  shareSurfaces(store, mine.store);
  const wanted = new Set<string>();
  for (const plane of planesOfSheet(sheet)) {
    wanted.add(plane.key);
    let stamp = 1;
    for (const [tile, version] of store.tilesOf(plane.key))
      stamp = (Math.imul(stamp, 31) + (version.data ? stampOf(version) : 0) + tile) | 0;
    if (mine.stamps.get(plane.key) === stamp) continue;
    mine.stamps.set(plane.key, stamp);
    for (const tile of [...mine.store.tilesOf(plane.key).keys()]) mine.store.set(plane.key, tile, null);
    if (plane.map === 'picture') for (const [tile, v] of store.tilesOf(plane.key)) mine.store.set(plane.key, tile, v);
    else if (store.tilesOf(plane.key).size > 0) {
      const pixels = shrunk(store, plane.key, plane.map, sheet, width, height);
      for (const [tile, data] of tilesFromPicture(pixels, width, height, storedChannels(plane.map)))
        mine.store.set(plane.key, tile, { data, hash: null });
    }
  }
  for (const plane of mine.store.planeKeys())
    if (!wanted.has(plane)) for (const tile of [...mine.store.tilesOf(plane).keys()]) mine.store.set(plane, tile, null);
  return { sheet: small, store: mine.store, cache: mine.cache };
}

/** Painted texels averaged over a few samples, weighted by their coverage. */
function shrunk(store: TileStore, key: string, map: PlaneMap, sheet: Sheet, width: number, height: number): Uint16Array {
  const channels = storedChannels(map);
  const out = new Uint16Array(width * height * channels);
  const sum = [0, 0, 0];
  for (let py = 0; py < height; py++)
    for (let px = 0; px < width; px++) {
      sum.fill(0);
      let cover = 0;
      for (let n = 0; n < SAMPLES * SAMPLES; n++) {
        const x = Math.floor(((px + ((n % SAMPLES) + 0.5) / SAMPLES) / width) * sheet.width);
        const y = Math.floor(((py + (Math.floor(n / SAMPLES) + 0.5) / SAMPLES) / height) * sheet.height);
        const data = store.get(key, tileIndex((x / TILE) | 0, (y / TILE) | 0))?.data;
        if (!data) continue;
        const o = ((y % TILE) * TILE + (x % TILE)) * channels;
        const a = data[o + channels - 1];
        for (let c = 0; c < channels - 1; c++) sum[c] += data[o + c] * a;
        cover += a;
      }
      if (cover === 0) continue;
      const o = (py * width + px) * channels;
      for (let c = 0; c < channels - 1; c++) out[o + c] = sum[c] / cover + 0.5;
      out[o + channels - 1] = cover / (SAMPLES * SAMPLES) + 0.5;
    }
  return out;
}

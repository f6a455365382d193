/** Painting demo layers by rule, texel by texel, straight into tiles. */
import { MAP_IDS, storedChannels, type MapId } from '../src/core/document/maps';
import { planeKey, type Sheet } from '../src/core/document/schema';
import type { SurfaceMap } from '../src/core/mesh/surfaceMap';
import type { Model } from '../src/core/mesh/model';
import { TILE, TILE_TEXELS, tileIndex, tilesAcross, TileStore } from '../src/core/raster/tiles';

/** What a rule lays down at a texel: for each map its value(s), and one coverage 0..1. */
export type Dabs = { cover: number } & Partial<Record<MapId, readonly number[]>>;

/** Rules are asked tile by tile, so the arrays of the tile at hand are kept ready: one a map. */
class Writer {
  private tile = -1;
  private ready: (Uint16Array | null)[] = [];
  constructor(
    private store: TileStore,
    private layerId: string,
  ) {}

  put(x: number, y: number, dabs: Dabs): void {
    const tile = tileIndex((x / TILE) | 0, (y / TILE) | 0);
    if (tile !== this.tile) {
      this.tile = tile;
      this.ready = MAP_IDS.map(() => null);
    }
    const i = (y % TILE) * TILE + (x % TILE);
    for (let m = 0; m < MAP_IDS.length; m++) {
      const value = dabs[MAP_IDS[m]];
      if (!value) continue;
      const channels = storedChannels(MAP_IDS[m]);
      let data = this.ready[m];
      if (!data) {
        data = this.ready[m] = new Uint16Array(TILE_TEXELS * channels);
        this.store.set(planeKey(this.layerId, MAP_IDS[m]), tile, { data, hash: null });
      }
      const o = i * channels;
      for (let c = 0; c < channels - 1; c++) data[o + c] = Math.min(1, Math.max(0, value[c])) * 65535 + 0.5;
      data[o + channels - 1] = Math.min(1, dabs.cover) * 65535 + 0.5;
    }
  }
}

export interface SurfaceTexel {
  x: number;
  y: number;
  z: number;
  nx: number;
  ny: number;
  nz: number;
  part: string;
  /** Texel in the sheet. */
  tx: number;
  ty: number;
}

export function paintSurface(
  store: TileStore,
  layerId: string,
  map: SurfaceMap,
  model: Model,
  rule: (t: SurfaceTexel) => Dabs | null,
): void {
  const writer = new Writer(store, layerId);
  for (const tile of map.tiles.values())
    for (let i = 0; i < TILE_TEXELS; i++) {
      const f = tile.face[i];
      if (f < 0) continue;
      const tx = tile.x * TILE + (i % TILE);
      const ty = tile.y * TILE + ((i / TILE) | 0);
      if (tx >= map.width || ty >= map.height) continue;
      const dabs = rule({
        x: tile.position[i * 3],
        y: tile.position[i * 3 + 1],
        z: tile.position[i * 3 + 2],
        nx: tile.normal[i * 3] / 127,
        ny: tile.normal[i * 3 + 1] / 127,
        nz: tile.normal[i * 3 + 2] / 127,
        part: model.parts[model.facePart[f]],
        tx,
        ty,
      });
      if (dabs && dabs.cover > 0.002) writer.put(tx, ty, dabs);
    }
}

/** Paints a mask by rule: what it shows at a texel, 0..1. */
export function paintMask(
  store: TileStore,
  maskId: string,
  map: SurfaceMap,
  model: Model,
  rule: (t: SurfaceTexel) => number,
): void {
  const values = new TileStore();
  // As the height of a passing layer, then moved over: a mask is stored just as a value map is.
  paintSurface(values, maskId, map, model, (t) => ({ cover: 1, height: [rule(t)] }));
  for (const [tile, version] of values.tilesOf(planeKey(maskId, 'height'))) store.set(planeKey(maskId, 'mask'), tile, version);
}

export function paintCanvas(store: TileStore, layerId: string, sheet: Sheet, rule: (x: number, y: number) => Dabs | null): void {
  const writer = new Writer(store, layerId);
  for (let ty = 0; ty < tilesAcross(sheet.height); ty++)
    for (let tx = 0; tx < tilesAcross(sheet.width); tx++)
      for (let y = ty * TILE; y < Math.min(sheet.height, (ty + 1) * TILE); y++)
        for (let x = tx * TILE; x < Math.min(sheet.width, (tx + 1) * TILE); x++) {
          const dabs = rule(x, y);
          if (dabs && dabs.cover > 0.002) writer.put(x, y, dabs);
        }
}

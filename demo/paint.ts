/** Painting demo layers by rule, texel by texel, straight into tiles. */
import { MAP_IDS, storedChannels, type MapId } from '../src/core/kinds/maps';
import { planeKey } from '../src/core/document/planes';
import type { SurfaceMap } from '../src/core/mesh/surfaceMap/surfaceMap';
import type { Model } from '../src/core/mesh/model';
import { TILE, TILE_TEXELS, tileIndex, type TileStore } from '../src/core/tile/tiles';

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

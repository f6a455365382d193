/** Which texels of a sheet an island has. */
import { TILE } from '../../tile/tiles';
import { visitTriangle } from './corners';
import type { SurfaceMap } from './surfaceMap';

/** 1 where the middle of a texel lies on an island, at any size of the sheet: width × height. Slivers have one texel at least. */
export function islandTexels(map: SurfaceMap, width: number, height: number): Uint8Array {
  const out = new Uint8Array(width * height);
  const scale = [width / map.width, height / map.height];
  const scaled = { cornersTexels: map.cornersTexels.map((v, i) => v * scale[i & 1]), width, height };
  for (let f = 0; f < map.shadowed.length; f++) {
    const o = f * 6;
    const c = scaled.cornersTexels;
    if (!Number.isFinite(c[o])) continue;
    let found = false;
    visitTriangle(scaled, f, (x, y) => {
      out[y * width + x] = 1;
      found = true;
    });
    if (found) continue;
    const [x, y] = [0, 1].map((k) => Math.floor((c[o + k] + c[o + 2 + k] + c[o + 4 + k]) / 3));
    if (x >= 0 && y >= 0 && x < width && y < height) out[y * width + x] = 1;
  }
  return out;
}

/** 1 where the sheet has an island or its gutter: width × height. */
export function coveredTexels(map: SurfaceMap): Uint8Array {
  const out = new Uint8Array(map.width * map.height);
  for (const tile of map.tiles.values()) {
    const columns = Math.min(TILE, map.width - tile.x * TILE);
    for (let y = 0; y < Math.min(TILE, map.height - tile.y * TILE); y++)
      for (let x = 0; x < columns; x++)
        if (tile.face[y * TILE + x] >= 0) out[(tile.y * TILE + y) * map.width + tile.x * TILE + x] = 1;
  }
  return out;
}

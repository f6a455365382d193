/** Where a bake met nothing of its twin: one place for each island and part of the sheet, those with most texels first. */
import { planeKey } from '../document/planes';
import type { Picture } from '../document/schema';
import { TILE, tileIndex, tileX, tileY, type TileIndex, type TileStore } from '../tile/tiles';
import type { Surface } from '../mesh/surface';

export interface Miss {
  part: string;
  island: number;
  /** Texels of the bake. */
  count: number;
  /** In the middle of them: on the model, how it faces there, and on the sheet, 0 … 1. */
  place: [number, number, number];
  normal: [number, number, number];
  u: number;
  v: number;
}

/** So many are listed. */
const MOST = 12;

export function missesOf(store: TileStore, picture: Picture, surface: Surface): Miss[] {
  const plane = planeKey(picture.id, 'picture');
  const found = new Map<number, { count: number; at: { tile: TileIndex; i: number }[] }>();
  const tiles = store.tilesOf(plane);
  const { width, height } = picture;
  for (const [tile, { face }] of surface.tiles)
    for (let i = 0; i < face.length; i += STEP) {
      if (face[i] < 0) continue;
      const x = Math.floor(((tileX(tile) * TILE + (i % TILE) + 0.5) / surface.width) * width);
      const y = Math.floor(((tileY(tile) * TILE + Math.floor(i / TILE) + 0.5) / surface.height) * height);
      if (x >= width || y >= height) continue;
      const data = tiles.get(tileIndex((x / TILE) | 0, (y / TILE) | 0))?.data;
      if (data && data[((y % TILE) * TILE + (x % TILE)) * 4 + 3] > 0) continue;
      const island = surface.faceIsland[face[i]];
      const group = found.get(island) ?? { count: 0, at: [] };
      group.count++;
      group.at.push({ tile, i });
      found.set(island, group);
    }
  const scale = (STEP * width * height) / (surface.width * surface.height);
  return [...found]
    .map(([island, { count, at }]) => describe(surface, island, Math.max(1, Math.round(count * scale)), at))
    .sort((a, b) => b.count - a.count)
    .slice(0, MOST);
}

/** Every third texel is looked at: a miss that is worth going to has more. */
const STEP = 3;

/** Of an island's misses the one that is nearest to their middle on the sheet. */
function describe(surface: Surface, island: number, count: number, at: readonly { tile: TileIndex; i: number }[]): Miss {
  const uv = at.map(({ tile, i }) => [tileX(tile) * TILE + (i % TILE) + 0.5, tileY(tile) * TILE + Math.floor(i / TILE) + 0.5]);
  const middle = [0, 1].map((k) => uv.reduce((sum, p) => sum + p[k], 0) / uv.length);
  let best = 0;
  const away = (n: number) => (uv[n][0] - middle[0]) ** 2 + (uv[n][1] - middle[1]) ** 2;
  for (let n = 1; n < uv.length; n++) if (away(n) < away(best)) best = n;
  const { tile, i } = at[best];
  const { position, normal, face } = surface.tiles.get(tile)!;
  const three = (of: ArrayLike<number>, by: number) =>
    [of[i * 3] / by, of[i * 3 + 1] / by, of[i * 3 + 2] / by] as [number, number, number];
  return {
    part: surface.parts[surface.facePart[face[i]]],
    island,
    count,
    place: three(position, 1),
    normal: three(normal, 127),
    u: uv[best][0] / surface.width,
    v: uv[best][1] / surface.height,
  };
}

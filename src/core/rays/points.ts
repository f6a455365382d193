/**
 * The points of a tile that are baked: where each texel's middle (or, finer, each of its parts) lies on the model. Texels of the
 * gutter take the place of the island's edge that is nearest, so that a bake has no rims at its seams. Those that no filter
 * reaches from the island at full size are copies of what is baked there: on the lantern at 2048² one texel in eight.
 */
import { POINT_NUMBERS } from '../../kernels/rays';
import type { Model } from '../mesh/model';
import { BLOCK, type SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import { TILE, tileIndex, tileX, tileY, type TileIndex } from '../tile/tiles';
import { seedAt } from './directions';

/** Parts a side that each texel is baked in. */
export const SUPERSAMPLES = [1, 2, 4, 8] as const;
export type Supersample = (typeof SUPERSAMPLES)[number];

export interface Points {
  count: number;
  /** As kernels/rays.ts has them: place, shading normal, the face's own normal, seed. */
  data: Float32Array;
  seeds: Uint32Array;
  /** Triangle of each, and the weights of its corners. */
  face: Int32Array;
  weights: Float32Array;
  /** Texel of the tile that each belongs to, block by block. */
  texel: Int32Array;
  /** 1: the point lies in the gutter, beside its triangle. */
  gutter: Uint8Array;
  /** Texels of the tile that get what others have: to, from, in turn. */
  copies: number[];
}

/** Texels off the island from which on the gutter is copied: a bilinear filter reaches one. */
const FAR = 1.5;

/** Texels of a tile block by block, and within one along Morton's curve, so that rays stay together. */
const ORDER = (() => {
  const out = new Int32Array(TILE * TILE);
  const spread = (v: number) => (v & 1) | ((v & 2) << 1) | ((v & 4) << 2);
  const per = TILE / BLOCK;
  for (let y = 0; y < TILE; y++)
    for (let x = 0; x < TILE; x++) {
      const block = Math.floor(y / BLOCK) * per + Math.floor(x / BLOCK);
      out[block * BLOCK * BLOCK + (spread(x % BLOCK) | (spread(y % BLOCK) << 1))] = y * TILE + x;
    }
  return out;
})();

/** Room for points: grown where it does not do. */
class Room {
  data = new Float32Array(0);
  face = new Int32Array(0);
  weights = new Float32Array(0);
  texel = new Int32Array(0);
  gutter = new Uint8Array(0);
  private length = 0;

  points(most: number): Points {
    if (most > this.length) {
      this.length = most;
      this.data = new Float32Array(most * POINT_NUMBERS);
      this.face = new Int32Array(most);
      this.weights = new Float32Array(most * 3);
      this.texel = new Int32Array(most);
      this.gutter = new Uint8Array(most);
    }
    const { data, face, weights, texel, gutter } = this;
    return { count: 0, data, seeds: new Uint32Array(data.buffer), face, weights, texel, gutter, copies: [] };
  }
}

const NEIGHBOURS = [
  [0, 0],
  ...[-1, 0, 1].flatMap((y) => [-1, 0, 1].filter((x) => x !== 0 || y !== 0).map((x) => [x, y])),
] as const;

export class PointMaker {
  private room = new Room();
  private w = [0, 0, 0];

  constructor(
    private model: Pick<Model, 'positions' | 'normals' | 'indices'>,
    private map: SurfaceMap,
  ) {}

  /** All points of a tile; the next call takes their room. Empty where the tile lies off all islands. */
  of(tile: TileIndex, supersample: Supersample): Points {
    const s = this.map.tiles.get(tile);
    const out = this.room.points(s ? TILE * TILE * supersample * supersample : 0);
    if (!s) return out;
    const [x0, y0] = [tileX(tile) * TILE, tileY(tile) * TILE];
    for (const i of ORDER) {
      if (s.face[i] < 0) continue;
      const [x, y] = [x0 + (i % TILE), y0 + Math.floor(i / TILE)];
      if (supersample === 1) this.put(out, tile, i, s.face[i], x + 0.5, y + 0.5, seedAt(x, y), true);
      else this.parts(out, tile, i, s.face[i], x, y, supersample);
    }
    return out;
  }

  private parts(out: Points, tile: TileIndex, i: number, face: number, x: number, y: number, n: Supersample): void {
    const before = out.count;
    for (let q = 0; q < n * n; q++) {
      const px = x + ((q % n) + 0.5) / n;
      const py = y + (Math.floor(q / n) + 0.5) / n;
      const owner = this.ownerOf(face, px, py, x, y);
      if (owner >= 0) this.put(out, tile, i, owner, px, py, seedAt(x * n + (q % n), y * n + Math.floor(q / n)), false);
    }
    // Nothing of it lies on an island: it is gutter.
    if (out.count === before) this.put(out, tile, i, face, x + 0.5, y + 0.5, seedAt(x * n, y * n), true);
  }

  /** The face that a place of the sheet lies in, among those of the texel and of the ones around; −1: in none. */
  private ownerOf(face: number, px: number, py: number, x: number, y: number): number {
    for (const [dx, dy] of NEIGHBOURS) {
      const f = dx === 0 && dy === 0 ? face : this.faceAt(x + dx, y + dy);
      if (f >= 0 && this.weigh(f, px, py) >= -1e-6) return f;
    }
    return -1;
  }

  private faceAt(x: number, y: number): number {
    if (x < 0 || y < 0) return -1;
    return this.map.tiles.get(tileIndex(x >> 7, y >> 7))?.face[(y & (TILE - 1)) * TILE + (x & (TILE - 1))] ?? -1;
  }

  /** Weights of a face's corners at a place of the sheet; the least of them. */
  private weigh(f: number, px: number, py: number): number {
    const c = this.map.cornersTexels;
    const o = f * 6;
    const [ux, uy] = [c[o + 2] - c[o], c[o + 3] - c[o + 1]];
    const [vx, vy] = [c[o + 4] - c[o], c[o + 5] - c[o + 1]];
    const area = ux * vy - vx * uy;
    const [qx, qy] = [px - c[o], py - c[o + 1]];
    const { w } = this;
    w[1] = (qx * vy - vx * qy) / area;
    w[2] = (ux * qy - qx * uy) / area;
    w[0] = 1 - w[1] - w[2];
    return Math.min(w[0], w[1], w[2]);
  }

  /** `clamp`: the place may lie outside of the face; then the nearest of its edges is taken. */
  private put(
    out: Points,
    tile: TileIndex,
    texel: number,
    face: number,
    px: number,
    py: number,
    seed: number,
    clamp: boolean,
  ): void {
    const inside = this.weigh(face, px, py);
    if (inside < 0 && clamp && this.toEdge(face, px, py) > FAR * FAR) {
      const from = this.texelOfRim(tile);
      if (from >= 0) return void out.copies.push(texel, from);
    }
    const { positions: p, normals, indices } = this.model;
    const n = out.count++;
    const w0 = this.w[0];
    const w1 = this.w[1];
    const w2 = this.w[2];
    const [a, b, c] = [indices[face * 3] * 3, indices[face * 3 + 1] * 3, indices[face * 3 + 2] * 3];
    const o = n * POINT_NUMBERS;
    const { data } = out;
    for (let k = 0; k < 3; k++) data[o + k] = p[a + k] * w0 + p[b + k] * w1 + p[c + k] * w2;
    let nx = normals[a] * w0 + normals[b] * w1 + normals[c] * w2;
    let ny = normals[a + 1] * w0 + normals[b + 1] * w1 + normals[c + 1] * w2;
    let nz = normals[a + 2] * w0 + normals[b + 2] * w1 + normals[c + 2] * w2;
    const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    let [gx, gy, gz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    const g = Math.sqrt(gx * gx + gy * gy + gz * gz);
    let l = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (g > 0) [gx, gy, gz] = [gx / g, gy / g, gz / g];
    // Normals of length zero, or a face without area, take what the other has.
    if (!(l > 1e-12)) [nx, ny, nz, l] = [gx, gy, gz, 1];
    [nx, ny, nz] = [nx / l, ny / l, nz / l];
    if (!(g > 0)) [gx, gy, gz] = [nx, ny, nz];
    // The side that is shaded is the outer one, however the corners run.
    const side = nx * gx + ny * gy + nz * gz < 0 ? -1 : 1;
    data[o + 3] = nx;
    data[o + 4] = ny;
    data[o + 5] = nz;
    data[o + 6] = gx * side;
    data[o + 7] = gy * side;
    data[o + 8] = gz * side;
    out.seeds[o + 9] = seed;
    out.face[n] = face;
    out.weights[n * 3] = w0;
    out.weights[n * 3 + 1] = w1;
    out.weights[n * 3 + 2] = w2;
    out.texel[n] = texel;
    out.gutter[n] = inside < -1e-6 ? 1 : 0;
  }

  /** The texel of a tile in which the place lies that `toEdge` found; −1: it lies outside of the tile, or nothing is there. */
  private texelOfRim(tile: TileIndex): number {
    const [x, y] = [Math.floor(this.rimX) - tileX(tile) * TILE, Math.floor(this.rimY) - tileY(tile) * TILE];
    if (x < 0 || y < 0 || x >= TILE || y >= TILE) return -1;
    const i = y * TILE + x;
    return this.map.tiles.get(tile)!.face[i] >= 0 ? i : -1;
  }
  private rimX = 0;
  private rimY = 0;

  /** Weights of the place on a face's rim, in the sheet, that is nearest to one outside of it; how far that is, squared. */
  private toEdge(f: number, px: number, py: number): number {
    const c = this.map.cornersTexels;
    const o = f * 6;
    let [best, from, share] = [Infinity, 0, 0];
    for (let k = 0; k < 3; k++) {
      const [a, b] = [o + k * 2, o + ((k + 1) % 3) * 2];
      const [ex, ey] = [c[b] - c[a], c[b + 1] - c[a + 1]];
      const t = Math.min(1, Math.max(0, ((px - c[a]) * ex + (py - c[a + 1]) * ey) / (ex * ex + ey * ey || 1)));
      const [x, y] = [c[a] + ex * t, c[a + 1] + ey * t];
      const d = (x - px) ** 2 + (y - py) ** 2;
      if (!(d < best)) continue;
      [best, from, share] = [d, k, t];
      [this.rimX, this.rimY] = [x, y];
    }
    this.w[0] = this.w[1] = this.w[2] = 0;
    this.w[from] = 1 - share;
    this.w[(from + 1) % 3] += share;
    return best;
  }
}

/**
 * Moves points out to where the surface lies that the normals speak of (Hanika, Hacking the shadow terminator, Ray Tracing Gems
 * II, 2021): rays of a coarse, smoothly shaded mesh begin there, and do not hit its neighbouring facets. Where it is hollow, or
 * flat, nothing moves.
 */
export function liftPoints(
  points: Points,
  { positions: p, normals, indices }: Pick<Model, 'positions' | 'normals' | 'indices'>,
): void {
  const { data, face, weights } = points;
  for (let n = 0; n < points.count; n++) {
    const o = n * POINT_NUMBERS;
    const [x, y, z] = [data[o], data[o + 1], data[o + 2]];
    let [lx, ly, lz] = [0, 0, 0];
    for (let k = 0; k < 3; k++) {
      const w = weights[n * 3 + k];
      const v = indices[face[n] * 3 + k] * 3;
      const below = (x - p[v]) * normals[v] + (y - p[v + 1]) * normals[v + 1] + (z - p[v + 2]) * normals[v + 2];
      if (below >= 0) continue;
      lx -= w * below * normals[v];
      ly -= w * below * normals[v + 1];
      lz -= w * below * normals[v + 2];
    }
    data[o] = x + lx;
    data[o + 1] = y + ly;
    data[o + 2] = z + lz;
  }
}

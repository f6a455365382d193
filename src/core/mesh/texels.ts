/**
 * The texels of a sheet as a graph on the surface: beside each texel of an island lie its four neighbours, over seams too, and
 * each texel of a gutter goes with the texel of its island that is nearest.
 */
import { TILE } from '../tile/tiles';
import type { SurfaceMap, SurfaceTile } from './surfaceMap/surfaceMap';
import type { SurfaceQuery } from './surfaceQuery';
import type { Islands } from './topology';
import { waysOf } from './ways';

/** A texel by number: row times the sheet's width plus column. */
export type Texel = number;

/** Of each texel of a tile the island that its middle lies in; −1: in none, or in a gutter. `island`: by face. */
export function islandsOf(
  { cornersTexels: c }: SurfaceMap,
  island: Islands['island'],
  { x: tx, y: ty, face }: SurfaceTile,
): Int32Array {
  const out = new Int32Array(face.length).fill(-1);
  for (let i = 0; i < face.length; i++) {
    const f = face[i];
    if (f < 0) continue;
    const o = f * 6;
    const px = tx * TILE + (i % TILE) + 0.5;
    const py = ty * TILE + Math.floor(i / TILE) + 0.5;
    const [ax, ay] = [c[o] - px, c[o + 1] - py];
    const [bx, by] = [c[o + 2] - px, c[o + 3] - py];
    const [ex, ey] = [c[o + 4] - px, c[o + 5] - py];
    const s0 = ax * by - ay * bx;
    const s1 = bx * ey - by * ex;
    const s2 = ex * ay - ey * ax;
    // A hair of tolerance, as where faces are filled in.
    const most = 1e-5 * (Math.abs(s0) + Math.abs(s1) + Math.abs(s2));
    if ((s0 >= -most && s1 >= -most && s2 >= -most) || (s0 <= most && s1 <= most && s2 <= most)) out[i] = island[f];
  }
  return out;
}

export class TexelGraph {
  /** Faces by texel; −1: off the islands. */
  readonly faces: Int32Array;
  /** 1 where a texel's middle lies in its face, 0 in the gutter and off the islands. */
  readonly own: Uint8Array;
  /** The island of each texel whose middle lies in its face; −1 for all others. */
  readonly labels: Int32Array;
  private gutterOf: Int32Array | null = null;
  private inGutter: Uint32Array | null = null;

  constructor(
    private map: SurfaceMap,
    private query: SurfaceQuery,
    { island }: Islands,
  ) {
    const { width, height } = map;
    this.faces = new Int32Array(width * height).fill(-1);
    this.own = new Uint8Array(width * height);
    this.labels = new Int32Array(width * height).fill(-1);
    for (const tile of map.tiles.values()) {
      const { x: tx, y: ty, face } = tile;
      const labels = islandsOf(map, island, tile);
      const [columns, rows] = [Math.min(TILE, width - tx * TILE), Math.min(TILE, height - ty * TILE)];
      for (let y = 0; y < rows; y++) {
        const at = (ty * TILE + y) * width + tx * TILE;
        this.faces.set(face.subarray(y * TILE, y * TILE + columns), at);
        this.labels.set(labels.subarray(y * TILE, y * TILE + columns), at);
      }
    }
    for (let t = 0; t < this.own.length; t++) if (this.labels[t] >= 0) this.own[t] = 1;
  }

  /**
   * The texel beside one of an island: 0 to its right, 1 below, 2 to its left, 3 above, as the sheet has it there. Over a seam
   * it is where one goes on over the edge; −1 where the surface ends.
   */
  beside(t: Texel, way: number): Texel {
    const { width, height } = this.map;
    const [x, y] = [t % width, (t / width) | 0];
    const [nx, ny] = [x + WAYS[way][0], y + WAYS[way][1]];
    if (nx >= 0 && ny >= 0 && nx < width && ny < height) {
      const n = ny * width + nx;
      // Texels side by side lie on one island, but where islands touch.
      if (this.labels[n] >= 0 && this.labels[n] === this.labels[t]) return n;
    }
    return this.overSeam(t, way);
  }

  /** The texel that lies a step on, where the way leads over an edge of the island; −1: the surface ends there. */
  overSeam(t: Texel, way: number): Texel {
    const { width, height } = this.map;
    const [px, py] = [(t % width) + 0.5, ((t / width) | 0) + 0.5];
    const [dx, dy] = WAYS[way];
    const face = this.faces[t];
    const ways = waysOf(this.map, this.query);
    const m = ways.into;
    const o = ways.intoWeights(face);
    const weights = (x: number, y: number): [number, number] => {
      const [qx, qy] = [x - m[o + 4], y - m[o + 5]];
      return [m[o] * qx + m[o + 1] * qy, m[o + 2] * qx + m[o + 3] * qy];
    };
    const [s1, s2] = weights(px, py);
    const [n1, n2] = weights(px + dx, py + dy);
    if (!ways.goTo(face, s1, s2, n1, n2)) return -1;
    const [x, y] = [Math.floor(ways.x), Math.floor(ways.y)];
    if (x < 0 || y < 0 || x >= width || y >= height) return -1;
    const n = y * width + x;
    return n !== t && this.own[n] ? n : -1;
  }

  /** For each texel of the gutter the texel of its island that is nearest; −1 elsewhere. */
  get gutter(): Int32Array {
    if (this.gutterOf) return this.gutterOf;
    const { map, faces, own } = this;
    const { width, height, cornersTexels: c } = map;
    const out = new Int32Array(faces.length).fill(-1);
    for (let t = 0; t < faces.length; t++) {
      if (faces[t] < 0 || own[t]) continue;
      const [px, py] = [(t % width) + 0.5, ((t / width) | 0) + 0.5];
      const o = faces[t] * 6;
      let best = Infinity;
      let [bx, by] = [px, py];
      for (let k = 0; k < 3; k++) {
        const [ax, ay] = [c[o + k * 2], c[o + k * 2 + 1]];
        const [ex, ey] = [c[o + ((k + 1) % 3) * 2] - ax, c[o + ((k + 1) % 3) * 2 + 1] - ay];
        const l2 = ex * ex + ey * ey || 1e-12;
        const s = Math.min(1, Math.max(0, ((px - ax) * ex + (py - ay) * ey) / l2));
        const d = (ax + ex * s - px) ** 2 + (ay + ey * s - py) ** 2;
        if (d < best) [best, bx, by] = [d, ax + ex * s, ay + ey * s];
      }
      // The place on the edge lies in a texel of the island or right beside one.
      out[t] = this.ownNear(bx, by, px, py, width, height);
    }
    return (this.gutterOf = out);
  }

  /** Texels of the gutter that go with one of an island. */
  get gutterTexels(): Uint32Array {
    if (this.inGutter) return this.inGutter;
    const { gutter } = this;
    let count = 0;
    for (let t = 0; t < gutter.length; t++) if (gutter[t] >= 0) count++;
    const out = new Uint32Array(count);
    for (let t = 0, n = 0; t < gutter.length; t++) if (gutter[t] >= 0) out[n++] = t;
    return (this.inGutter = out);
  }

  private ownNear(x: number, y: number, px: number, py: number, width: number, height: number): Texel {
    const [cx, cy] = [Math.floor(x), Math.floor(y)];
    let [found, least] = [-1, Infinity];
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++) {
        const [nx, ny] = [cx + dx, cy + dy];
        if (nx < 0 || ny < 0 || nx >= width || ny >= height || !this.own[ny * width + nx]) continue;
        const d = (nx + 0.5 - px) ** 2 + (ny + 0.5 - py) ** 2;
        if (d < least) [least, found] = [d, ny * width + nx];
      }
    return found;
  }
}

const WAYS = [
  [1, 0],
  [0, 1],
  [-1, 0],
  [0, -1],
] as const;

const graphs = new WeakMap<SurfaceMap, TexelGraph>();

/** Made when it is first asked for. */
export function texelGraphOf(map: SurfaceMap, query: SurfaceQuery, islands: Islands): TexelGraph {
  let graph = graphs.get(map);
  if (!graph) graphs.set(map, (graph = new TexelGraph(map, query, islands)));
  return graph;
}

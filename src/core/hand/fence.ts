/**
 * What a stroke may reach: its fence, evaluated on what was there when the stroke began, softened from its edge inwards; and
 * nothing that is hidden. Outside of it every byte stays.
 */
import type { Fence, Sheet } from '../document/schema';
import type { SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import { Evaluator } from '../strata/evaluator';
import { programOfFence } from '../strata/program';
import type { Scope } from '../strata/scope';
import { TileCache } from '../strata/tileCache';
import { around } from '../tile/border';
import { lasting, TILE, tileIndex, TILE_TEXELS, tileX, tileY, type TileIndex, type TileStore } from '../tile/tiles';
import { Beside, Steps } from './beside';
import type { StrokeContext } from './context';

const CACHE_BYTES = 48 * 1024 * 1024;
/** What lets less than this through counts as outside when edges are softened: half. */
const EDGE = 0.5;

export interface FenceContext {
  sheet: Sheet;
  layerId: string;
  surface: StrokeContext['surface'];
  /** The pixels as they were. */
  store: () => TileStore;
}

/** Shares 0 … 1 of a tile, row by row; null: all of it. */
export type Limit = Float32Array | null;

export class FenceLimit {
  private evaluator: Evaluator | null = null;
  private readonly scope: Scope;
  private tiles = new Map<TileIndex, Limit>();
  private plain = new Map<TileIndex, Float32Array>();

  constructor(
    private fence: Fence,
    private context: FenceContext,
  ) {
    this.scope = programOfFence(context.sheet, fence, context.layerId);
  }

  tile(index: TileIndex): Limit {
    const known = this.tiles.get(index);
    if (known !== undefined) return known;
    let limit: Limit = this.fence.soften > 0 ? this.softened(index) : this.values(index);
    if (limit.every((v) => v === 1)) limit = null;
    this.tiles.set(index, limit);
    return limit;
  }

  /** Before it is softened. */
  private values(index: TileIndex): Float32Array {
    const known = this.plain.get(index);
    if (known) return known;
    const { sheet, store } = this.context;
    this.evaluator ??= new Evaluator({ sheet, store: store(), cache: new TileCache(CACHE_BYTES) });
    const { uniform, data } = this.evaluator.tile(this.scope, index);
    const out = lasting(Float32Array, TILE_TEXELS);
    if (data) out.set(data.subarray(0, TILE_TEXELS));
    else out.fill(uniform[0]);
    for (let i = 0; i < TILE_TEXELS; i++) out[i] = Math.min(1, Math.max(0, out[i]));
    this.plain.set(index, out);
    return out;
  }

  /**
   * The fence times how far a texel lies from its outside, as a share of `soften`: 0.5 off the edge is half a texel within. The
   * distance is that in the sheet, within the texel's island; past an island's edge the surface goes on where it does on the
   * model, as far as the gutter is wide.
   */
  private softened(index: TileIndex): Float32Array {
    const { soften } = this.fence;
    const reach = Math.ceil(soften);
    const side = TILE + 2 * reach;
    const near = this.window(index, reach, side);
    const values = this.values(index);
    const distance = new Float32Array(TILE_TEXELS).fill(Infinity);
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++) {
        const at = y * side + x;
        const label = near.labels[at];
        if (label < 0 || near.inside[at] || !isRim(near, at, x, y, side)) continue;
        // A texel outside beside one inside: the edge lies halfway between them.
        const [cx, cy] = [x - reach, y - reach];
        const x1 = Math.min(TILE - 1, cx + reach);
        const y1 = Math.min(TILE - 1, cy + reach);
        for (let ty = Math.max(0, cy - reach); ty <= y1; ty++)
          for (let tx = Math.max(0, cx - reach), i = ty * TILE + tx; tx <= x1; tx++, i++) {
            if (near.labels[(ty + reach) * side + tx + reach] !== label) continue;
            const d = (tx - cx) * (tx - cx) + (ty - cy) * (ty - cy);
            if (d < distance[i]) distance[i] = d;
          }
      }
    const out = lasting(Float32Array, TILE_TEXELS);
    for (let i = 0; i < TILE_TEXELS; i++) {
      const d = Math.sqrt(distance[i]) - 0.5;
      out[i] = d <= 0 || values[i] < EDGE ? 0 : values[i] * Math.min(1, d / soften);
    }
    return out;
  }

  /** Around a tile: which island each texel goes with (0 on a canvas, −1: none), and whether the fence lets it through. */
  private window(index: TileIndex, reach: number, side: number): Window {
    const { sheet, surface } = this.context;
    const { width, height, wrapU, wrapV } = sheet;
    const labels = new Int32Array(side * side).fill(-1);
    const inside = new Uint8Array(side * side);
    const beyond = surface && this.overSeams();
    for (let y = 0; y < side; y++) {
      let sy = tileY(index) * TILE + y - reach;
      if (wrapV) sy = around(sy, height);
      if (sy < 0 || sy >= height) continue;
      for (let x = 0; x < side; x++) {
        let sx = tileX(index) * TILE + x - reach;
        if (wrapU) sx = around(sx, width);
        if (sx < 0 || sx >= width) continue;
        const tile = tileIndex(sx >> 7, sy >> 7);
        const i = (sy & (TILE - 1)) * TILE + (sx & (TILE - 1));
        const at = y * side + x;
        if (!surface) {
          labels[at] = 0;
          inside[at] = this.values(tile)[i] >= EDGE ? 1 : 0;
          continue;
        }
        const face = surface.map.tiles.get(tile)?.face[i] ?? -1;
        if (face < 0) continue;
        labels[at] = surface.islands.island[face];
        inside[at] = beyond!(tile, i, face) ? 1 : 0;
      }
    }
    return { labels, inside };
  }

  /** Whether the fence lets a texel through; of the gutter: what lies there when one goes on over the edge. */
  private overSeams(): (tile: TileIndex, i: number, face: number) => boolean {
    const { sheet, surface } = this.context;
    const own = gutterTest(surface!.map);
    const beside = new Beside({ sheet, surface });
    const stay = new Steps(
      beside,
      1,
      (_, __, out) => void out.fill(0),
      () => [0, 0],
    );
    let last = -1;
    return (tile, i, face) => {
      if (own(tile, i, face)) return this.values(tile)[i] >= EDGE;
      if (last !== tile) stay.inTile(tile);
      last = tile;
      stay.from(i);
      stay.go(0);
      const [x, y] = [Math.floor(stay.x), Math.floor(stay.y)];
      if (x < 0 || y < 0 || x >= sheet.width || y >= sheet.height) return true;
      return this.values(tileIndex(x >> 7, y >> 7))[(y & (TILE - 1)) * TILE + (x & (TILE - 1))] >= EDGE;
    };
  }
}

interface Window {
  labels: Int32Array;
  inside: Uint8Array;
}

/** Whether a texel outside has one inside beside it that goes with the same island. */
function isRim({ labels, inside }: Window, at: number, x: number, y: number, side: number): boolean {
  for (let dy = -1; dy <= 1; dy++)
    for (let dx = -1; dx <= 1; dx++) {
      if (x + dx < 0 || y + dy < 0 || x + dx >= side || y + dy >= side) continue;
      const n = at + dy * side + dx;
      if (inside[n] && labels[n] === labels[at]) return true;
    }
  return false;
}

/** Whether a texel's middle lies in its face. */
function gutterTest({ cornersTexels: c }: SurfaceMap): (tile: TileIndex, i: number, face: number) => boolean {
  return (tile, i, face) => {
    const [px, py] = [tileX(tile) * TILE + (i & (TILE - 1)) + 0.5, tileY(tile) * TILE + (i >> 7) + 0.5];
    const o = face * 6;
    const cross = (a: number, b: number) => (c[o + a] - px) * (c[o + b + 1] - py) - (c[o + a + 1] - py) * (c[o + b] - px);
    const [s0, s1, s2] = [cross(0, 2), cross(2, 4), cross(4, 0)];
    const most = 1e-5 * (Math.abs(s0) + Math.abs(s1) + Math.abs(s2));
    return (s0 >= -most && s1 >= -most && s2 >= -most) || (s0 <= most && s1 <= most && s2 <= most);
  };
}

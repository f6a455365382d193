/**
 * What an eye sees of the texels of a sheet: where each of them lies in the pane, and how much of it is seen. Faces are drawn
 * into a buffer of face numbers, by homogeneous edge functions (Olano and Greer, Triangle Scan Conversion using 2D Homogeneous
 * Coordinates, 1997), which need no clipping. A texel is then compared, at its very place, with the faces that were drawn
 * around its pixel: so the buffer's pixels say which faces may lie before it, and not where their edges are. Only faces too
 * small to meet the middle of one of the buffer's pixels can be missed: within about a pixel of the buffer beside an edge
 * that something lies behind (the edge tolerance; a quarter of a pane's pixel where shapes are small, at most two).
 */
import { SETTINGS, SETTINGS_COUNT, type EyeBuffer } from '../../kernels/seen';
import { kernels } from '../kernels';
import { BLOCK, BLOCKS_PER_SIDE, BLOCKS_PER_TILE, type SurfaceMap, type SurfaceTile } from '../mesh/surfaceMap/surfaceMap';
import type { SurfaceQuery } from '../mesh/surfaceQuery';
import { lasting, TILE, TILE_TEXELS, type TileIndex } from '../tile/tiles';
import type { View } from './view';

export interface SightOptions {
  /** `front`: what nothing lies before. `all`: all that is turned to the eye, what lies behind something too. */
  layers: 'front' | 'all';
  /** Cosine below which what is turned away from the eye counts less and less; 0: all that is turned to it counts in full. */
  grazing: number;
  /** Faces that are turned away count too. */
  bothSides?: boolean;
  /** Pixels of the pane that matter; left out: all of it. */
  box?: PixelBox;
}

export interface PixelBox {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** Where the texels of a tile lie in the pane, in its pixels, and how much of each is seen, 0 … 1; 0: nothing, or not there. */
export interface SeenTile {
  x: Float32Array;
  y: Float32Array;
  share: Float32Array;
  /** Pixels that it spans, square to the eye. */
  span: Float32Array;
}

/** What is wanted of texels, 0 … 1, by where they lie in the pane; `spans`: how many pixels each spans. */
export interface Wanted {
  /** The same for all within so many pixels around a place; null: it differs. */
  even(x: number, y: number, radius: number, span: number): number | null;
  at(x: number, y: number, span: number): number;
}

/** Pixels of the buffer along its longer side. */
const BUFFER_SIDE = 640;
/** The buffer's pixels are at most so much smaller than the pane's. */
const FINEST = 4;
export class Sight {
  /** What kernels read. */
  private readonly eye: EyeBuffer;
  private readonly columns: number;
  private readonly rows: number;
  private readonly scale: number;
  private readonly box: PixelBox;
  private tiles = new Map<TileIndex, SeenTile | null>();

  constructor(
    private map: SurfaceMap,
    private query: SurfaceQuery,
    readonly view: View,
    private options: SightOptions,
  ) {
    const box = options.box ?? { x0: 0, y0: 0, x1: view.width, y1: view.height };
    this.box = {
      x0: Math.max(0, box.x0),
      y0: Math.max(0, box.y0),
      x1: Math.min(view.width, box.x1),
      y1: Math.min(view.height, box.y1),
    };
    const [w, h] = [Math.max(1, this.box.x1 - this.box.x0), Math.max(1, this.box.y1 - this.box.y0)];
    this.scale = Math.min(FINEST, BUFFER_SIDE / Math.max(w, h));
    // A rim of one pixel, so that those at the border have neighbours.
    this.columns = Math.ceil(w * this.scale) + 2;
    this.rows = Math.ceil(h * this.scale) + 2;
    this.front = options.layers === 'front';
    const faces = query.indices.length / 3;
    const pixels = this.front ? this.columns * this.rows : 0;
    const settings = lasting(Float64Array, SETTINGS_COUNT);
    settings.set(view.matrix);
    settings.set([this.box.x0, this.box.y0, this.box.x1, this.box.y1, this.scale, this.columns, this.rows], SETTINGS.box);
    this.eye = {
      settings,
      facing: lasting(Int8Array, faces).fill(0),
      edges: lasting(Float64Array, faces * 9),
      buffer: lasting(Int32Array, pixels).fill(-1),
      smooth: lasting(Uint8Array, pixels).fill(0),
      ...{ corner: query.corner, positions: query.positions, indices: query.indices },
      texel: lasting(Int32Array, BLOCK * BLOCK),
      x: lasting(Float64Array, BLOCK * BLOCK),
      y: lasting(Float64Array, BLOCK * BLOCK),
      near: lasting(Float64Array, BLOCK * BLOCK),
      seen: lasting(Uint8Array, BLOCK * BLOCK),
    };
    this.matrix = Float64Array.from(view.matrix);
    const m = view.matrix;
    this.spread = Math.hypot(m[0], m[1], m[2]) / map.texelsPerMetre;
    this.draw();
  }
  private readonly front: boolean;
  private readonly matrix: Float64Array;
  /** Pixels that a texel spans at one metre: of the sheet's mean density, square to the eye. */
  private readonly spread: number;

  /** Projects the faces, and where it matters what lies before what, draws them. */
  private draw(): void {
    const { query, view, box } = this;
    const { edges, facing, buffer } = this.eye;
    const { positions: p, indices, hidden, faceNormal } = query;
    const { matrix: m, eye } = view;
    const front = this.options.layers === 'front';
    const depth = new Float64Array(buffer.length);
    const corner = new Float64Array(9);
    for (let f = 0; f < facing.length; f++) {
      if (hidden[f]) continue;
      let behind = 0;
      for (let k = 0; k < 3; k++) {
        const v = indices[f * 3 + k] * 3;
        const [x, y, z] = [p[v], p[v + 1], p[v + 2]];
        corner[k] = m[0] * x + m[1] * y + m[2] * z + m[3];
        corner[3 + k] = m[4] * x + m[5] * y + m[6] * z + m[7];
        const w = m[8] * x + m[9] * y + m[10] * z + m[11];
        corner[6 + k] = w;
        if (!(w > 0)) behind++;
      }
      if (behind === 3) continue;
      if (!edgesOf(corner, edges, f * 9)) continue;
      const v = indices[f * 3] * 3;
      const o = f * 3;
      const turned =
        faceNormal[o] * (eye[0] - p[v]) + faceNormal[o + 1] * (eye[1] - p[v + 1]) + faceNormal[o + 2] * (eye[2] - p[v + 2]);
      facing[f] = turned > 0 ? 1 : -1;
      if (!front) continue;
      let { x0, y0, x1, y1 } = box;
      if (behind === 0) {
        const [ax, bx, cx] = [corner[0] / corner[6], corner[1] / corner[7], corner[2] / corner[8]];
        const [ay, by, cy] = [corner[3] / corner[6], corner[4] / corner[7], corner[5] / corner[8]];
        x0 = Math.max(x0, Math.min(ax, bx, cx));
        x1 = Math.min(x1, Math.max(ax, bx, cx));
        y0 = Math.max(y0, Math.min(ay, by, cy));
        y1 = Math.min(y1, Math.max(ay, by, cy));
      }
      this.drawFace(f, depth, x0, y0, x1, y1);
    }
  }

  private drawFace(f: number, depth: Float64Array, x0: number, y0: number, x1: number, y1: number): void {
    const { scale, columns, rows } = this;
    const { edges, buffer } = this.eye;
    const left = Math.max(0, Math.floor((x0 - this.box.x0) * scale + 0.5));
    const right = Math.min(columns - 1, Math.ceil((x1 - this.box.x0) * scale + 0.5));
    const top = Math.max(0, Math.floor((y0 - this.box.y0) * scale + 0.5));
    const bottom = Math.min(rows - 1, Math.ceil((y1 - this.box.y0) * scale + 0.5));
    const e = f * 9;
    const step = 1 / scale;
    const [a0, a1, a2] = [edges[e] * step, edges[e + 3] * step, edges[e + 6] * step];
    const sx = this.box.x0 + (left - 0.5) * step;
    for (let row = top; row <= bottom; row++) {
      const sy = this.box.y0 + (row - 0.5) * step;
      let e0 = edges[e] * sx + edges[e + 1] * sy + edges[e + 2];
      let e1 = edges[e + 3] * sx + edges[e + 4] * sy + edges[e + 5];
      let e2 = edges[e + 6] * sx + edges[e + 7] * sy + edges[e + 8];
      for (let i = row * columns + left, end = row * columns + right; i <= end; i++) {
        if (e0 >= 0 && e1 >= 0 && e2 >= 0) {
          const near = e0 + e1 + e2;
          if (near > depth[i]) {
            depth[i] = near;
            buffer[i] = f;
          }
        }
        e0 += a0;
        e1 += a1;
        e2 += a2;
      }
    }
  }

  /**
   * Raises what `into` gives (asked for once something may be wanted), a tile row by row, to what is wanted of each texel times how much of it is seen. Says where, texels within
   * the tile, x1 and y1 exclusive; null: nowhere.
   */
  raise(index: TileIndex, into: () => Float32Array, wanted: Wanted): PixelBox | null {
    const tile = this.map.tiles.get(index);
    if (!tile) return null;
    let x0 = TILE;
    let y0 = TILE;
    let x1 = 0;
    let y1 = 0;
    let out: Float32Array | null = null;
    for (let b = 0; b < BLOCKS_PER_TILE; b++) {
      if (!this.mayShow(tile.blockBounds, b * 6)) continue;
      const even = this.evenIn(wanted);
      if (even === 0) continue;
      out ??= into();
      const gives = (even === null ? null : this.raiseWhole(tile, b, out, even)) ?? this.raiseBlock(tile, b, out, wanted);
      if (!gives) continue;
      const left = (b % BLOCKS_PER_SIDE) * BLOCK;
      const top = Math.floor(b / BLOCKS_PER_SIDE) * BLOCK;
      if (left < x0) x0 = left;
      if (left + BLOCK > x1) x1 = left + BLOCK;
      if (top < y0) y0 = top;
      if (top + BLOCK > y1) y1 = top + BLOCK;
    }
    return x0 < x1 ? { x0, y0, x1, y1 } : null;
  }

  private raiseBlock(tile: SurfaceTile, b: number, out: Float32Array, wanted: Wanted): boolean {
    const count = this.project(tile, b);
    if (count === 0 || !this.shade(count, wanted)) return false;
    const { texel, seen } = this.eye;
    let gives = false;
    for (let n = 0; n < count; n++) {
      if (seen[n] === 0) continue;
      const want = this.want[n];
      const i = texel[n];
      if (!(want > out[i])) continue;
      const value = want * this.turned(tile, i);
      if (!(value > out[i])) continue;
      out[i] = value;
      gives = true;
    }
    return gives;
  }

  /**
   * A block of which the same is wanted everywhere, and over which the surface goes on without a break in depth: where the
   * texels that are asked (the first one of each face) are seen, all are; where none is, none. Says whether it gave anything;
   * null: it is to be gone through texel by texel.
   */
  private raiseWhole(tile: SurfaceTile, b: number, out: Float32Array, even: number): boolean | null {
    if (!this.front || this.options.bothSides || this.options.grazing > 0) return null;
    const { found } = this;
    const first = firstOf(b);
    const whole = kernels().wholeBlock(this.eye, tile, first, found.x0, found.y0, found.x1, found.y1);
    if (whole === 2) return null;
    if (whole === 0) return false;
    const { face } = tile;
    const { facing } = this.eye;
    let gives = false;
    for (let row = first; row < first + BLOCK * TILE; row += TILE)
      for (let i = row, end = i + BLOCK; i < end; i++) {
        const f = face[i];
        if (f < 0 || facing[f] <= 0 || !(even > out[i])) continue;
        out[i] = even;
        gives = true;
      }
    return gives;
  }

  /** A whole tile, kept; null: nothing of it is seen. */
  tile(index: TileIndex): SeenTile | null {
    const known = this.tiles.get(index);
    if (known !== undefined) return known;
    const from = this.map.tiles.get(index);
    const plane = () => new Float32Array(TILE_TEXELS);
    const tile: SeenTile = { x: plane(), y: plane(), share: plane(), span: plane() };
    let any = false;
    for (let b = 0; from && b < BLOCKS_PER_TILE; b++) {
      if (!this.mayShow(from.blockBounds, b * 6)) continue;
      const count = this.project(from, b);
      const { texel, x, y, near, seen } = this.eye;
      for (let n = 0; n < count; n++) {
        const i = texel[n];
        tile.x[i] = x[n];
        tile.y[i] = y[n];
        tile.span[i] = this.spread * near[n];
        if ((tile.share[i] = seen[n] === 0 ? 0 : this.turned(from, i)) > 0) any = true;
      }
    }
    this.tiles.set(index, any ? tile : null);
    return any ? tile : null;
  }

  private want = new Float64Array(BLOCK * BLOCK);

  /** Texels of a block that lie in the box, on faces turned to the eye: into `eye`. */
  private project(tile: SurfaceTile, b: number): number {
    return kernels().projectBlock(this.eye, tile, firstOf(b), this.options.bothSides ?? false);
  }

  /** What is wanted of the projected texels; false: nothing. */
  private shade(count: number, wanted: Wanted): boolean {
    const { want } = this;
    const { x: px, y: py, near: near1 } = this.eye;
    let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let n = 0; n < count; n++) {
      if (px[n] < x0) x0 = px[n];
      if (px[n] > x1) x1 = px[n];
      if (py[n] < y0) y0 = py[n];
      if (py[n] > y1) y1 = py[n];
    }
    const radius = Math.sqrt((x1 - x0) * (x1 - x0) + (y1 - y0) * (y1 - y0)) / 2;
    const even = wanted.even((x0 + x1) / 2, (y0 + y1) / 2, radius, this.spread * near1[0]);
    if (even !== null) {
      if (even > 0) want.fill(even, 0, count);
      return even > 0;
    }
    for (let n = 0; n < count; n++) want[n] = wanted.at(px[n], py[n], this.spread * near1[n]);
    return true;
  }

  /** How much counts of a texel that is seen, by how it is turned to the eye, 0 … 1. */
  private turned({ position, normal }: SurfaceTile, i: number): number {
    const { grazing, bothSides } = this.options;
    if (grazing === 0) return 1;
    const { eye } = this.view;
    const o = i * 3;
    const dx = eye[0] - position[o];
    const dy = eye[1] - position[o + 1];
    const dz = eye[2] - position[o + 2];
    const cosine = (normal[o] * dx + normal[o + 1] * dy + normal[o + 2] * dz) / (127 * Math.sqrt(dx * dx + dy * dy + dz * dz));
    const t = Math.min(1, Math.max(0, (bothSides ? Math.abs(cosine) : cosine) / grazing));
    return t * t * (3 - 2 * t);
  }

  /** Tiles that may show within a box of the pane, and which of their blocks. */
  *near(box: PixelBox): Generator<{ index: TileIndex; blocks: number[] }> {
    this.boxes ??= this.boxesOfBlocks();
    let n = 0;
    for (const index of this.map.tiles.keys()) {
      const blocks: number[] = [];
      for (let b = 0; b < BLOCKS_PER_TILE; b++, n += 4) {
        const { boxes } = this;
        if (boxes[n] < box.x1 && boxes[n + 1] < box.y1 && boxes[n + 2] > box.x0 && boxes[n + 3] > box.y0) blocks.push(b);
      }
      if (blocks.length > 0) yield { index, blocks };
    }
  }
  /** Of each block in the pane, 4 numbers: left, top, right, bottom. */
  private boxes: Float32Array | null = null;

  private boxesOfBlocks(): Float32Array {
    const out = new Float32Array(this.map.tiles.size * BLOCKS_PER_TILE * 4);
    let n = 0;
    for (const { blockBounds } of this.map.tiles.values())
      for (let b = 0; b < BLOCKS_PER_TILE; b++, n += 4) {
        const shows = this.boxOf(blockBounds, b * 6);
        out.set(shows ? [shows.x0, shows.y0, shows.x1, shows.y1] : [Infinity, Infinity, -Infinity, -Infinity], n);
      }
    return out;
  }

  /** Whether a box of space may lie in the box of the pane. */
  private mayShow(bounds: Float32Array, o: number): boolean {
    const at = this.boxOf(bounds, o);
    const { box } = this;
    return at !== null && at.x1 >= box.x0 && at.y1 >= box.y0 && at.x0 < box.x1 && at.y0 < box.y1;
  }

  /** What is wanted in all of the box that was asked for last; null: it differs. */
  private evenIn(wanted: Wanted): number | null {
    const { x0, y0, x1, y1 } = this.found;
    if (!(x1 - x0 < Infinity)) return null;
    const radius = Math.sqrt((x1 - x0) * (x1 - x0) + (y1 - y0) * (y1 - y0)) / 2;
    return wanted.even((x0 + x1) / 2, (y0 + y1) / 2, radius, 1);
  }

  /** A box of space in the pane; null: it is empty. Good until it is asked again. */
  private boxOf(bounds: Float32Array, o: number): PixelBox | null {
    if (bounds[o] > bounds[o + 3]) return null;
    const m = this.matrix;
    let x0 = Infinity;
    let y0 = Infinity;
    let x1 = -Infinity;
    let y1 = -Infinity;
    for (let corner = 0; corner < 8; corner++) {
      const x = bounds[o + (corner & 1 ? 3 : 0)];
      const y = bounds[o + (corner & 2 ? 4 : 1)];
      const z = bounds[o + (corner & 4 ? 5 : 2)];
      const w = m[8] * x + m[9] * y + m[10] * z + m[11];
      // Partly behind the eye: anywhere.
      if (!(w > 0)) {
        x0 = y0 = -Infinity;
        x1 = y1 = Infinity;
        break;
      }
      const sx = (m[0] * x + m[1] * y + m[2] * z + m[3]) / w;
      const sy = (m[4] * x + m[5] * y + m[6] * z + m[7]) / w;
      if (sx < x0) x0 = sx;
      if (sx > x1) x1 = sx;
      if (sy < y0) y0 = sy;
      if (sy > y1) y1 = sy;
    }
    const { found } = this;
    [found.x0, found.y0, found.x1, found.y1] = [x0, y0, x1, y1];
    return found;
  }
  private readonly found: PixelBox = { x0: 0, y0: 0, x1: 0, y1: 0 };
}

/** The first texel of a block within its tile. */
const firstOf = (b: number): number => Math.floor(b / BLOCKS_PER_SIDE) * BLOCK * TILE + (b % BLOCKS_PER_SIDE) * BLOCK;

/**
 * The inverse of a face's corners as columns (x·w, y·w, w): its rows are the edge functions. false: it is seen edge on.
 * `corner`: x·w of the three, then y·w, then w.
 */
function edgesOf(corner: Float64Array, out: Float64Array, o: number): boolean {
  const [x0, x1, x2, y0, y1, y2, w0, w1, w2] = corner;
  const c0 = y1 * w2 - y2 * w1;
  const c1 = y2 * w0 - y0 * w2;
  const c2 = y0 * w1 - y1 * w0;
  const det = x0 * c0 + x1 * c1 + x2 * c2;
  // Against what its parts are: rounding alone gives this much.
  if (Math.abs(det) <= 1e-12 * (Math.abs(x0 * c0) + Math.abs(x1 * c1) + Math.abs(x2 * c2))) return false;
  const by = 1 / det;
  out[o] = c0 * by;
  out[o + 1] = (w1 * x2 - w2 * x1) * by;
  out[o + 2] = (x1 * y2 - x2 * y1) * by;
  out[o + 3] = c1 * by;
  out[o + 4] = (w2 * x0 - w0 * x2) * by;
  out[o + 5] = (x2 * y0 - x0 * y2) * by;
  out[o + 6] = c2 * by;
  out[o + 7] = (w0 * x1 - w1 * x0) * by;
  out[o + 8] = (x0 * y1 - x1 * y0) * by;
  return true;
}

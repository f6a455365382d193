/**
 * What an eye sees of the texels of a sheet: where each of them lies in the pane, and how much of it is seen. Faces are drawn
 * into a buffer of face numbers, by homogeneous edge functions (Olano and Greer, Triangle Scan Conversion using 2D Homogeneous
 * Coordinates, 1997), which need no clipping. A texel is then compared, at its very place, with the faces that were drawn
 * around its pixel: so the buffer's pixels say which faces may lie before it, and not where their edges are. Only faces too
 * small to meet the middle of one of the buffer's pixels can be missed: within about a pixel of the buffer beside an edge
 * that something lies behind (the edge tolerance; a quarter of a pane's pixel where shapes are small, at most two).
 */
import { BLOCK, BLOCKS_PER_SIDE, BLOCKS_PER_TILE, type SurfaceMap, type SurfaceTile } from '../mesh/surfaceMap';
import type { SurfaceQuery } from '../mesh/surfaceQuery';
import { TILE, TILE_TEXELS, type TileIndex } from '../tile/tiles';
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
/** Of a block that is taken as a whole: more than this and it is quicker to go through its texels. */
const MOST_PIXELS = 256;
/** One in so many texels is asked whether it is seen. */
const ASKED_EVERY = 7;
/**
 * A face too small to be drawn may stand out of what is drawn there by so many of its own depths. Tried on twenty views of the
 * demo's models: 1.5 leaves out texels that are seen, 2 lets some through that are not.
 */
const OWN_DEPTHS = 1.7;
/** What lies nearer than this share of the distance is the same surface: places are float32, faces meet at their edges. */
const NEARER = 2e-5;

export class Sight {
  private readonly facing: Int8Array;
  /** Per face three edge functions a · x + b · y + c in pane pixels, each a corner's weight over w. */
  private readonly edges: Float64Array;
  private readonly buffer: Int32Array;
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
    const faces = query.indices.length / 3;
    this.facing = new Int8Array(faces);
    this.edges = new Float64Array(faces * 9);
    this.buffer = new Int32Array(options.layers === 'front' ? this.columns * this.rows : 0).fill(-1);
    this.front = options.layers === 'front';
    this.smooth = new Uint8Array(this.buffer.length);
    this.matrix = Float64Array.from(view.matrix);
    const m = view.matrix;
    this.spread = Math.hypot(m[0], m[1], m[2]) / map.texelsPerMetre;
    this.draw();
  }
  private readonly front: boolean;
  /** 0: not asked yet; 1: the surface goes on there; 2: it does not. */
  private readonly smooth: Uint8Array;
  private readonly matrix: Float64Array;
  /** Pixels that a texel spans at one metre: of the sheet's mean density, square to the eye. */
  private readonly spread: number;

  /** Projects the faces, and where it matters what lies before what, draws them. */
  private draw(): void {
    const { query, view, box, edges, facing } = this;
    const { positions: p, indices, hidden, faceNormal } = query;
    const { matrix: m, eye } = view;
    const front = this.options.layers === 'front';
    const depth = new Float64Array(this.buffer.length);
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
    const { scale, columns, rows, edges, buffer } = this;
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
   * The surface goes on around a pixel of the buffer: faces drawn beside it are the one in its middle or meet that one at a
   * corner, and faces turned to the eye that meet do not cover each other. Asked often, so remembered.
   */
  private smoothAt(p: number): boolean {
    const known = this.smooth[p];
    if (known) return known === 1;
    const { buffer, columns } = this;
    const f = buffer[p];
    let smooth = f >= 0;
    let last = f;
    for (let i = p - columns - 1, end = i + 3 * columns; smooth && i < end; i += columns)
      for (let k = i; k < i + 3; k++) {
        const g = buffer[k];
        if (g === last || g === f) continue;
        last = g;
        if (g < 0 || !this.meet(f, g)) smooth = false;
      }
    this.smooth[p] = smooth ? 1 : 2;
    return smooth;
  }

  private meet(f: number, g: number): boolean {
    if (this.facing[f] < 0 || this.facing[g] < 0) return false;
    const { corner } = this.query.topology;
    const a = corner[f * 3];
    const b = corner[f * 3 + 1];
    const c = corner[f * 3 + 2];
    for (let k = g * 3; k < g * 3 + 3; k++) if (corner[k] === a || corner[k] === b || corner[k] === c) return true;
    return false;
  }

  /** Whether something lies before a place of a face: its pixel of the buffer, that of the pane, and one over its distance. */
  private covered(f: number, p: number, x: number, y: number, near: number): boolean {
    const { buffer, columns, edges } = this;
    const limit = near * (1 + NEARER);
    let last = f;
    let drawn = false;
    for (let i = p - columns - 1, end = i + 3 * columns; i < end; i += columns)
      for (let k = i; k < i + 3; k++) {
        const g = buffer[k];
        if (g === f) drawn = true;
        if (g === last || g === f || g < 0) continue;
        last = g;
        const e = g * 9;
        const e0 = edges[e] * x + edges[e + 1] * y + edges[e + 2];
        if (e0 < 0) continue;
        const e1 = edges[e + 3] * x + edges[e + 4] * y + edges[e + 5];
        if (e1 < 0) continue;
        const e2 = edges[e + 6] * x + edges[e + 7] * y + edges[e + 8];
        if (e2 >= 0 && e0 + e1 + e2 > limit) return true;
      }
    // A face that is not drawn anywhere near is too small for it, or lies behind what is drawn there.
    const g = buffer[p] * 9;
    if (drawn || g < 0) return false;
    const e = f * 9;
    const a = edges[g] + edges[g + 3] + edges[g + 6];
    const b = edges[g + 1] + edges[g + 4] + edges[g + 7];
    const own = Math.abs(edges[e] + edges[e + 3] + edges[e + 6]) + Math.abs(edges[e + 1] + edges[e + 4] + edges[e + 7]);
    const slopes = (Math.abs(a) + Math.abs(b)) / this.scale + Math.min(own / this.scale, OWN_DEPTHS * this.depthOf(f));
    return a * x + b * y + edges[g + 2] + edges[g + 5] + edges[g + 8] > limit + slopes;
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
    let gives = false;
    for (let n = 0; n < count; n++) {
      const want = this.want[n];
      const i = this.texel[n];
      if (!(want > out[i])) continue;
      const value = want * this.seen(tile, n);
      if (!(value > out[i])) continue;
      out[i] = value;
      gives = true;
    }
    return gives;
  }

  /**
   * A block of which the same is wanted everywhere, and over which the surface goes on without a break in depth: where the
   * texels that are asked (each first one of a face, and every few of them) are seen, all are; where none is, none. Says
   * whether it gave anything; null: it is to be gone through texel by texel.
   * Tried on half a lantern at 2048²: 2.5 times as quick as asking each texel.
   */
  private raiseWhole({ face, position }: SurfaceTile, b: number, out: Float32Array, even: number): boolean | null {
    if (!this.front || this.options.bothSides || this.options.grazing > 0) return null;
    const { found, columns, scale, box, smooth, facing } = this;
    const left = Math.floor((found.x0 - box.x0) * scale);
    const right = Math.floor((found.x1 - box.x0) * scale) + 2;
    const top = Math.floor((found.y0 - box.y0) * scale);
    const bottom = Math.floor((found.y1 - box.y0) * scale) + 2;
    if (left < 1 || top < 1 || right >= columns - 1 || bottom >= this.rows - 1) return null;
    if ((right - left) * (bottom - top) > MOST_PIXELS) return null;
    const m = this.matrix;
    const corner = Math.floor(b / BLOCKS_PER_SIDE) * BLOCK * TILE + (b % BLOCKS_PER_SIDE) * BLOCK;
    let last = -1;
    let seen: boolean | null = null;
    for (let row = 0; row < BLOCK; row++)
      for (let i = corner + row * TILE, end = i + BLOCK; i < end; i++) {
        const f = face[i];
        if (f < 0 || facing[f] <= 0) continue;
        if (f === last && (i + row * 3) % ASKED_EVERY !== 0) continue;
        last = f;
        const o = i * 3;
        const x = position[o];
        const y = position[o + 1];
        const z = position[o + 2];
        const near = 1 / (m[8] * x + m[9] * y + m[10] * z + m[11]);
        const sx = (m[0] * x + m[1] * y + m[2] * z + m[3]) * near;
        const sy = (m[4] * x + m[5] * y + m[6] * z + m[7]) * near;
        const inFront = this.inFront(f, sx, sy, near);
        if (seen !== null && seen !== inFront) return null;
        seen = inFront;
      }
    if (seen === null) return false;
    for (let row = top; row <= bottom; row++)
      for (let p = row * columns + left, end = row * columns + right; p <= end; p++)
        if (smooth[p] !== 1 && !this.smoothAt(p)) return null;
    if (!seen) return false;
    let gives = false;
    for (let row = 0; row < BLOCK; row++)
      for (let i = corner + row * TILE, end = i + BLOCK; i < end; i++) {
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
      for (let n = 0; n < count; n++) {
        const i = this.texel[n];
        tile.x[i] = this.px[n];
        tile.y[i] = this.py[n];
        tile.span[i] = this.spread * this.near1[n];
        if ((tile.share[i] = this.seen(from, n)) > 0) any = true;
      }
    }
    this.tiles.set(index, any ? tile : null);
    return any ? tile : null;
  }

  /** Texels of a block that lie in the box, on faces turned to the eye: their places in the tile and in the pane, one over their distance. */
  private texel = new Int32Array(BLOCK * BLOCK);
  private px = new Float64Array(BLOCK * BLOCK);
  private py = new Float64Array(BLOCK * BLOCK);
  private near1 = new Float64Array(BLOCK * BLOCK);
  private want = new Float64Array(BLOCK * BLOCK);

  private project({ position, face }: SurfaceTile, b: number): number {
    const { facing, box, px, py, near1, texel } = this;
    const m = this.matrix;
    const [m0, m1, m2, m3, m4, m5, m6, m7, m8, m9, m10, m11] = [
      m[0],
      m[1],
      m[2],
      m[3],
      m[4],
      m[5],
      m[6],
      m[7],
      m[8],
      m[9],
      m[10],
      m[11],
    ];
    const { x0, y0, x1, y1 } = box;
    const back = this.options.bothSides ?? false;
    const corner = Math.floor(b / BLOCKS_PER_SIDE) * BLOCK * TILE + (b % BLOCKS_PER_SIDE) * BLOCK;
    let count = 0;
    for (let row = corner; row < corner + BLOCK * TILE; row += TILE)
      for (let i = row; i < row + BLOCK; i++) {
        const f = face[i];
        if (f < 0) continue;
        const side = facing[f];
        if (side === 0 || (side < 0 && !back)) continue;
        const o = i * 3;
        const x = position[o];
        const y = position[o + 1];
        const z = position[o + 2];
        const w = m8 * x + m9 * y + m10 * z + m11;
        if (!(w > 0)) continue;
        const near = 1 / w;
        const sx = (m0 * x + m1 * y + m2 * z + m3) * near;
        const sy = (m4 * x + m5 * y + m6 * z + m7) * near;
        if (sx < x0 || sy < y0 || sx >= x1 || sy >= y1) continue;
        texel[count] = i;
        px[count] = sx;
        py[count] = sy;
        near1[count++] = near;
      }
    return count;
  }

  /** What is wanted of the projected texels; false: nothing. */
  private shade(count: number, wanted: Wanted): boolean {
    const { px, py, near1, want } = this;
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

  /** By how much one over the distance differs over a face. */
  private depthOf(f: number): number {
    const { positions: p, indices } = this.query;
    const m = this.matrix;
    let [least, most] = [Infinity, 0];
    for (let k = f * 3; k < f * 3 + 3; k++) {
      const v = indices[k] * 3;
      const near = 1 / Math.max(1e-9, m[8] * p[v] + m[9] * p[v + 1] + m[10] * p[v + 2] + m[11]);
      if (near < least) least = near;
      if (near > most) most = near;
    }
    return most - least;
  }

  /** Where a pixel of the pane lies in the buffer; −1: beside it. */
  private pixel(x: number, y: number): number {
    const { columns, scale, box } = this;
    const column = Math.floor((x - box.x0) * scale) + 1;
    const row = Math.floor((y - box.y0) * scale) + 1;
    return column < 1 || row < 1 || column >= columns - 1 || row >= this.rows - 1 ? -1 : row * columns + column;
  }

  private inFront(f: number, x: number, y: number, near: number): boolean {
    const { edges, buffer, columns } = this;
    let p = this.pixel(x, y);
    if (p < 0) return false;
    if (this.smoothAt(p)) {
      if (buffer[p] === f) return true;
      for (let i = p - columns - 1, end = i + 3 * columns; i < end; i += columns)
        if (buffer[i] === f || buffer[i + 1] === f || buffer[i + 2] === f) return true;
    }
    const e = f * 9;
    const e0 = edges[e] * x + edges[e + 1] * y + edges[e + 2];
    const e1 = edges[e + 3] * x + edges[e + 4] * y + edges[e + 5];
    const e2 = edges[e + 6] * x + edges[e + 7] * y + edges[e + 8];
    if (e0 >= 0 && e1 >= 0 && e2 >= 0) return !this.covered(f, p, x, y, near);
    // In the gutter: as much is seen as of the nearest place of its face.
    this.placeOf(f, e0 > 0 ? e0 : 0, e1 > 0 ? e1 : 0, e2 > 0 ? e2 : 0);
    const { clamped } = this;
    p = this.pixel(clamped[0], clamped[1]);
    if (p < 0) return false;
    if (buffer[p] === f && this.smoothAt(p)) return true;
    return !this.covered(f, p, clamped[0], clamped[1], clamped[2]);
  }

  /** How much of the n-th projected texel is seen, 0 … 1. */
  private seen({ face, position, normal }: SurfaceTile, n: number): number {
    const { options } = this;
    const i = this.texel[n];
    const f = face[i];
    if (this.front && !this.inFront(f, this.px[n], this.py[n], this.near1[n])) return 0;
    const { grazing } = options;
    if (grazing === 0) return 1;
    const { eye } = this.view;
    const o = i * 3;
    const dx = eye[0] - position[o];
    const dy = eye[1] - position[o + 1];
    const dz = eye[2] - position[o + 2];
    const cosine = (normal[o] * dx + normal[o + 1] * dy + normal[o + 2] * dz) / (127 * Math.sqrt(dx * dx + dy * dy + dz * dz));
    const t = Math.min(1, Math.max(0, (options.bothSides ? Math.abs(cosine) : cosine) / grazing));
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

  /** The pixel of a place of a face by shares of its corners, whatever they add up to, and one over its distance: into `clamped`. */
  private placeOf(f: number, s0: number, s1: number, s2: number): void {
    const { positions: p, indices } = this.query;
    const m = this.matrix;
    const a = indices[f * 3] * 3;
    const b = indices[f * 3 + 1] * 3;
    const c = indices[f * 3 + 2] * 3;
    // The edge functions give a corner's weight over w of the place: their shares are the weights themselves.
    const by = 1 / (s0 + s1 + s2);
    const x = (p[a] * s0 + p[b] * s1 + p[c] * s2) * by;
    const y = (p[a + 1] * s0 + p[b + 1] * s1 + p[c + 1] * s2) * by;
    const z = (p[a + 2] * s0 + p[b + 2] * s1 + p[c + 2] * s2) * by;
    const w = m[8] * x + m[9] * y + m[10] * z + m[11];
    this.clamped[0] = (m[0] * x + m[1] * y + m[2] * z + m[3]) / w;
    this.clamped[1] = (m[4] * x + m[5] * y + m[6] * z + m[7]) / w;
    this.clamped[2] = 1 / w;
  }
  private readonly clamped = new Float64Array(3);
}

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

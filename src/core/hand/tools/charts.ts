/**
 * Reads a rectangle of texels around an island as if the island went on beyond its border. A place beyond it is found by walking
 * straight on over the surface, across the seam, from the island's nearest texel.
 */
import type { TexelRect } from '../../../kernels/dabs';
import type { SurfaceMap } from '../../mesh/surfaceMap/surfaceMap';
import { islandsOf } from '../../mesh/texels';
import { waysOf } from '../../mesh/ways';
import { TILE, tileIndex, type TileIndex } from '../../tile/tiles';
import type { ToolContext } from './tool';

/** A rectangle of cells, each cell × cell texels. */
export interface Window {
  /** Its first texel in the sheet; may lie before the sheet's. */
  x: number;
  y: number;
  cell: number;
  columns: number;
  rows: number;
  channels: 2 | 4;
  /** Plane after plane: means of premultiplied values and alpha, times the last plane: how much of the cell there is, 0 … 1. */
  values: Float64Array;
}

/** Premultiplied texels, interleaved; null: nothing is there. */
type Texels = (tile: TileIndex) => Float32Array | null;

/** The number that a canvas, which has no islands, goes by. */
const CANVAS = 0;
const NO_ISLAND = -1;

/** Limit of the cache of places beyond islands, in float64 numbers for each model: 16 MB. */
const MOST_NUMBERS = 1 << 21;
/** What an entry without places takes, in such numbers: its key and its place in the map. */
const ENTRY_NUMBERS = 16;
const NOWHERE = new Float64Array(0);

/** Caches the places beyond islands by window, since strokes read the same windows again and again; drops the least recently used. */
class Beyond {
  private readonly windows = new Map<string, Float64Array>();
  private numbers = 0;

  /** `hiddenVersion`: of the query that the places were found with. Walks over the surface end at hidden faces. */
  constructor(readonly hiddenVersion: number) {}

  get(key: string): Float64Array | undefined {
    const places = this.windows.get(key);
    if (!places) return undefined;
    this.windows.delete(key);
    this.windows.set(key, places);
    return places;
  }

  set(key: string, places: Float64Array): void {
    this.windows.set(key, places);
    this.numbers += places.length + ENTRY_NUMBERS;
    for (const [old, { length }] of this.windows) {
      if (this.numbers <= MOST_NUMBERS) break;
      this.windows.delete(old);
      this.numbers -= length + ENTRY_NUMBERS;
    }
  }
}
const beyondIslands = new WeakMap<SurfaceMap, Beyond>();

/** By island: its texels per metre, as a multiple of the sheet's mean. */
const densities = new WeakMap<SurfaceMap, Float32Array>();

/** By tile: the island of each texel. They are kept from stroke to stroke: 64 KB a tile. */
const owners = new WeakMap<SurfaceMap, Map<TileIndex, Int32Array | null>>();

export class Charts {
  constructor(private context: Pick<ToolContext, 'sheet' | 'surface'>) {}

  /** The island whose chart a texel belongs to, in its gutter as well. */
  islandAt(tile: TileIndex, i: number): number {
    const { surface } = this.context;
    if (!surface) return CANVAS;
    const face = surface.map.tiles.get(tile)?.face[i] ?? -1;
    return face < 0 ? NO_ISLAND : surface.islands.island[face];
  }

  densityOf(island: number): number {
    const { surface } = this.context;
    if (!surface || island === NO_ISLAND) return 1;
    let known = densities.get(surface.map);
    if (!known) densities.set(surface.map, (known = this.measured()));
    return known[island];
  }

  private measured(): Float32Array {
    const { map, query, islands } = this.context.surface!;
    const { positions: p, indices } = query.model;
    const { cornersTexels: c } = map;
    const count = islands.island.reduce((most, island) => Math.max(most, island), 0) + 1;
    const [flat, real] = [new Float64Array(count), new Float64Array(count)];
    for (let f = 0; f < islands.island.length; f++) {
      const o = f * 6;
      const area = Math.abs((c[o + 2] - c[o]) * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * (c[o + 3] - c[o + 1]));
      if (!(area > 0)) continue;
      const [a, b, d] = [indices[f * 3] * 3, indices[f * 3 + 1] * 3, indices[f * 3 + 2] * 3];
      const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
      const [vx, vy, vz] = [p[d] - p[a], p[d + 1] - p[a + 1], p[d + 2] - p[a + 2]];
      flat[islands.island[f]] += area;
      real[islands.island[f]] += Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx);
    }
    return Float32Array.from(flat, (area, n) => (real[n] > 0 ? Math.sqrt(area / real[n]) / map.texelsPerMetre : 1));
  }

  fill(window: Window, island: number, texels: Texels): void {
    if (island === NO_ISLAND) return;
    const { surface } = this.context;
    if (!surface) return this.fillOwn(window, island, texels, null);
    const { x, y, cell, columns, rows } = window;
    let known = beyondIslands.get(surface.map);
    const { hiddenVersion } = surface.query;
    if (known?.hiddenVersion !== hiddenVersion) beyondIslands.set(surface.map, (known = new Beyond(hiddenVersion)));
    const key = `${island} ${x} ${y} ${cell} ${columns} ${rows}`;
    let places = known.get(key);
    const first = places ? null : new Int32Array(columns * rows).fill(-1);
    this.fillOwn(window, island, texels, first);
    if (!places) known.set(key, (places = first!.includes(-1) ? this.placesBeyond(window, first!) : NOWHERE));
    this.fillBeyond(window, texels, places);
  }

  /** Cells of the island itself. `first`: takes the first of its texels in each cell, as a number in the sheet. */
  private fillOwn(window: Window, island: number, texels: Texels, first: Int32Array | null): void {
    const { cell, columns, rows, channels, values } = window;
    const { width, height, wrapU, wrapV } = this.context.sheet;
    const wraps = !this.context.surface;
    const size = columns * rows;
    const span = columns * cell;
    const counts = channels * size;
    const shift = Math.log2(cell);
    for (let dy = 0; dy < rows * cell; dy++) {
      let y = window.y + dy;
      if (wraps && wrapV) y = ((y % height) + height) % height;
      if (y < 0 || y >= height) continue;
      const row = (dy >> shift) * columns;
      for (let dx = 0, run: number; dx < span; dx += run) {
        let x = window.x + dx;
        if (wraps && wrapU) x = ((x % width) + width) % width;
        const outside = x < 0 || x >= width;
        run = outside ? 1 : Math.min(TILE - (x & (TILE - 1)), span - dx, width - x);
        if (outside) continue;
        const index = tileIndex(x >> 7, y >> 7);
        const own = wraps ? null : this.ownOf(index);
        if (!wraps && !own) continue;
        const from = texels(index);
        const i = (y & (TILE - 1)) * TILE + (x & (TILE - 1));
        if (cell === 1) {
          for (let n = 0, at = row + dx, o = i * channels; n < run; n++, at++, o += channels) {
            if (own && own[i + n] !== island) continue;
            values[counts + at] = 1;
            if (first) first[at] = y * width + x + n;
            if (!from) continue;
            values[at] = from[o];
            values[size + at] = from[o + 1];
            if (channels === 2) continue;
            values[2 * size + at] = from[o + 2];
            values[3 * size + at] = from[o + 3];
          }
          continue;
        }
        for (let n = 0; n < run; n++) {
          if (own && own[i + n] !== island) continue;
          const at = row + ((dx + n) >> shift);
          values[counts + at]++;
          if (first && first[at] < 0) first[at] = y * width + x + n;
          if (!from) continue;
          const o = (i + n) * channels;
          values[at] += from[o];
          values[size + at] += from[o + 1];
          if (channels === 2) continue;
          values[2 * size + at] += from[o + 2];
          values[3 * size + at] += from[o + 3];
        }
      }
    }
    if (cell === 1) return;
    // On a model, the mean of the texels that a cell has stands for the whole cell.
    for (let at = 0; at < size; at++) {
      const count = values[counts + at];
      if (count === 0) continue;
      const whole = wraps ? cell * cell : count;
      for (let k = 0; k <= channels; k++) values[k * size + at] /= whole;
    }
  }

  /** Four numbers for each cell beyond the island's border that the surface reaches: the cell, its place in the sheet, and the island there. */
  private placesBeyond({ x: left, y: top, cell, columns, rows }: Window, first: Int32Array): Float64Array {
    const { width } = this.context.sheet;
    const { map, query, islands } = this.context.surface!;
    const ways = waysOf(map, query);
    const m = ways.into;
    const size = columns * rows;
    const near = nearestFilled(first, columns, rows);
    const places: number[] = [];
    for (let at = 0; at < size; at++) {
      if (first[at] >= 0 || near[at] < 0) continue;
      const from = first[near[at]];
      const fromX = from % width;
      const fromY = (from - fromX) / width;
      const face = map.tiles.get(tileIndex(fromX >> 7, fromY >> 7))!.face[(fromY & (TILE - 1)) * TILE + (fromX & (TILE - 1))];
      const o = ways.intoWeights(face);
      const column = at % columns;
      // Both places as weights of the corners of that texel's face.
      const sx = fromX + 0.5 - m[o + 4];
      const sy = fromY + 0.5 - m[o + 5];
      const x = left + (column + 0.5) * cell - m[o + 4];
      const y = top + ((at - column) / columns + 0.5) * cell - m[o + 5];
      const whole = ways.goTo(
        face,
        m[o] * sx + m[o + 1] * sy,
        m[o + 2] * sx + m[o + 3] * sy,
        m[o] * x + m[o + 1] * y,
        m[o + 2] * x + m[o + 3] * y,
      );
      // Where the surface ends the cell stays empty and weighs nothing.
      if (whole) places.push(at, ways.x, ways.y, islands.island[ways.face]);
    }
    return Float64Array.from(places);
  }

  private fillBeyond({ cell, columns, rows, channels, values }: Window, texels: Texels, places: Float64Array): void {
    const size = columns * rows;
    const read = new Float64Array(channels);
    for (let n = 0; n < places.length; n += 4) {
      if (!this.meanAt(places[n + 1], places[n + 2], cell, places[n + 3], texels, read)) continue;
      const at = places[n];
      for (let k = 0; k < channels; k++) values[k * size + at] = read[k];
      values[channels * size + at] = 1;
    }
  }

  /** The mean of the texels of an island within a square around a place. false: there are none. */
  private meanAt(x: number, y: number, cell: number, island: number, texels: Texels, out: Float64Array): boolean {
    const { width, height } = this.context.sheet;
    const [left, top] = [Math.round(x - cell / 2), Math.round(y - cell / 2)];
    out.fill(0);
    let count = 0;
    for (let py = Math.max(0, top); py < Math.min(height, top + cell); py++)
      for (let px = Math.max(0, left); px < Math.min(width, left + cell); px++) {
        const index = tileIndex(px >> 7, py >> 7);
        const i = (py & (TILE - 1)) * TILE + (px & (TILE - 1));
        if (this.ownOf(index)?.[i] !== island) continue;
        count++;
        const from = texels(index);
        if (from) for (let k = 0; k < out.length; k++) out[k] += from[i * out.length + k];
      }
    for (let k = 0; k < out.length; k++) out[k] /= count;
    return count > 0;
  }

  /** Where in a part of a tile an island's chart has texels, its gutter included. */
  boxIn(tile: TileIndex, island: number, part: TexelRect): TexelRect {
    if (!this.context.surface) return part;
    const face = this.context.surface.map.tiles.get(tile)?.face;
    const { island: islands } = this.context.surface.islands;
    const box = { x0: part.x1, y0: part.y1, x1: part.x0, y1: part.y0 };
    for (let y = part.y0; face && y < part.y1; y++)
      for (let x = part.x0; x < part.x1; x++) {
        const f = face[y * TILE + x];
        if (f < 0 || islands[f] !== island) continue;
        box.x0 = Math.min(box.x0, x);
        box.y0 = Math.min(box.y0, y);
        box.x1 = Math.max(box.x1, x + 1);
        box.y1 = Math.max(box.y1, y + 1);
      }
    return box.x0 < box.x1 ? box : part;
  }

  /** Of each texel of a tile the island that its middle lies in; null: the tile has none. */
  private ownOf(index: TileIndex): Int32Array | null {
    const { map, islands } = this.context.surface!;
    let tiles = owners.get(map);
    if (!tiles) owners.set(map, (tiles = new Map()));
    let own = tiles.get(index);
    if (own === undefined) {
      const tile = map.tiles.get(index);
      tiles.set(index, (own = tile ? islandsOf(map, islands.island, tile) : null));
    }
    return own;
  }
}

/**
 * Of each cell the nearest one that is filled (≥ 0), by two passes over the rows (P.-E. Danielsson, "Euclidean distance mapping",
 * Computer Graphics and Image Processing 14, 1980); −1 if none is.
 */
function nearestFilled(filled: Int32Array, columns: number, rows: number): Int32Array {
  const out = new Int32Array(filled.length);
  /** Squared distance to that cell; Infinity: none is known yet. */
  const away = new Float64Array(filled.length);
  for (let at = 0; at < filled.length; at++) {
    out[at] = filled[at] >= 0 ? at : -1;
    away[at] = filled[at] >= 0 ? 0 : Infinity;
  }
  for (let way = 1; way >= -1; way -= 2)
    for (let n = 0; n < rows; n++) {
      const y = way === 1 ? n : rows - 1 - n;
      const before = y - way;
      for (let side = 1; side >= -1; side -= 2)
        for (let k = 0; k < columns; k++) {
          const x = side === 1 ? k : columns - 1 - k;
          const at = y * columns + x;
          if (away[at] <= 1) continue;
          for (let q = 0; q < 4; q++) {
            // The neighbour visited last in this row, and three of the row visited before.
            const qx = q === 0 ? x - side : x + q - 2;
            const qy = q === 0 ? y : before;
            if (qx < 0 || qx >= columns || qy < 0 || qy >= rows) continue;
            const to = out[qy * columns + qx];
            if (to < 0) continue;
            const dx = x - (to % columns);
            const dy = y - Math.floor(to / columns);
            if (dx * dx + dy * dy >= away[at]) continue;
            away[at] = dx * dx + dy * dy;
            out[at] = to;
          }
        }
    }
  return out;
}

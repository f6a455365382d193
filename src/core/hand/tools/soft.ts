/**
 * The mean around a texel, weighed by a Gaussian whose standard deviation is half the reach. In the sheet it runs along rows
 * and columns of the texel's island (a Gaussian is separable); what lies over a seam is read at its place on the surface. Wide
 * ones are worked out on cells of several texels and interpolated between those. Colours are averaged in linear light.
 */
import type { TexelRect } from '../../../kernels/dabs';
import { fastLinear, fastSrgb } from '../../colour/transfer';
import { kernels } from '../../kernels';
import { gaussianSide } from '../../kinds/filters/gaussian';
import { mapInfo, type MapId, type PlaneMap } from '../../kinds/maps';
import { TILE, TILE_TEXELS, tileX, tileY, type TileIndex } from '../../tile/tiles';
import type { Looked } from '../looked';
import { Charts, type Window } from './charts';
import type { ToolContext } from './tool';

/** Cells are so many texels wide that the standard deviation is at least this many of them: 4 to 8 once they are more than 1. */
const CELLS_PER_SIGMA = 4;
const WIDEST_CELL = 16;
/** Weights beyond so many standard deviations are left out: a quarter of a percent. */
const CUT = 3;

/** Cell size and weights of the Gaussian on one island, whose texels may be denser or sparser than the sheet's mean. */
interface Plan {
  /** Texels along a side of a cell, a power of 2. */
  cell: number;
  /** Weights of the middle and of one side, cell by cell. */
  side: Float32Array;
}

/** Means of the cells of a part of a tile: planes of premultiplied values and alpha, then the weight of what is there. */
interface Means {
  cell: number;
  /** Where the first cell begins, in texels of the tile; where cells are interpolated there is one more at each end. */
  left: number;
  top: number;
  columns: number;
  rows: number;
  planes: Float64Array;
}

/** Texels along a side of the part of a tile that is computed at once. Wide Gaussians read a wide margin around it, so their parts are larger. */
const partOf = (cell: number): number => Math.min(TILE, 32 * cell);

let scratch = new Float64Array(0);
/** An array of zeroes that the caller may use until the next call: windows are large, and one is needed at a time. */
function scratchOf(count: number): Float64Array {
  if (scratch.length < count) scratch = new Float64Array(count);
  return scratch.subarray(0, count).fill(0);
}

export class Soft {
  private readonly charts: Charts;
  private readonly plans = new Map<number, Plan>();

  /** `reach`: texels of the sheet's mean density. */
  constructor(
    context: Pick<ToolContext, 'sheet' | 'surface'>,
    private reach: number,
  ) {
    this.charts = new Charts(context);
  }

  of(map: PlaneMap, looked: Looked): SoftMap {
    const light = map !== 'mask' && map !== 'picture' && mapInfo(map as MapId).kind === 'colour';
    return new SoftMap(looked, light, this.charts, (island) => this.planOf(island));
  }

  private planOf(island: number): Plan {
    const known = this.plans.get(island);
    if (known) return known;
    const sigma = (this.reach / 2) * this.charts.densityOf(island);
    const cell = 2 ** Math.max(0, Math.floor(Math.log2(Math.min(WIDEST_CELL, sigma / CELLS_PER_SIGMA))));
    // Averaging within cells and interpolating between them blur too, and variances add up.
    const rest = cell === 1 ? sigma * sigma : sigma * sigma - (cell * cell - 1) / 12 - (cell * cell) / 6;
    const wide = Math.sqrt(rest) / cell;
    const plan = { cell, side: gaussianSide(wide).slice(0, Math.ceil(CUT * wide) + 1) };
    this.plans.set(island, plan);
    return plan;
  }
}

/** The means of one map, as it was when the stroke began. */
export class SoftMap {
  private readonly means = new Map<number, Map<number, Means>>();
  private readonly decoded = new Map<TileIndex, Float32Array>();

  constructor(
    private looked: Looked,
    /** Values are colours in the sRGB curve, averaged in linear light. */
    readonly light: boolean,
    private charts: Charts,
    private planOf: (island: number) => Plan,
  ) {}

  /** The mean around texel `i` of a tile, premultiplied, in the map's own encoding, into `out` from `o` on. */
  at(tile: TileIndex, i: number, out: Float32Array, o: number): void {
    const { channels } = this.looked;
    const { cell, left, top, columns, rows, planes } = this.meansOf(tile, i);
    const size = columns * rows;
    const [x, y] = [(i & (TILE - 1)) - left, (i >> 7) - top];
    let total = 0;
    if (cell === 1) {
      const at = y * columns + x;
      for (let k = 0; k < channels; k++) out[o + k] = planes[k * size + at];
      total = planes[channels * size + at];
    } else {
      // A cell's value stands at its middle.
      const cx = (x + 0.5) / cell - 0.5;
      const cy = (y + 0.5) / cell - 0.5;
      const column = Math.floor(cx);
      const row = Math.floor(cy);
      const fx = cx - column;
      const fy = cy - row;
      const at = row * columns + column;
      for (let k = 0; k <= channels; k++) {
        const p = k * size + at;
        const upper = planes[p] + (planes[p + 1] - planes[p]) * fx;
        const lower = planes[p + columns] + (planes[p + columns + 1] - planes[p + columns]) * fx;
        const value = upper + (lower - upper) * fy;
        if (k < channels) out[o + k] = value;
        else total = value;
      }
    }
    const alpha = total > 0 ? out[o + channels - 1] / total : 0;
    for (let k = 0; k < channels - 1; k++) {
      const value = total > 0 ? out[o + k] / total : 0;
      out[o + k] = this.light && alpha > 0 ? fastSrgb(value / alpha) * alpha : value;
    }
    out[o + channels - 1] = alpha;
  }

  private meansOf(tile: TileIndex, i: number): Means {
    const island = this.charts.islandAt(tile, i);
    const { last } = this;
    const [x, y] = [i & (TILE - 1), i >> 7];
    if (last && last.tile === tile && last.island === island && x >= last.x0 && y >= last.y0 && x < last.x1 && y < last.y1)
      return last.means;
    const plan = this.planOf(island);
    const size = partOf(plan.cell);
    const [column, row] = [Math.floor(x / size), Math.floor(y / size)];
    const [x0, y0] = [column * size, row * size];
    let parts = this.means.get(island);
    if (!parts) this.means.set(island, (parts = new Map()));
    const key = tile * 16 + row * 4 + column;
    let means = parts.get(key);
    if (!means) parts.set(key, (means = this.blurred(tile, island, plan, { x0, y0, x1: x0 + size, y1: y0 + size })));
    this.last = { tile, island, x0, y0, x1: x0 + size, y1: y0 + size, means };
    return means;
  }
  /** Neighbouring texels are nearly always of the same part. */
  private last: (TexelRect & { tile: TileIndex; island: number; means: Means }) | null = null;

  private blurred(tile: TileIndex, island: number, { cell, side }: Plan, part: TexelRect): Means {
    const { channels } = this.looked;
    const box = this.charts.boxIn(tile, island, part);
    const border = cell === 1 ? 0 : 1;
    const radius = side.length - 1;
    const left = (Math.floor(box.x0 / cell) - border) * cell;
    const top = (Math.floor(box.y0 / cell) - border) * cell;
    // The kernels sum four columns at a time.
    const columns = (Math.ceil((box.x1 - left) / cell) + border + 3) & ~3;
    const rows = Math.ceil((box.y1 - top) / cell) + border;
    const [across, down] = [columns + 2 * radius, rows + 2 * radius];
    const window: Window = {
      x: tileX(tile) * TILE + left - radius * cell,
      y: tileY(tile) * TILE + top - radius * cell,
      ...{ cell, columns: across, rows: down, channels, values: scratchOf((channels + 1) * across * down) },
    };
    this.charts.fill(window, island, (index) => this.tile(index));
    const planes = new Float64Array((channels + 1) * columns * rows);
    for (let p = 0; p <= channels; p++) {
      const source = window.values.subarray(p * across * down, (p + 1) * across * down);
      const out = planes.subarray(p * columns * rows, (p + 1) * columns * rows);
      kernels().separableSums(source, across, down, side, out);
    }
    return { cell, left, top, columns, rows, planes };
  }

  /** Premultiplied texels, colours in linear light; null: nothing is there. */
  private tile(index: TileIndex): Float32Array | null {
    const from = this.looked.tile(index);
    if (!this.light || from === null) return from;
    let out = this.decoded.get(index);
    if (out) return out;
    out = new Float32Array(TILE_TEXELS * 4);
    for (let o = 0; o < out.length; o += 4) {
      const alpha = (out[o + 3] = from[o + 3]);
      if (alpha > 0) for (let k = o; k < o + 3; k++) out[k] = fastLinear(from[k] / alpha) * alpha;
    }
    this.decoded.set(index, out);
    return out;
  }
}

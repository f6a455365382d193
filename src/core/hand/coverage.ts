/**
 * The stroke buffer: how much of the stroke each texel has received, 0..1, float32, sparse tiles.
 * Dabs raise it towards their cap and never beyond, so that overlapping dabs build up by flow but a stroke
 * stays within its opacity. Each tile remembers the rectangle touched since the last flush.
 */
import type { PlaneMap } from '../kinds/maps';
import { FALLOFF_STEPS } from '../../kernels/dabs';
import { kernels } from '../kernels';
import { lasting, TILE, tileIndex, tilesAcross, TILE_TEXELS, type TileIndex } from '../tile/tiles';
import { grow, type Imprint, type Reached } from './imprint';
import { giveClear, takeClear } from './planes';
import type { FixedTexture } from './texture';

/** A dab's own colour on a map: RGB in the map's stored encoding, 0 … 1. */
export interface Ink {
  map: PlaneMap;
  colour: readonly number[];
}

export interface CoverageTile {
  index: TileIndex;
  x: number;
  y: number;
  /** float32 a texel, row by row. */
  values: Float32Array;
  /** Touched since the last flush, texels within the tile, x1/y1 exclusive. x0 ≥ x1: untouched. */
  x0: number;
  y0: number;
  x1: number;
  y1: number;
  /** Touched since the stroke began. */
  all: Reached;
  /** Shares of the texture's depth, where dabs have their own. */
  depths?: Float32Array;
  /** By map, the colours of dabs that have their own: three planes, R, G and B. */
  inks?: Map<PlaneMap, Float32Array>;
}

export class Coverage {
  private grid: (CoverageTile | undefined)[];
  private across: number;
  readonly dirty: CoverageTile[] = [];

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.across = tilesAcross(width);
    this.grid = new Array(this.across * tilesAcross(height)).fill(undefined);
  }

  tile(x: number, y: number): CoverageTile {
    const at = y * this.across + x;
    let tile = this.grid[at];
    if (!tile) {
      tile = {
        index: tileIndex(x, y),
        x,
        y,
        values: takeClear(),
        x0: TILE,
        y0: TILE,
        x1: 0,
        y1: 0,
        all: { x0: TILE, y0: TILE, x1: 0, y1: 0 },
      };
      this.grid[at] = tile;
    }
    return tile;
  }

  /**
   * Raises what a dab reaches towards `cap`, by `flow` times the imprint of the way that is left. `inks`: the dab's own
   * colours, RGB 0 … 1 by map; `depth`: its own share of the texture's. Both lie over those of the dabs before, however high
   * the stroke is raised already: as paint does within the stroke, whose opacity comes afterwards.
   */
  lay(imprint: Imprint, flow: number, cap: number, inks: readonly Ink[] | null = null, depth: number | null = null): void {
    const k = kernels();
    for (const from of imprint.tiles) {
      const { x0, y0, x1, y1 } = from;
      const tile = this.tile(from.x, from.y);
      this.touch(tile, x0, y0, x1, y1);
      if (depth !== null) {
        tile.depths ??= lasting(Float32Array, TILE_TEXELS).fill(0);
        k.layOwn(tile.depths, [depth], tile.values, from.values, from, flow, cap);
      }
      if (inks) for (const ink of inks) k.layOwn(this.ink(tile, ink.map), ink.colour, tile.values, from.values, from, flow, cap);
      k.layDab(tile.values, from.values, from, flow, cap);
    }
  }

  /** Colours that texels of a tile have for themselves on a map: three planes, R, G and B. */
  ink(tile: CoverageTile, map: PlaneMap): Float32Array {
    const inks = (tile.inks ??= new Map<PlaneMap, Float32Array>());
    let planes = inks.get(map);
    if (!planes) inks.set(map, (planes = lasting(Float32Array, TILE_TEXELS * 3).fill(0)));
    return planes;
  }

  /** Notes that a rectangle of a tile has changed. */
  touch(tile: CoverageTile, x0: number, y0: number, x1: number, y1: number): void {
    if (tile.x0 >= tile.x1) this.dirty.push(tile);
    grow(tile.all, x0, y0, x1, y1);
    grow(tile, x0, y0, x1, y1);
  }

  /** Tiles touched so far, in a fixed order. */
  touched(): CoverageTile[] {
    return this.grid.filter((t): t is CoverageTile => t !== undefined);
  }

  /**
   * What each texel of a tile has received in the end: the one place where coverage passes on its way to a tool, within the
   * tile's dirty rectangle. `limit`: 0 … 1 a texel, which it is multiplied by; null: all of it.
   */
  received(tile: CoverageTile, limit: Float32Array | null, texture: FixedTexture | null = null): Float32Array {
    if (!limit && !texture) return tile.values;
    const { passed } = this;
    if (texture) texture.breakUp(tile.index, tile.values, passed, tile.depths ?? null, tile);
    const from = texture ? passed : tile.values;
    if (limit)
      for (let y = tile.y0; y < tile.y1; y++)
        for (let i = y * TILE + tile.x0; i < y * TILE + tile.x1; i++) passed[i] = from[i] * limit[i];
    return passed;
  }
  private readonly passed = lasting(Float32Array, TILE_TEXELS);

  /** The stroke is over: nobody asks what it has received any more. */
  release(): void {
    for (const tile of this.touched()) giveClear(tile.values, tile.all);
    this.grid.fill(undefined);
    this.dirty.length = 0;
  }

  /** All that was ever reached counts as changed. */
  markAll(): void {
    for (const tile of this.touched()) this.touch(tile, tile.all.x0, tile.all.y0, tile.all.x1, tile.all.y1);
  }

  clearDirty(): void {
    for (const t of this.dirty) {
      t.x0 = t.y0 = TILE;
      t.x1 = t.y1 = 0;
    }
    this.dirty.length = 0;
  }
}

/**
 * Falloff of a round tip by squared distance: entry i is the coverage at d² / r² = i / FALLOFF_STEPS.
 * 4096 steps put at least 4 entries on a texel at the rim of a tip of 1,024 texels radius. `edge`: what it gives at most, from
 * the middle (0) to the rim (1).
 */
export function falloffTable(
  hardness: number,
  out: Float32Array = lasting(Float32Array, FALLOFF_STEPS + 1),
  edge: ((way: number) => number) | null = null,
): Float32Array {
  for (let i = 0; i < FALLOFF_STEPS; i++) {
    const d = Math.sqrt(i / FALLOFF_STEPS);
    const t = hardness >= 1 ? 0 : Math.max(0, (d - hardness) / (1 - hardness));
    // 1 − smoothstep: slope zero at both ends, so soft tips overlap without rings.
    out[i] = 1 - t * t * (3 - 2 * t);
    if (edge) out[i] = Math.min(out[i], edge(d));
  }
  out[FALLOFF_STEPS] = 0;
  return out;
}

/** Radii are told apart to a sixteenth of an octave, 4 %: dabs of many sizes share their tables. */
const RIMS_AN_OCTAVE = 16;

/** Even a hard tip gets about one texel of softness at its rim, so that edges are not jagged. */
export function rimHardness(hardness: number, radiusTexels: number): number {
  const radius = 2 ** (Math.round(Math.log2(Math.max(1, radiusTexels)) * RIMS_AN_OCTAVE) / RIMS_AN_OCTAVE);
  return Math.min(hardness, Math.max(0, 1 - 1 / radius));
}

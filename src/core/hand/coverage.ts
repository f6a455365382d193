/**
 * The stroke buffer: how much of the stroke each texel has received, 0..1, float32, sparse tiles.
 * Dabs raise it towards their cap and never beyond, so that overlapping dabs build up by flow but a stroke
 * stays within its opacity. Each tile remembers the rectangle touched since the last flush.
 */
import { TILE, tileIndex, tilesAcross, TILE_TEXELS, type TileIndex } from '../tile/tiles';

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
  /** What each texel had before the dab of its turn; only where a dab came more than once. */
  base?: Float32Array;
  turns?: Uint32Array;
}

/**
 * Raises a texel towards the cap by a share of the way that is left. `turn` 0: by itself; else the number of a dab that comes
 * to a texel more than once (mirrored, or by several faces): as high as what gives most.
 */
export function raise(tile: CoverageTile, i: number, cap: number, gain: number, turn: number): void {
  const { values } = tile;
  if (turn === 0) {
    const old = values[i];
    if (old < cap) values[i] = old + (cap - old) * gain;
    return;
  }
  const base = (tile.base ??= new Float32Array(TILE_TEXELS));
  const turns = (tile.turns ??= new Uint32Array(TILE_TEXELS));
  if (turns[i] !== turn) {
    turns[i] = turn;
    base[i] = values[i];
  }
  const old = base[i];
  if (old >= cap) return;
  const raised = old + (cap - old) * gain;
  if (raised > values[i]) values[i] = raised;
}

export class Coverage {
  /** 0: each dab raises by itself. Else the number of the dab whose images raise together. */
  turn = 0;
  private lastTurn = 0;
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

  /** A number for a dab that comes to texels more than once. */
  newTurn(): number {
    return ++this.lastTurn;
  }

  tile(x: number, y: number): CoverageTile {
    const at = y * this.across + x;
    let tile = this.grid[at];
    if (!tile) {
      tile = { index: tileIndex(x, y), x, y, values: new Float32Array(TILE_TEXELS), x0: TILE, y0: TILE, x1: 0, y1: 0 };
      this.grid[at] = tile;
    }
    return tile;
  }

  /** Notes that a rectangle of a tile has changed. */
  touch(tile: CoverageTile, x0: number, y0: number, x1: number, y1: number): void {
    if (tile.x0 >= tile.x1) this.dirty.push(tile);
    if (x0 < tile.x0) tile.x0 = x0;
    if (y0 < tile.y0) tile.y0 = y0;
    if (x1 > tile.x1) tile.x1 = x1;
    if (y1 > tile.y1) tile.y1 = y1;
  }

  /** Tiles touched so far, in a fixed order. */
  touched(): CoverageTile[] {
    return this.grid.filter((t): t is CoverageTile => t !== undefined);
  }

  /**
   * What each texel of a tile has received in the end: the one place where coverage passes on its way to a tool.
   * `limit`: 0 … 1 a texel, which it is multiplied by within the tile's dirty rectangle; null: all of it.
   */
  received(tile: CoverageTile, limit: Float32Array | null): Float32Array {
    if (!limit) return tile.values;
    const { limited } = this;
    for (let y = tile.y0; y < tile.y1; y++)
      for (let i = y * TILE + tile.x0; i < y * TILE + tile.x1; i++) limited[i] = tile.values[i] * limit[i];
    return limited;
  }
  private readonly limited = new Float32Array(TILE_TEXELS);

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
 * 4096 steps put at least 4 entries on a texel at the rim of a tip of 1,024 texels radius.
 */
export const FALLOFF_STEPS = 4096;

export function falloffTable(hardness: number, out = new Float32Array(FALLOFF_STEPS + 1)): Float32Array {
  for (let i = 0; i < FALLOFF_STEPS; i++) {
    const d = Math.sqrt(i / FALLOFF_STEPS);
    const t = hardness >= 1 ? 0 : Math.max(0, (d - hardness) / (1 - hardness));
    // 1 − smoothstep: slope zero at both ends, so soft tips overlap without rings.
    out[i] = 1 - t * t * (3 - 2 * t);
  }
  out[FALLOFF_STEPS] = 0;
  return out;
}

/** Even a hard tip gets one texel of softness at its rim, so that edges are not jagged. */
export function rimHardness(hardness: number, radiusTexels: number): number {
  return Math.min(hardness, Math.max(0, 1 - 1 / Math.max(1, radiusTexels)));
}

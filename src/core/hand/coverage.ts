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
   *
   * `firm`, 0 … 1: 1 for hard tips, whose imprint is how much of a texel lies within the outline: dab upon dab it stays that much. 0 for soft
   * ones, which build up.
   */
  lay(
    imprint: Imprint,
    flow: number,
    cap: number,
    { inks = null, depth = null, firm = 0 }: { inks?: readonly Ink[] | null; depth?: number | null; firm?: number } = {},
  ): void {
    const k = kernels();
    for (const from of imprint.tiles) {
      const { x0, y0, x1, y1 } = from;
      const tile = this.tile(from.x, from.y);
      this.touch(tile, x0, y0, x1, y1);
      if (depth !== null) {
        tile.depths ??= lasting(Float32Array, TILE_TEXELS).fill(0);
        k.layOwn(tile.depths, [depth], tile.values, from.values, from, flow, cap, firm);
      }
      if (inks)
        for (const ink of inks) k.layOwn(this.ink(tile, ink.map), ink.colour, tile.values, from.values, from, flow, cap, firm);
      k.layDab(tile.values, from.values, from, flow, cap, firm);
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
  for (let i = 0; i < FALLOFF_STEPS; i++) out[i] = givenAt(Math.sqrt(i / FALLOFF_STEPS), hardness, edge);
  out[FALLOFF_STEPS] = 0;
  return out;
}

/** What a tip gives at a share of its radius, 0 … 1. 1 − smoothstep: slope zero at both ends, so soft tips overlap without rings. */
function givenAt(d: number, hardness: number, edge: ((way: number) => number) | null): number {
  const t = hardness >= 1 ? 0 : Math.max(0, (d - hardness) / (1 - hardness));
  const given = 1 - t * t * (3 - 2 * t);
  return edge ? Math.min(given, edge(d)) : given;
}

/** Radii are told apart to a sixteenth of an octave, 4 %: dabs of many sizes share their tables. */
const RIMS_AN_OCTAVE = 16;
const [LEAST_RIM, MOST_RIM] = [1 / 64, 4096];

/**
 * A tip as texels see it: each takes the mean of the tip over its own width, so that a hard tip of radius r gives about clamp(r − d + ½) at
 * d texels from its middle, and a line is as wide as the tip wherever it lies. Averaging over 1 texel is exact for lines along rows and
 * columns; at 45°, where rows of texels lie √½ apart, thin lines would be off by 0.1 texels. A second average over 0.4 texels keeps them
 * within 0.05 at any slope (tried: 0.5 is as exact but softer than the same line drawn at twice the size and reduced).
 * `radiusTexels`: along its short side. The table covers distances up to `1 + wider` radii.
 */
export interface RimmedTip {
  table: Float32Array;
  wider: number;
}

/** The radius rounded to those for which tables are made. */
export const rimRadius = (radiusTexels: number): number =>
  2 ** (Math.round(Math.log2(Math.min(MOST_RIM, Math.max(LEAST_RIM, radiusTexels))) * RIMS_AN_OCTAVE) / RIMS_AN_OCTAVE);

/** Tables by hardness and radius, the last used at the end: making one takes as long as laying several dabs. */
const shared = new Map<string, RimmedTip>();
/** Each takes 16 KiB. */
const MOST_SHARED = 256;

/** As `rimmedTip`, from a cache that all strokes share. */
export function sharedRim(hardness: number, radiusTexels: number): RimmedTip {
  const key = `${hardness} ${radiusTexels}`;
  const found = shared.get(key) ?? rimmedTip(hardness, radiusTexels);
  shared.delete(key);
  shared.set(key, found);
  if (shared.size > MOST_SHARED) shared.delete(shared.keys().next().value!);
  return found;
}

/** Widths of the two averages, in texels. */
const TEXEL_WIDTH = 1;
const ASLANT_WIDTH = 0.4;

/** Samples of the tip from its middle to its rim: at a radius of 1,024 texels four to a texel, and more than enough below. */
const PROFILE_STEPS = 4096;

export function rimmedTip(hardness: number, radiusTexels: number, edge: ((way: number) => number) | null = null): RimmedTip {
  const [a, b] = [TEXEL_WIDTH / 2 / radiusTexels, ASLANT_WIDTH / 2 / radiusTexels];
  const twice = summedTwice((d) => givenAt(d, hardness, edge));
  const table = lasting(Float32Array, FALLOFF_STEPS + 1);
  for (let i = 0; i < FALLOFF_STEPS; i++) {
    const d = Math.sqrt(i / FALLOFF_STEPS) * (1 + a + b);
    const mean = (twice(d + a + b) - twice(d + a - b) - twice(d - a + b) + twice(d - a - b)) / (4 * a * b);
    table[i] = Math.min(1, Math.max(0, mean));
  }
  table[FALLOFF_STEPS] = 0;
  return { table, wider: a + b };
}

/** The second integral of a profile that is even, and 0 beyond 1: by the rule of trapezoids. */
function summedTwice(profile: (d: number) => number): (d: number) => number {
  const step = 1 / PROFILE_STEPS;
  const once = new Float64Array(PROFILE_STEPS + 1);
  const twice = new Float64Array(PROFILE_STEPS + 1);
  for (let n = 1, before = profile(0); n <= PROFILE_STEPS; n++) {
    const here = profile(n * step);
    once[n] = once[n - 1] + ((before + here) / 2) * step;
    // Of a straight piece of the profile exactly.
    twice[n] = twice[n - 1] + once[n - 1] * step + ((2 * before + here) / 6) * step * step;
    before = here;
  }
  return (d) => {
    const way = Math.abs(d);
    if (way >= 1) return twice[PROFILE_STEPS] + once[PROFILE_STEPS] * (way - 1);
    const at = way * PROFILE_STEPS;
    const n = Math.floor(at);
    const t = at - n;
    // Between two samples as the curve goes: cubic, from its values and slopes (Hermite).
    const [p, q, u, v] = [twice[n], twice[n + 1], once[n] * step, once[n + 1] * step];
    return p + t * (u + t * (3 * (q - p) - 2 * u - v + t * (u + v - 2 * (q - p))));
  };
}

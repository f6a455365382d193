/**
 * Pattern stroke: the tip's picture along the path, turned with it, again and again. Each texel has a place on the path: how
 * far along, how far beside. Stretches of the path part at the bisector of their corner (a mitre), so nothing opens outside
 * of a corner and nothing is laid twice within. When the pen is lifted, the length is fitted to whole repeats: each is
 * stretched or shortened by the same share, never by more than half of one.
 */
import { number } from '../../kinds/control';
import { TILE, TILE_TEXELS, type TileIndex } from '../../tile/tiles';
import type { Imprint } from '../imprint';
import { cross, dot } from '../place';
import { pictureAt } from '../../../kernels/dabShares';
import { levelFor, levelOf, type TipPicture } from '../tipPicture';
import { paint } from './paint';
import type { Dab, Patch, ToolContext, ToolDef, ToolStroke } from './tool';

export const DEFAULT_PATTERN = 'made:rope';

export const pattern: ToolDef = {
  type: 'pattern',
  needsPath: true,
  label: 'Pattern stroke',
  hint: 'The tip’s picture along the path, in whole repeats: rope, stitches, rivets.',
  controls: [number('repeat', 'Repeat', 25, 400, { unit: '%', scale: 100 })],
  start: { repeat: 1 },
  // A band as wide as the tip, with nothing left to chance: the picture is laid into it.
  prepare: (brush) => ({
    ...brush,
    tip: { shape: 'round', roundness: 1, angle: 0, grid: false },
    hardness: 1,
    flow: 1,
    spacing: 0.1,
    dabs: 1,
    rate: 0,
    vary: brush.vary.filter(({ what, by }) => what === 'opacity' || (what === 'size' && by !== 'dab')),
  }),
  begin: (context) => {
    const strands = new Map<number, Strand>();
    const inner = paint.begin({ ...context, settings: { blend: 'normal' } });
    const picture = context.pattern();
    const band = new Float32Array(TILE_TEXELS);
    return {
      dab: (imprint, dab) => {
        let strand = strands.get(dab.which);
        if (!strand) strands.set(dab.which, (strand = new Strand(context)));
        strand.add(imprint, dab);
      },
      flush: (patch) => {
        band.fill(0);
        asFound(patch);
        for (const strand of strands.values()) strand.lay(patch, picture, band);
        inner.flush({ ...patch, coverage: band });
      },
      end: () => {
        for (const strand of strands.values()) strand.end();
        return true;
      },
    } satisfies ToolStroke;
  },
};

/** What was laid with another length of the path goes. */
function asFound({ before, after, channels, x0, y0, x1, y1 }: Patch): void {
  for (let y = y0; y < y1; y++) {
    const [from, to] = [(y * TILE + x0) * channels, (y * TILE + x1) * channels];
    if (before) after.set(before.subarray(from, to), from);
    else after.fill(0, from, to);
  }
}

type Vector = [number, number, number];
const minus = (a: readonly number[], b: readonly number[]): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const unit = (a: Vector): Vector => {
  const l = Math.hypot(...a) || 1;
  return [a[0] / l, a[1] / l, a[2] / l];
};

interface Step {
  point: Vector;
  /** Out of the surface. */
  out: readonly number[];
  radius: number;
  flat: boolean;
  mirrored: boolean;
  reached: { index: TileIndex; x0: number; y0: number; x1: number; y1: number; on: Uint8Array }[];
}

interface PlaceTile {
  /** Along the path, in the pane's unit; how far beside it, in radii; how well that is known: the distance, in radii. */
  along: Float32Array;
  beside: Float32Array;
  apart: Float32Array;
}

/** A dab that is further from the last than this, in radii, begins anew. */
const MOST_STEP = 3;

/** The path of the pen, or of one of its images. */
class Strand {
  private steps: Step[] = [];
  private length = 0;
  private lastDirection: Vector | null = null;
  private tiles = new Map<TileIndex, PlaceTile>();
  /** Of one repeat, in the pane's unit; fitted when the pen is up. */
  private repeat = 0;
  private radius = 1;
  private perTexel = 1;

  constructor(private context: ToolContext) {}

  add(imprint: Imprint, { at, radius, frame, mirrored = false }: Dab): void {
    const flat = at.pane === 'flat';
    const point: Vector = at.pane === 'flat' ? [at.x, at.y, 0] : [...at.hit.point];
    const last = this.steps.at(-1);
    if (last && Math.hypot(...minus(point, last.point)) > MOST_STEP * radius) this.finish();
    else if (last && Math.hypot(...minus(point, last.point)) < 1e-9) return;
    if (this.repeat === 0) {
      this.repeat = 2 * radius * Number(this.context.settings.repeat);
      this.radius = radius;
      this.perTexel = flat ? 1 : 1 / this.context.beside.texelsPerMetre;
    }
    const reached = imprint.tiles.map(({ index, x0, y0, x1, y1, values }) => {
      const on = new Uint8Array((x1 - x0) * (y1 - y0));
      for (let y = y0, n = 0; y < y1; y++) for (let x = x0; x < x1; x++, n++) on[n] = values[y * TILE + x] > 0 ? 1 : 0;
      return { index, x0, y0, x1, y1, on };
    });
    this.steps.push({ point, out: frame?.out ?? [0, 0, 1], radius, flat, mirrored, reached });
    // A stretch is laid when it is known where the next one goes.
    if (this.steps.length > 2) this.stretch(false);
  }

  end(): void {
    this.finish();
    if (this.repeat > 0 && this.length > 0) this.repeat = this.length / Math.max(1, Math.round(this.length / this.repeat));
  }

  private finish(): void {
    if (this.steps.length > 1) this.stretch(true);
    this.steps = [];
    this.lastDirection = null;
  }

  /** From the first step to the second; `last`: nothing comes after. */
  private stretch(last: boolean): void {
    const [a, b, c] = this.steps;
    const way = minus(b.point, a.point);
    const long = Math.hypot(...way);
    const direction = unit(way);
    const next = last || !c ? null : unit(minus(c.point, b.point));
    // Mitres: planes through the corners, half way between the two directions.
    const from = this.lastDirection ? unit([0, 1, 2].map((k) => this.lastDirection![k] + direction[k]) as Vector) : null;
    const to = next ? unit([0, 1, 2].map((k) => direction[k] + next[k]) as Vector) : null;
    const side = unit(cross(a.out, direction));
    for (const { index, x0, y0, x1, y1, on } of [...a.reached, ...b.reached]) {
      const tile = this.tileOf(index);
      const position = a.flat ? null : this.context.surface!.map.tiles.get(index)?.position;
      for (let y = y0, n = 0; y < y1; y++)
        for (let x = x0; x < x1; x++, n++) {
          if (!on[n]) continue;
          const i = y * TILE + x;
          const at = position ? [position[i * 3], position[i * 3 + 1], position[i * 3 + 2]] : this.near(index, x, y, a.point);
          const d = minus(at, a.point);
          const e = minus(at, b.point);
          if (from ? dot(d, from) < 0 : dot(d, direction) < 0) continue;
          if (to ? dot(e, to) > 0 : dot(e, direction) > 0) continue;
          const beside = (a.mirrored ? -dot(d, side) : dot(d, side)) / a.radius;
          const apart = beside < 0 ? -beside : beside;
          if (apart > 1 || apart >= tile.apart[i]) continue;
          tile.apart[i] = apart;
          tile.beside[i] = beside;
          tile.along[i] = this.length + dot(d, direction);
        }
    }
    this.length += long;
    this.lastDirection = direction;
    this.steps.shift();
  }

  /** A texel of the sheet where it lies nearest to the path, which may run over a border that wraps. */
  private near(index: TileIndex, x: number, y: number, to: Vector): Vector {
    const { width, height, wrapU, wrapV } = this.context.sheet;
    let px = (index % 256) * TILE + x + 0.5;
    let py = ((index / 256) | 0) * TILE + y + 0.5;
    if (wrapU) px += Math.round((to[0] - px) / width) * width;
    if (wrapV) py += Math.round((to[1] - py) / height) * height;
    return [px, py, 0];
  }

  private tileOf(index: TileIndex): PlaceTile {
    let tile = this.tiles.get(index);
    if (!tile) {
      tile = {
        along: new Float32Array(TILE_TEXELS),
        beside: new Float32Array(TILE_TEXELS),
        apart: new Float32Array(TILE_TEXELS).fill(Infinity),
      };
      this.tiles.set(index, tile);
    }
    return tile;
  }

  /** The picture where the path has come, times what the band has received there. */
  lay({ tile: index, coverage, x0, y0, x1, y1 }: Patch, picture: TipPicture, into: Float32Array): void {
    const tile = this.tiles.get(index);
    if (!tile) return;
    const level = levelOf(picture, levelFor(picture, (2 * this.radius) / this.perTexel));
    for (let y = y0; y < y1; y++)
      for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
        if (tile.apart[i] === Infinity || coverage[i] <= 0) continue;
        const turns = tile.along[i] / this.repeat;
        const share = coverage[i] * pictureAt(level, (turns - Math.floor(turns)) * 2 - 1, tile.beside[i]);
        if (share > into[i]) into[i] = share;
      }
  }
}

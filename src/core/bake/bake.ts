/** Bakes: from what is asked to tiles of pixels. The same bytes whoever bakes which tile. */
import { BAKES, type BakeSettings } from '../kinds/bakes';
import type { Supersample } from '../rays/points';
import type { SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import { MAX16, TILE_TEXELS, type TileIndex } from '../tile/tiles';
import type { Ground } from '../rays/ground';
import type { AskedPoints, Work } from '../kinds/bakes/bake';
import { liftPoints, PointMaker, type Points } from '../rays/points';
import type { Projector } from './project';

export interface BakeInput {
  settings: BakeSettings;
  low: Ground;
  /** Of the sheet, in the size of the bake. */
  map: SurfaceMap;
  supersample: Supersample;
  /** Where it is baked from a twin. */
  twin: { ground: Ground; projector: Projector } | null;
}

export interface BakedTile {
  /** RGBA, 16 bit; alpha 0 where there is nothing: off the islands, and where the twin was missed. */
  data: Uint16Array;
  /** Texels of islands that met nothing of the twin. Those of the gutter are not counted. */
  missed: number;
}

/** Points at a time, at most `MOST_POINTS` (kernels/rays.ts): with 64 samples a tenth of a second of rays. */
const STEP = 2048;

export class Baker {
  private readonly maker: PointMaker;
  private readonly work: Work;
  private readonly channels: 1 | 3;
  private readonly values: Float32Array;

  constructor(private readonly input: BakeInput) {
    const { settings, low, twin, map } = input;
    const { values, from } = BAKES[settings.type];
    if (twin ? !from.twin : !from.model) throw new Error(`"${settings.type}" is not baked from ${twin ? 'a twin' : 'the model'}`);
    this.channels = values === 'value' ? 1 : 3;
    this.values = new Float32Array(STEP * 3);
    this.maker = new PointMaker(low.model, map);
    this.work = BAKES[settings.type].prepare(settings, { low, on: twin?.ground ?? low });
  }

  /** null: no island has anything there. */
  tile(tile: TileIndex): BakedTile | null {
    const steps = this.steps(tile);
    for (;;) {
      const { done, value } = steps.next();
      if (done) return value;
    }
  }

  /** The same, with a rest after every few thousand points. One tile at a time. */
  *steps(tile: TileIndex): Generator<void, BakedTile | null> {
    const points = this.maker.of(tile, this.input.supersample);
    if (points.count === 0) return null;
    const { twin, low, settings } = this.input;
    if (twin) return yield* this.finish(twin.projector.of(points), points);
    if (BAKES[settings.type].lifted) liftPoints(points, low.model);
    return yield* this.finish({ ...points, under: null }, points);
  }

  private *finish(points: AskedPoints, all: Points): Generator<void, BakedTile> {
    const { channels } = this;
    const kind = BAKES[this.input.settings.type].values;
    const sums = new Float32Array(TILE_TEXELS * channels);
    const counts = new Uint16Array(TILE_TEXELS);
    for (let from = 0; from < points.count; from += STEP) {
      const count = Math.min(STEP, points.count - from);
      this.work(points, from, count, this.values);
      for (let i = 0; i < count; i++) {
        const t = points.texel[from + i];
        // Colours that stand for something are never mixed: the first one stands.
        if (kind === 'id' && counts[t] > 0) continue;
        counts[t]++;
        for (let c = 0; c < channels; c++) sums[t * channels + c] += this.values[i * channels + c];
      }
      yield;
    }
    const data = new Uint16Array(TILE_TEXELS * 4);
    for (let t = 0; t < TILE_TEXELS; t++) if (counts[t] > 0) this.put(data, t, sums, counts[t], kind === 'direction');
    // After all of those that they are copies of.
    for (let k = 0; k < all.copies.length; k += 2) {
      const from = all.copies[k + 1] * 4;
      data.copyWithin(all.copies[k] * 4, from, from + 4);
    }
    let missed = 0;
    for (let n = 0, last = -1; n < all.count; n++) {
      const t = all.texel[n];
      if (t === last || all.gutter[n]) continue;
      last = t;
      if (counts[t] === 0) missed++;
    }
    return { data, missed };
  }

  private put(data: Uint16Array, t: number, sums: Float32Array, count: number, direction: boolean): void {
    const { channels } = this;
    let [x, y, z] = [0, 1, 2].map((c) => sums[t * channels + (channels === 1 ? 0 : c)] / count);
    if (direction) {
      [x, y, z] = [x * 2 - 1, y * 2 - 1, z * 2 - 1];
      const l = Math.hypot(x, y, z) || 1;
      [x, y, z] = [(x / l) * 0.5 + 0.5, (y / l) * 0.5 + 0.5, (z / l) * 0.5 + 0.5];
    }
    const o = t * 4;
    data[o] = x * MAX16 + 0.5;
    data[o + 1] = y * MAX16 + 0.5;
    data[o + 2] = z * MAX16 + 0.5;
    data[o + 3] = MAX16;
  }
}

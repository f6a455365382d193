/**
 * The mean around a texel, on the surface: thirteen reads in two rings of a hexagon, weighed as by a Gaussian whose standard
 * deviation is half the reach. The reads lie evenly around the texel, so that the mean over a plane stays what it is.
 */
import type { TexelRect } from '../../../kernels/dabs';
import type { TileIndex } from '../../tile/tiles';
import type { Beside, Steps } from '../beside';
import type { Looked } from '../looked';

interface Tap {
  a: number;
  b: number;
  weight: number;
}

const ring = (radius: number, turn: number): Tap[] =>
  Array.from({ length: 6 }, (_, n) => {
    const angle = ((n + turn) * Math.PI) / 3;
    return { a: Math.cos(angle) * radius, b: Math.sin(angle) * radius, weight: Math.exp(-2 * radius * radius) };
  });
const TAPS: readonly Tap[] = (() => {
  const taps = [{ a: 0, b: 0, weight: 1 }, ...ring(0.5, 0), ...ring(0.95, 0.5)];
  const sum = taps.reduce((all, tap) => all + tap.weight, 0);
  return taps.map((tap) => ({ ...tap, weight: tap.weight / sum }));
})();

/** Of all but the middle. */
const WEIGHTS = Float32Array.from(TAPS.slice(1), (tap) => tap.weight);

const f = Math.fround;
const read = new Float32Array(4);
const base = new Float32Array(4);

export class Soft {
  private steps: Steps;

  /** `reach`: texels of the sheet's mean density. */
  constructor(beside: Beside, reach: number) {
    this.steps = beside.around(TAPS.slice(1).map(({ a, b }) => [a * reach, b * reach] as const));
  }

  /** Texels of this tile are asked for from now on. */
  inTile(tile: TileIndex): void {
    this.steps.inTile(tile);
  }

  /** All texels of a rectangle that are wanted and not done, at once. false: they are to be asked for one by one. */
  all(looked: Looked, tile: TileIndex, out: Float32Array, want: Float32Array, done: Uint8Array | null, rect: TexelRect): boolean {
    return this.steps.read(looked, tile, WEIGHTS, out, want, done, rect);
  }

  /** Into `out` from `o` on, premultiplied. */
  at(looked: Looked, tile: TileIndex, i: number, out: Float32Array, o: number): void {
    const { channels } = looked;
    const { steps } = this;
    const own = looked.tile(tile);
    for (let k = 0; k < channels; k++) out[o + k] = base[k] = own === null ? 0 : own[i * channels + k];
    steps.from(i);
    for (let n = 1; n < TAPS.length; n++) {
      steps.go(n - 1);
      looked.sample(steps.x, steps.y, read);
      const weight = WEIGHTS[n - 1];
      for (let k = 0; k < channels; k++) out[o + k] = f(out[o + k] + f(weight * f(read[k] - base[k])));
    }
  }
}

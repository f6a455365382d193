/**
 * The mean around a texel, on the surface: thirteen reads in two rings of a hexagon, weighed as by a Gaussian whose standard
 * deviation is half the reach. The reads lie evenly around the texel, so that the mean over a plane stays what it is.
 */
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

const read = new Float32Array(4);

export class Soft {
  private steps: Steps;

  /** `reach`: texels of the sheet's mean density. */
  constructor(beside: Beside, reach: number) {
    this.steps = beside.around(TAPS.slice(1).map(({ a, b }) => [a * reach, b * reach] as const));
  }

  /** Into `out` from `o` on, premultiplied. */
  at(looked: Looked, tile: TileIndex, i: number, out: Float32Array, o: number): void {
    const { channels } = looked;
    const { steps } = this;
    const own = looked.tile(tile);
    const middle = TAPS[0].weight;
    for (let k = 0; k < channels; k++) out[o + k] = own === null ? 0 : own[i * channels + k] * middle;
    steps.from(tile, i);
    for (let n = 1; n < TAPS.length; n++) {
      steps.go(n - 1);
      looked.sample(steps.x, steps.y, read);
      const { weight } = TAPS[n];
      for (let k = 0; k < channels; k++) out[o + k] += read[k] * weight;
    }
  }
}

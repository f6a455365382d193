/**
 * The mean around a texel, on the surface: thirteen reads in two rings of a hexagon, weighed as by a Gaussian whose standard
 * deviation is half the reach. The reads lie evenly around the texel, so that the mean over a plane stays what it is.
 */
import type { TileIndex } from '../../tile/tiles';
import type { Beside } from '../beside';
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

/** Into `out` from `o` on, premultiplied. `reach`: texels of the sheet's mean density. */
export function softAt(
  looked: Looked,
  beside: Beside,
  tile: TileIndex,
  i: number,
  reach: number,
  out: Float32Array,
  o: number,
): void {
  const { channels } = looked;
  for (let k = 0; k < channels; k++) out[o + k] = 0;
  for (let n = 0; n < TAPS.length; n++) {
    const { a, b, weight } = TAPS[n];
    if (n === 0) {
      const own = looked.tile(tile);
      for (let k = 0; k < channels; k++) out[o + k] += own === null ? 0 : own[i * channels + k] * weight;
      continue;
    }
    beside.at(tile, i, a * reach, b * reach);
    looked.sample(beside.x, beside.y, read);
    for (let k = 0; k < channels; k++) out[o + k] += read[k] * weight;
  }
}

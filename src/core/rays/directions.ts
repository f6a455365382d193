/**
 * Directions that rays are sent into, spread by the cosine around Z: the first two dimensions of Sobol's sequence, scrambled
 * after Owen (Laine and Karras, Stratified sampling for stochastic transparency, 2011; Burley, Practical hash-based Owen
 * scrambling, 2020), lifted from the disc (Shirley and Chiu, A low distortion map between disk and square, 1997). Each of
 * the sets is scrambled by itself; a texel takes one of them, and turns it, by its seed.
 */
import { MOST_DIRECTIONS, type Directions } from '../../kernels/rays';

export const MOST_SAMPLES = 1024;
const MOST_SETS = 256;

function reversed(v: number): number {
  v = ((v >>> 1) & 0x55555555) | ((v & 0x55555555) << 1);
  v = ((v >>> 2) & 0x33333333) | ((v & 0x33333333) << 2);
  v = ((v >>> 4) & 0x0f0f0f0f) | ((v & 0x0f0f0f0f) << 4);
  v = ((v >>> 8) & 0x00ff00ff) | ((v & 0x00ff00ff) << 8);
  return ((v >>> 16) | (v << 16)) >>> 0;
}

/** Scrambles the bits of a number so that each hangs on those above it only. */
function owen(v: number, seed: number): number {
  let x = reversed(v);
  x = (x + seed) | 0;
  x ^= Math.imul(x, 0x6c50b47c);
  x ^= Math.imul(x, 0xb82f1e52 | 0);
  x ^= Math.imul(x, 0xc7afe638 | 0);
  x ^= Math.imul(x, 0x8d22f6e6 | 0);
  return reversed(x >>> 0);
}

/** The second dimension of Sobol's sequence; the first is the bits of n turned round. */
function sobolSecond(n: number): number {
  let [out, v] = [0, 0x80000000];
  for (; n; n >>>= 1) {
    if (n & 1) out ^= v;
    v = (v ^ (v >>> 1)) >>> 0;
  }
  return out >>> 0;
}

export const mix32 = (v: number): number => {
  let h = v >>> 0;
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d);
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b);
  return (h ^ (h >>> 16)) >>> 0;
};

const known = new Map<number, Directions>();

/** `samples` a set, up to `MOST_SAMPLES`. Made once for each number of them. */
export function directionsOf(samples: number): Directions {
  const found = known.get(samples);
  if (found) return found;
  if (!(samples >= 1 && samples <= MOST_SAMPLES)) throw new Error(`${samples} samples, not 1 … ${MOST_SAMPLES}`);
  const sets = Math.min(MOST_SETS, Math.floor(MOST_DIRECTIONS / samples));
  const data = new Float32Array(sets * samples * 3);
  for (let s = 0, o = 0; s < sets; s++)
    for (let n = 0; n < samples; n++, o += 3) {
      const u = owen(reversed(n), mix32(s * 2 + 1)) / 4294967296;
      const v = owen(sobolSecond(n), mix32(s * 2 + 2)) / 4294967296;
      const [x, y] = onDisc(u * 2 - 1, v * 2 - 1);
      data[o] = x;
      data[o + 1] = y;
      data[o + 2] = Math.sqrt(Math.max(0, 1 - x * x - y * y));
    }
  const out = { sets, samples, data };
  known.set(samples, out);
  return out;
}

function onDisc(a: number, b: number): [number, number] {
  if (a === 0 && b === 0) return [0, 0];
  const wide = Math.abs(a) > Math.abs(b);
  const r = wide ? a : b;
  const angle = wide ? (Math.PI / 4) * (b / a) : Math.PI / 2 - (Math.PI / 4) * (a / b);
  return [r * Math.cos(angle), r * Math.sin(angle)];
}

/** A number for a texel's place, the same on every machine: which set it takes, and how it is turned. */
export const seedAt = (x: number, y: number): number => mix32(Math.imul(x, 0x9e3779b1) ^ Math.imul(y + 1, 0x85ebca77));

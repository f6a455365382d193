/** Small deterministic noise for the demo scripts: value noise on a hashed lattice, in space or periodic in a square. */

export function hash3(x: number, y: number, z: number, seed: number): number {
  let h = Math.imul(x, 374761393) ^ Math.imul(y, 668265263) ^ Math.imul(z, 2147483647) ^ Math.imul(seed, 1274126177);
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  h ^= h >>> 16;
  return (h >>> 0) / 4294967295;
}

const fade = (t: number) => t * t * (3 - 2 * t);
const wrap = (v: number, period: number) => (period > 0 ? ((v % period) + period) % period : v);

/** 0..1. With a period > 0 the noise repeats every `period` cells in x and y. Written out flat: it is the demo's hot loop. */
export function noise3(x: number, y: number, z: number, seed: number, period = 0): number {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  const zi = Math.floor(z);
  const u = fade(x - xi);
  const v = fade(y - yi);
  const w = fade(z - zi);
  const x0 = wrap(xi, period);
  const x1 = wrap(xi + 1, period);
  const y0 = wrap(yi, period);
  const y1 = wrap(yi + 1, period);
  const a = hash3(x0, y0, zi, seed);
  const b = hash3(x0, y1, zi, seed);
  const c = hash3(x0, y0, zi + 1, seed);
  const d = hash3(x0, y1, zi + 1, seed);
  const p = a + (hash3(x1, y0, zi, seed) - a) * u;
  const q = b + (hash3(x1, y1, zi, seed) - b) * u;
  const r = c + (hash3(x1, y0, zi + 1, seed) - c) * u;
  const s = d + (hash3(x1, y1, zi + 1, seed) - d) * u;
  const front = p + (q - p) * v;
  return front + (r + (s - r) * v - front) * w;
}

export function fractal3(x: number, y: number, z: number, seed: number, octaves: number, period = 0): number {
  let sum = 0;
  let weight = 0;
  for (let o = 0, a = 1, f = 1; o < octaves; o++, a /= 2, f *= 2) {
    sum += a * noise3(x * f, y * f, z * f, seed + o, period * f);
    weight += a;
  }
  return sum / weight;
}

export const smoothstep = (a: number, b: number, x: number) => fade(Math.min(1, Math.max(0, (x - a) / (b - a))));

/** Whole numbers hashed and wrapped, the same on every machine; the twin of what assembly/taps.ts has. */

/** Bits that are turned over in coordinates below 0, so that cells at (−a, −b) are others than those at (a, b). */
export const BELOW_ZERO = 0x35a6b8c1;

/** The upper 24 bits of a 32-bit hash. */
export function hash24(a: number, b: number, seed: number): number {
  let h = Math.imul(a < 0 ? a ^ BELOW_ZERO : a, 0x9e3779b1) ^ Math.imul(b < 0 ? b ^ BELOW_ZERO : b, 0x85ebca77) ^ seed;
  h ^= h >>> 16;
  h = Math.imul(h, 0x7feb352d);
  h ^= h >>> 15;
  h = Math.imul(h, 0x846ca68b);
  return (h ^ (h >>> 16)) >>> 8;
}

/** i mod p, 0 ≤ … < p; p = 0: as it is. */
export const wrapTo = (i: number, p: number): number => (p === 0 ? i : i - Math.floor(i / p) * p);

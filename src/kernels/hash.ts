/** Whole numbers hashed and wrapped, the same on every machine; the twin of what assembly/taps.ts has. */

/**
 * A coordinate of a cell, with other bits where it lies below 0. Without it −a · K ^ −b · K is a · K ^ b · K for a third of all cells, and
 * noise in a plane was its own mirror image through the origin (correlation −0.42).
 */
export const cellBits = (i: number): number => (i < 0 ? i ^ 0x35a6b8c1 : i);

/** The upper 24 bits of a 32-bit hash. */
export function hash24(a: number, b: number, seed: number): number {
  let h = Math.imul(cellBits(a), 0x9e3779b1) ^ Math.imul(cellBits(b), 0x85ebca77) ^ seed;
  h ^= h >>> 16;
  h = Math.imul(h, 0x7feb352d);
  h ^= h >>> 15;
  h = Math.imul(h, 0x846ca68b);
  return (h ^ (h >>> 16)) >>> 8;
}

/** i mod p, 0 ≤ … < p; p = 0: as it is. */
export const wrapTo = (i: number, p: number): number => (p === 0 ? i : i - Math.floor(i / p) * p);

/** Cells of a lattice by whole numbers, before they are hashed (kernels/hash.ts). */

/** A coordinate with other bits where it lies below 0: kernels/hash.ts says why. */
// @ts-ignore: decorator
@inline
export function cellBits(i: i32): i32 {
  return i < 0 ? i ^ 0x35a6b8c1 : i;
}

/** Planes of a tile, float32 a texel: a stroke's. They lie where the kernels work in place. */
import type { TexelRect } from '../../kernels/dabs';
import { kernels } from '../kernels';
import { lasting, TILE_TEXELS } from '../tile/tiles';

/** What is kept for the strokes to come: 8 MiB. */
const MOST_SPARE = 128;
let spare: Float32Array[] = [];
let spareOf: object | null = null;

/** All zero. The one that was given back last, which is still in the nearest cache. */
export function takeClear(): Float32Array {
  // Other kernels work elsewhere.
  if (spareOf !== kernels()) spare = [];
  spareOf = kernels();
  return spare.pop() ?? lasting(Float32Array, TILE_TEXELS).fill(0);
}

/** Gives one back that is zero but for a rectangle. Nobody may hold it any more. */
export function giveClear(plane: Float32Array, rect: TexelRect): void {
  if (spareOf !== kernels() || spare.length >= MOST_SPARE) return;
  kernels().clearRect(plane, rect);
  spare.push(plane);
}

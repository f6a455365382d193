/** Pictures that tips and their textures are made of: one value a texel, square, with smaller copies of themselves. */
import type { PictureLevel } from '../../kernels/dabs';

/** Sides of pictures, after they are fitted into a square: a power of two up to this. */
export const MOST_PICTURE_SIDE = 2048;

export interface TipPicture {
  side: number;
  /** 0 … 1, row by row: the picture, then halves of it down to one texel. */
  levels: readonly Float32Array[];
}

/** `values`: side × side, side a power of two. Each smaller copy is the mean of 2 × 2. */
export function tipPicture(side: number, values: Float32Array): TipPicture {
  if (!Number.isInteger(Math.log2(side)) || values.length !== side * side)
    throw new Error(`A tip's picture has ${values.length} values for a side of ${side}`);
  const levels = [values];
  for (let s = side / 2; s >= 1; s /= 2) {
    const from = levels[levels.length - 1];
    const to = new Float32Array(s * s);
    for (let y = 0; y < s; y++)
      for (let x = 0; x < s; x++) {
        const o = y * 4 * s + x * 2;
        to[y * s + x] = (from[o] + from[o + 1] + from[o + 2 * s] + from[o + 2 * s + 1]) / 4;
      }
    levels.push(to);
  }
  return { side, levels };
}

/** Draws `at(u, v)` with u and v in −1 … 1, four samples a texel. */
export function drawTip(side: number, at: (u: number, v: number) => number): TipPicture {
  const values = new Float32Array(side * side);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      let sum = 0;
      for (let n = 0; n < 4; n++) {
        const u = ((x + 0.25 + 0.5 * (n & 1)) / side) * 2 - 1;
        const v = ((y + 0.25 + 0.5 * (n >> 1)) / side) * 2 - 1;
        sum += Math.min(1, Math.max(0, at(u, v)));
      }
      values[y * side + x] = sum / 4;
    }
  return tipPicture(side, values);
}

/** A picture of any shape in the middle of a square, as large as it fits: resampled by the mean of what a texel covers. */
export function fittedPicture(width: number, height: number, values: Float32Array): TipPicture {
  const long = Math.max(width, height);
  const side = Math.min(MOST_PICTURE_SIDE, 2 ** Math.max(0, Math.round(Math.log2(long))));
  const scale = long / side;
  const [left, top] = [(long - width) / 2, (long - height) / 2];
  const out = new Float32Array(side * side);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) out[y * side + x] = meanOf(values, width, height, x * scale - left, y * scale - top, scale);
  return tipPicture(side, out);
}

/** Mean over a square of a picture, by area; what lies outside is 0. */
function meanOf(values: Float32Array, width: number, height: number, x0: number, y0: number, side: number): number {
  let sum = 0;
  for (let y = Math.max(0, Math.floor(y0)); y < Math.min(height, y0 + side); y++) {
    const tall = Math.min(y + 1, y0 + side) - Math.max(y, y0);
    for (let x = Math.max(0, Math.floor(x0)); x < Math.min(width, x0 + side); x++)
      sum += values[y * width + x] * tall * (Math.min(x + 1, x0 + side) - Math.max(x, x0));
  }
  return sum / (side * side);
}

/** Which copy is as fine as texels are that lie `texels` to the picture's side: the nearest, so never coarser by more than √2. */
export function levelFor({ side, levels }: TipPicture, texels: number): number {
  const level = Math.round(Math.log2(side / Math.max(1e-6, texels)));
  return Math.min(levels.length - 1, Math.max(0, level));
}

/** One of its copies, which formulas of kernels/dabsTwin.ts read. */
export const levelOf = ({ side, levels }: TipPicture, level: number): PictureLevel => ({
  side: side >> level,
  values: levels[level],
});

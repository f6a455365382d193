/**
 * Patterns of whole texels that stand for thin paint: of four by four texels so many are covered as the flow says. They lie fixed
 * over the sheet, so that strokes beside each other go on in one pattern, and come round on every sheet whose size is a multiple
 * of four.
 */
import type { TexelRect } from '../../kernels/dabs';
import { TILE } from '../tile/tiles';

export const DITHERS = {
  // Bayer, An optimum method for two-level rendition of continuous-tone pictures, 1973: neighbours as far apart as can be.
  even: { label: 'Even', order: [0, 8, 2, 10, 12, 4, 14, 6, 3, 11, 1, 9, 15, 7, 13, 5] },
  // Grows out of one middle.
  dots: { label: 'Dots', order: [12, 5, 6, 13, 4, 0, 1, 7, 11, 3, 2, 8, 15, 10, 9, 14] },
  rows: { label: 'Rows', order: [0, 1, 2, 3, 8, 9, 10, 11, 4, 5, 6, 7, 12, 13, 14, 15] },
  slant: { label: 'Slanted', order: [0, 8, 4, 12, 10, 6, 14, 2, 5, 13, 1, 9, 15, 3, 11, 7] },
} as const satisfies Record<string, { label: string; order: readonly number[] }>;
export type Dither = keyof typeof DITHERS;
export const DITHER_TYPES = Object.keys(DITHERS) as [Dither, ...Dither[]];

const SIDE = 4;

/** Whether a texel of the sheet is covered where paint lies so thick, 0 … 1. */
export function isCovered(dither: Dither, thickness: number, x: number, y: number): boolean {
  const place = DITHERS[dither].order[(y & (SIDE - 1)) * SIDE + (x & (SIDE - 1))];
  return (place + 0.5) / (SIDE * SIDE) < thickness;
}

/**
 * Makes whole texels of what an area covers, within a rectangle of a tile: what has less than half of `full` is clear, the rest has
 * all of it; with a pattern so many have it as would have thin paint.
 */
export function wholeTexels(
  values: Float32Array,
  { x0, y0, x1, y1 }: TexelRect,
  tileX: number,
  tileY: number,
  full: number,
  { dither, thickness }: { dither: Dither | null; thickness: number },
): void {
  if (!(full > 0)) return;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const i = y * TILE + x;
      const share = values[i] / full;
      const there = dither ? isCovered(dither, share * thickness, tileX * TILE + x, tileY * TILE + y) : share >= 0.5;
      values[i] = there ? full : 0;
    }
}

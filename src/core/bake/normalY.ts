/**
 * Which way Y runs in a normal map that came from elsewhere, told from its own pixels: slopes of a surface fit together, so that
 * ∂(slope in x)/∂y equals ∂(slope in y)/∂x. Where Y is turned round they agree with the sign turned.
 */
import type { Bitmap } from '../tile/bitmap';

export interface NormalY {
  y: 'up' | 'down';
  /** Correlation of the two, 0 … 1: under `UNSURE` it cannot be told (flat, or noise). */
  sure: number;
}
export const UNSURE = 0.15;

/** glTF's Y points up the picture. Rows of the bitmap run down. */
export function normalY({ width, height, channels, bits, data }: Bitmap): NormalY | null {
  if (channels < 3 || width < 3 || height < 3) return null;
  const full = bits === 16 ? 65535 : 255;
  const slope = (x: number, y: number, c: 0 | 1): number => {
    const o = (y * width + x) * channels;
    const z = (data[o + 2] / full) * 2 - 1;
    return z > 0.05 ? -((data[o + c] / full) * 2 - 1) / z : 0;
  };
  // At most a million texels are looked at.
  const step = Math.max(1, Math.floor(Math.sqrt((width * height) / 1e6)));
  let [both, first, second] = [0, 0, 0];
  for (let y = 1; y < height - 1; y += step)
    for (let x = 1; x < width - 1; x += step) {
      const along = slope(x, y - 1, 0) - slope(x, y + 1, 0);
      const across = slope(x + 1, y, 1) - slope(x - 1, y, 1);
      both += along * across;
      first += along * along;
      second += across * across;
    }
  const spread = Math.sqrt(first * second);
  const correlation = spread > 0 ? both / spread : 0;
  return { y: correlation < 0 ? 'down' : 'up', sure: Math.abs(correlation) };
}

/** Sizes of a picture, and how each is made of the one before. */
import { fastSrgb, srgbToLinear } from '../colour/transfer';

/** One size of a picture: full, or halved some times. */
export interface PictureLevel {
  width: number;
  height: number;
  /** RGBA, 16 bit, straight alpha. */
  data: Uint16Array;
}

/** Full size first, then halves down to one texel. `srgb`: colours, which are averaged in linear light. */
export function pyramidOf(first: PictureLevel, srgb: boolean): PictureLevel[] {
  const levels = [first];
  for (let last = first; last.width > 1 || last.height > 1; levels.push(last)) last = halved(last, srgb);
  return levels;
}

let toLinear: Float32Array | null = null;
const linearTable = (): Float32Array => (toLinear ??= Float32Array.from({ length: 65536 }, (_, i) => srgbToLinear(i / 65535)));

/** Means of four, weighted by their alpha. */
function halved(from: PictureLevel, srgb: boolean): PictureLevel {
  const width = Math.max(1, from.width >> 1);
  const height = Math.max(1, from.height >> 1);
  const out = new Uint16Array(width * height * 4);
  const light = srgb ? linearTable() : null;
  const { data } = from;
  const right = from.width > 1 ? 4 : 0;
  const below = from.height > 1 ? from.width * 4 : 0;
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width; x++, o += 4) {
      const a = (y * 2 * from.width + x * 2) * 4;
      const [b, c] = [a + right, a + below];
      const d = b + below;
      const alpha = data[a + 3] + data[b + 3] + data[c + 3] + data[d + 3];
      const share = alpha > 0 ? 1 / alpha : 0.25;
      const wa = alpha > 0 ? data[a + 3] * share : share;
      const wb = alpha > 0 ? data[b + 3] * share : share;
      const wc = alpha > 0 ? data[c + 3] * share : share;
      const wd = alpha > 0 ? data[d + 3] * share : share;
      for (let k = 0; k < 3; k++)
        out[o + k] = light
          ? fastSrgb(light[data[a + k]] * wa + light[data[b + k]] * wb + light[data[c + k]] * wc + light[data[d + k]] * wd) *
              65535 +
            0.5
          : data[a + k] * wa + data[b + k] * wb + data[c + k] * wc + data[d + k] * wd + 0.5;
      out[o + 3] = alpha / 4 + 0.5;
    }
  return { width, height, data: out };
}

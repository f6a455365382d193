/** From numbers to the codes of a picture file: rounding, dithering, packing, and what an opacity map means. */
import type { Bitmap } from '../tile/bitmap';
import type { AlphaUse } from '../mesh/writeGlb';

export interface Codes {
  bits: 8 | 16;
  /** Between codes of 8 bits; left out: to the nearest. */
  dither?: boolean;
}

export function quantise(values: Float32Array, width: number, height: number, channels: 1 | 3, { bits, dither }: Codes): Bitmap {
  const max = bits === 16 ? 65535 : 255;
  const data = bits === 16 ? new Uint16Array(values.length) : new Uint8Array(values.length);
  const step = bits === 8 && dither ? thresholds() : null;
  for (let i = 0, texel = 0; i < values.length; texel++) {
    const x = texel % width;
    const y = (texel - x) / width;
    const up = step ? step[(y & 7) * 8 + (x & 7)] : 0.5;
    for (let c = 0; c < channels; c++, i++) data[i] = Math.min(1, Math.max(0, values[i])) * max + up;
  }
  return { width, height, channels, bits, data };
}

let ordered: Float32Array | null = null;

/**
 * What is added before the fraction is cut, 8 × 8, each of the 64 steps once (B. Bayer, "An optimum method for two-level rendition of
 * continuous-tone pictures", 1973): whole codes stay, what lies between two takes either as often as it is near. Wrapping pictures
 * whose sides are multiples of eight go on without a break.
 */
function thresholds(): Float32Array {
  return (ordered ??= Float32Array.from({ length: 64 }, (_, i) => {
    const [x, y] = [i & 7, i >> 3];
    let place = 0;
    for (let bit = 0; bit < 3; bit++) place |= ((((x ^ y) >> bit) & 1) * 2 + ((y >> bit) & 1)) << (2 * (2 - bit));
    return (place + 0.5) / 64;
  }));
}

/** glTF 2.0, 3.9.2: occlusion in red, roughness in green, metallic in blue. */
export function pack(occlusion: Bitmap, roughness: Bitmap, metallic: Bitmap): Bitmap {
  const data = roughness.bits === 16 ? new Uint16Array(roughness.data.length * 3) : new Uint8Array(roughness.data.length * 3);
  for (let i = 0; i < roughness.data.length; i++) {
    data[i * 3] = occlusion.data[i];
    data[i * 3 + 1] = roughness.data[i];
    data[i * 3 + 2] = metallic.data[i];
  }
  return { ...roughness, channels: 3, data };
}

export function withAlpha(colour: Bitmap, alpha: Bitmap): Bitmap {
  const data = new Uint8Array(alpha.data.length * 4);
  for (let i = 0; i < alpha.data.length; i++) {
    for (let c = 0; c < 3; c++) data[i * 4 + c] = colour.data[i * 3 + c];
    data[i * 4 + 3] = alpha.data[i];
  }
  return { ...colour, channels: 4, data };
}

/** Of what is not solid, so much may lie between a tenth and nine tenths where texels are there or not: soft rims of cut-outs. */
const RIMS = 0.25;

/** How an opacity map (8 bit) is meant: cut out, or see-through. null: all is solid. */
export function alphaUse({ data }: Bitmap): AlphaUse | null {
  let open = 0;
  let between = 0;
  for (const v of data) {
    if (v === 255) continue;
    open++;
    if (v > 25 && v < 230) between++;
  }
  if (open === 0) return null;
  return between <= open * RIMS ? 'MASK' : 'BLEND';
}

/** What maps share that take their values from a model's material (glTF 2.0, 3.9). */
import { linearToSrgb, srgbToLinear } from '../../colour/transfer';
import type { PictureIn } from './map';

/** The picture of the base colour, whose alpha means nothing where the material is opaque. */
export const BASE_PICTURE = {
  of: (material) => material.baseColourPicture,
  called: 'base colour',
  means: 'colour',
  alpha: (material) => material.alphaMode !== 'OPAQUE',
} as const satisfies Partial<PictureIn>;

/** glTF 2.0, 3.9.2: roughness in green, metallic in blue. */
export const PACKED_PICTURE = {
  of: (material) => material.metallicRoughnessPicture,
  called: 'metallic-roughness',
  means: 'values',
} as const satisfies Partial<PictureIn>;

/** A linear colour in the sRGB curve, within 0..1. */
export const encoded = (linear: readonly number[]): number[] =>
  linear.slice(0, 3).map((v) => linearToSrgb(Math.min(1, Math.max(0, v))));

/** A colour of the sRGB curve times a factor in linear light, 16 bit. */
export function tint(from: Uint16Array, o: number, factor: readonly number[], to: Uint16Array, at: number): void {
  for (let c = 0; c < 3; c++)
    to[at + c] =
      factor[c] === 1 ? from[o + c] : linearToSrgb(Math.min(1, srgbToLinear(from[o + c] / 65535) * factor[c])) * 65535 + 0.5;
}

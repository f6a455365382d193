/**
 * The sRGB transfer curve (IEC 61966-2-1, clause 5.2). Types and names say on which side of the curve a number is: `srgb` is encoded,
 * `linear` is proportional to light. All values 0 … 1.
 */

/** A channel encoded by the sRGB curve. A plain number may be one; a `Linear` is none: a call that mixes them up does not compile. */
export type Srgb = number & { readonly space?: 'srgb' };
/** A channel proportional to light, with the primaries of sRGB. */
export type Linear = number & { readonly space?: 'linear' };

export function srgbToLinear(srgb: Srgb): Linear {
  return srgb <= 0.04045 ? srgb / 12.92 : Math.pow((srgb + 0.055) / 1.055, 2.4);
}

export function linearToSrgb(linear: Linear): Srgb {
  return linear <= 0.0031308 ? linear * 12.92 : 1.055 * Math.pow(linear, 1 / 2.4) - 0.055;
}

/** Linear light of every 8-bit sRGB code: 256 × float32. */
export const LINEAR_OF_SRGB8 = Float32Array.from({ length: 256 }, (_, i) => srgbToLinear(i / 255));

/**
 * 8-bit sRGB code of linear light sampled at 4096 steps. 4096 is enough for exact round trips of 8-bit
 * codes: the steepest part of the curve has slope 12.92, so a step moves at most 12.92 × 255 / 4095 = 0.81
 * codes, and every code's own linear value rounds to a step whose code is that one (tested).
 */
const SRGB8_STEPS = 4095;
const SRGB8_OF_LINEAR = Uint8Array.from({ length: SRGB8_STEPS + 1 }, (_, i) => Math.round(linearToSrgb(i / SRGB8_STEPS) * 255));

export function linearToSrgb8(linear: Linear): number {
  return SRGB8_OF_LINEAR[((linear <= 0 ? 0 : linear >= 1 ? 1 : linear) * SRGB8_STEPS + 0.5) | 0];
}

export function hexToSrgb(hex: string): [Srgb, Srgb, Srgb] {
  const n = parseInt(hex.slice(1), 16);
  return [((n >> 16) & 255) / 255, ((n >> 8) & 255) / 255, (n & 255) / 255];
}

/** A colour of 8 bits a channel as one number, 0xRRGGBB. */
export const codeOfRgb = (r: Srgb, g: Srgb, b: Srgb): number =>
  Math.round(r * 255) * 65536 + Math.round(g * 255) * 256 + Math.round(b * 255);

export function srgbToHex(srgb: ArrayLike<Srgb>): string {
  let out = '#';
  for (let i = 0; i < 3; i++)
    out += Math.round(Math.min(1, Math.max(0, srgb[i])) * 255)
      .toString(16)
      .padStart(2, '0');
  return out;
}

/**
 * The curve by table with straight lines between its points, for whole pictures. Error: h² / 8 · max|f''|.
 * To linear: 4096 steps, |f''| ≤ 3.1, 2.4e-8. To sRGB: 65,536 steps, |f''| ≤ 2400 (just above 0.0031), 7e-8.
 * Both are far below half a 16-bit step (7.6e-6).
 */
const TO_LINEAR_STEPS = 4096;
const TO_LINEAR = Float32Array.from({ length: TO_LINEAR_STEPS + 2 }, (_, i) => srgbToLinear(Math.min(1, i / TO_LINEAR_STEPS)));
const TO_SRGB_STEPS = 65536;
const TO_SRGB = Float32Array.from({ length: TO_SRGB_STEPS + 2 }, (_, i) => linearToSrgb(Math.min(1, i / TO_SRGB_STEPS)));

/** The value at v, held within 0..1, of a table of `steps` + 2 numbers: the last one stands twice. */
export function fromTable(table: Float32Array, steps: number, v: number): number {
  const at = (v <= 0 ? 0 : v >= 1 ? 1 : v) * steps;
  const i = at | 0;
  return table[i] + (table[i + 1] - table[i]) * (at - i);
}

/** For the kernels. */
export const TRANSFER = { toLinear: TO_LINEAR, toSrgb: TO_SRGB };

export const fastLinear = (srgb: Srgb): Linear => fromTable(TO_LINEAR, TO_LINEAR_STEPS, srgb);
export const fastSrgb = (linear: Linear): Srgb => fromTable(TO_SRGB, TO_SRGB_STEPS, linear);

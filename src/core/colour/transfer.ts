/**
 * The sRGB transfer curve (IEC 61966-2-1, clause 5.2). Every function says by its name which side of the
 * curve a number is on: `srgb` is encoded, `linear` is proportional to light. All values 0..1.
 */
export function srgbToLinear(srgb: number): number {
  return srgb <= 0.04045 ? srgb / 12.92 : Math.pow((srgb + 0.055) / 1.055, 2.4);
}

export function linearToSrgb(linear: number): number {
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

export function linearToSrgb8(linear: number): number {
  return SRGB8_OF_LINEAR[((linear <= 0 ? 0 : linear >= 1 ? 1 : linear) * SRGB8_STEPS + 0.5) | 0];
}

export function hexToSrgb(hex: string): [number, number, number] {
  const n = parseInt(hex.slice(1), 16);
  return [((n >> 16) & 255) / 255, ((n >> 8) & 255) / 255, (n & 255) / 255];
}

export function srgbToHex(srgb: ArrayLike<number>): string {
  let out = '#';
  for (let i = 0; i < 3; i++)
    out += Math.round(Math.min(1, Math.max(0, srgb[i])) * 255)
      .toString(16)
      .padStart(2, '0');
  return out;
}

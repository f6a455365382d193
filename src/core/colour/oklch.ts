/**
 * OKLCH: OKLab by hue and chroma (CSS Color 4). Lightness 0 … 1, chroma from 0, hue in degrees. What lies outside of sRGB is
 * brought in by less chroma, at the same lightness and hue.
 */
import { linearToOklab, oklabToLinear, type Lab } from './oklab';
import { linearToSrgb, srgbToLinear, type Linear, type Srgb } from './transfer';

export interface Lch {
  l: number;
  c: number;
  /** 0 ≤ h < 360; 0 for greys. */
  h: number;
}

/** Below this no hue is seen. */
export const GREY_CHROMA = 0.004;
/** No colour of sRGB has more chroma (its blue has 0.3132, its magenta 0.3225). */
export const MOST_CHROMA = 0.3226;
/** Rounding of the matrices, in linear light. */
const SLACK = 1e-5;

const lab: Lab = { l: 0, a: 0, b: 0 };
const rgb: Linear[] = [0, 0, 0];

export const turnedHue = (h: number): number => ((h % 360) + 360) % 360;

export function toLch([r, g, b]: ArrayLike<Srgb> & Iterable<Srgb>): Lch {
  linearToOklab(srgbToLinear(r), srgbToLinear(g), srgbToLinear(b), lab);
  const c = Math.hypot(lab.a, lab.b);
  return { l: lab.l, c, h: c < 1e-6 ? 0 : turnedHue((Math.atan2(lab.b, lab.a) * 180) / Math.PI) };
}

/** Linear light, not clamped, into `rgb`; whether it is a colour of sRGB. */
function linearOf({ l, c, h }: Lch): boolean {
  const a = (h * Math.PI) / 180;
  lab.l = l;
  lab.a = c * Math.cos(a);
  lab.b = c * Math.sin(a);
  oklabToLinear(lab, rgb);
  return rgb.every((v) => v >= -SLACK && v <= 1 + SLACK);
}

export const inGamut = (lch: Lch): boolean => linearOf(lch);

/** The most chroma that sRGB has at a lightness and hue, to 1e-5. */
export function mostChroma(l: number, h: number): number {
  if (l <= 0 || l >= 1) return 0;
  let [low, high] = [0, MOST_CHROMA * 1.1];
  for (let n = 0; n < 16; n++) {
    const c = (low + high) / 2;
    if (linearOf({ l, c, h })) low = c;
    else high = c;
  }
  return low;
}

/** A colour that sRGB lacks becomes the nearest one of less chroma. */
export function fromLch(lch: Lch): [Srgb, Srgb, Srgb] {
  const l = Math.min(1, Math.max(0, lch.l));
  const c = Math.max(0, lch.c);
  if (!linearOf({ l, c, h: lch.h })) linearOf({ l, c: Math.min(c, mostChroma(l, lch.h)), h: lch.h });
  return rgb.map((v) => linearToSrgb(Math.min(1, Math.max(0, v)))) as [Srgb, Srgb, Srgb];
}

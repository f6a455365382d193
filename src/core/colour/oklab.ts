/**
 * OKLab and OKLCH, a space in which equal steps look equal (Björn Ottosson, "A perceptual color space for image
 * processing", 2020; the matrices are those of CSS Color 4). Input and output: linear sRGB, 0..1.
 */
import type { Linear } from './transfer';

export interface Lab {
  l: number;
  a: number;
  b: number;
}

export function linearToOklab(r: Linear, g: Linear, b: Linear, out: Lab): void {
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  out.l = 0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s;
  out.a = 1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s;
  out.b = 0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s;
}

/** Not clamped: colours outside sRGB come out below 0 or above 1. */
export function oklabToLinear(lab: Lab, out: { [index: number]: Linear }): void {
  const l = (lab.l + 0.3963377774 * lab.a + 0.2158037573 * lab.b) ** 3;
  const m = (lab.l - 0.1055613458 * lab.a - 0.0638541728 * lab.b) ** 3;
  const s = (lab.l - 0.0894841775 * lab.a - 1.291485548 * lab.b) ** 3;
  out[0] = 4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s;
  out[1] = -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s;
  out[2] = -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s;
}

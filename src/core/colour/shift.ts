/** Colours turned, lightened and mixed by eye: in OKLCH (CSS Color 4), brought back into sRGB by clipping. */
import { linearToOklab, oklabToLinear, type Lab } from './oklab';
import { linearToSrgb, srgbToLinear, type Linear, type Srgb } from './transfer';

const lab: Lab = { l: 0, a: 0, b: 0 };
const other: Lab = { l: 0, a: 0, b: 0 };

/**
 * `from` mixed with `to` (0 … 1, in OKLab), its hue turned by degrees, its chroma and lightness multiplied. Nothing asked: the same numbers.
 */
export function shiftColour(
  from: readonly Srgb[],
  to: readonly Srgb[],
  { mix, hue, saturation, value }: { mix: number; hue: number; saturation: number; value: number },
): Srgb[] {
  const plain = hue === 0 && saturation === 1 && value === 1;
  if (plain && mix <= 0) return [...from];
  if (plain && mix >= 1) return [...to];
  linearToOklab(srgbToLinear(from[0]), srgbToLinear(from[1]), srgbToLinear(from[2]), lab);
  if (mix > 0) {
    const t = Math.min(1, mix);
    linearToOklab(srgbToLinear(to[0]), srgbToLinear(to[1]), srgbToLinear(to[2]), other);
    lab.l += (other.l - lab.l) * t;
    lab.a += (other.a - lab.a) * t;
    lab.b += (other.b - lab.b) * t;
  }
  const c = Math.cos((hue * Math.PI) / 180) * saturation;
  const s = Math.sin((hue * Math.PI) / 180) * saturation;
  [lab.l, lab.a, lab.b] = [lab.l * value, lab.a * c - lab.b * s, lab.a * s + lab.b * c];
  const out: Linear[] = [0, 0, 0];
  oklabToLinear(lab, out);
  return out.map((v) => linearToSrgb(Math.min(1, Math.max(0, v))));
}

/**
 * The source that a blend needs so that its result is a given value: B(backdrop, source) = wanted, solved for the source. Each row is
 * the inverse of the formula in blend.ts. Where no source gives what is wanted, the nearest is found by holding it to 0 … 1.
 */
import { SEPARABLE, blendValue, type BlendId, type SeparableBlend } from './blend';

const held = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v === v ? v : 0);

type Inverse = (backdrop: number, wanted: number) => number;

/** a / b. Where b is 0 the result does not depend on the source (multiply over black): then `otherwise`, the mode's neutral source. */
const ratio = (a: number, b: number, otherwise: number): number => (Math.abs(b) < 1e-9 ? otherwise : a / b);

const INVERSE: Record<SeparableBlend, Inverse> = {
  normal: (_b, w) => w,
  multiply: (b, w) => ratio(w, b, 1),
  screen: (b, w) => ratio(w - b, 1 - b, 0),
  overlay: (b, w) => (b <= 0.5 ? ratio(w, 2 * b, 0.5) : 1 - ratio(1 - w, 2 * (1 - b), 0.5)),
  darken: (_b, w) => w,
  lighten: (_b, w) => w,
  'colour-dodge': (b, w) => 1 - ratio(b, w, 1),
  'colour-burn': (b, w) => ratio(1 - b, 1 - w, 1),
  'hard-light': (b, w) => (w <= b ? ratio(w, 2 * b, 0.5) : 1 - ratio(1 - w, 2 * (1 - b), 0.5)),
  'soft-light': (b, w) => {
    if (w <= b) return (1 - ratio(b - w, b * (1 - b), 0)) / 2;
    const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
    return (1 + ratio(w - b, d - b, 0)) / 2;
  },
  difference: (b, w) => (b - w >= 0 ? b - w : b + w <= 1 ? b + w : b >= 0.5 ? 0 : 1),
  exclusion: (b, w) => ratio(w - b, 1 - 2 * b, 0),
  add: (b, w) => w - b,
  subtract: (b, w) => b - w,
  divide: (b, w) => ratio(b, w, 1),
  'linear-burn': (b, w) => w + 1 - b,
  offset: (b, w) => w - b + 0.5,
};

/** The source for a single channel. On single channels the modes of whole colours give their source as it is. */
export function unblendValue(blend: BlendId, backdrop: number, wanted: number): number {
  return held(blend in INVERSE ? INVERSE[blend as SeparableBlend](backdrop, wanted) : wanted);
}

/**
 * The source for a colour or a direction, written to `out`. Hue, saturation, colour and luminosity use only part of their source: the
 * wanted colour itself is the best approximation.
 */
export function unblendWhole(
  blend: BlendId,
  backdrop: ArrayLike<number>,
  wanted: ArrayLike<number>,
  out: { [index: number]: number },
): void {
  if (blend === 'reorient') unreorient(backdrop, wanted, out);
  else for (let k = 0; k < 3; k++) out[k] = unblendValue(blend, backdrop[k], wanted[k]);
}

/**
 * The inverse of `reorient`. With t = base + (0, 0, 1), `reorient` maps u = (−sx, −sy, sz) to t (t·u) / t.z − u and normalises it. That map
 * is linear: it scales by q = t·t / t.z − 1 along t (1 for a base of unit length) and by −1 across it.
 */
function unreorient(b: ArrayLike<number>, wanted: ArrayLike<number>, out: { [index: number]: number }): void {
  const [tx, ty, tz] = [b[0] * 2 - 1, b[1] * 2 - 1, Math.max(b[2] * 2, 1e-6)];
  const [x, y, z] = [wanted[0] * 2 - 1, wanted[1] * 2 - 1, wanted[2] * 2 - 1];
  const tt = tx * tx + ty * ty + tz * tz;
  const q = tt / tz - 1;
  const k = ((tx * x + ty * y + tz * z) * ((Math.abs(q) < 1e-6 ? 0 : 1 / q) + 1)) / tt;
  const [ux, uy, uz] = [tx * k - x, ty * k - y, tz * k - z];
  const l = Math.hypot(ux, uy, uz) || 1;
  out[0] = held(0.5 - ux / l / 2);
  out[1] = held(0.5 - uy / l / 2);
  out[2] = held(0.5 + uz / l / 2);
}

const STEPS = 64;
const HALVINGS = 24;

/**
 * The source s for which straight · s + mixed · B(backdrop, s) comes nearest to `wanted`: the case of a backdrop that is partly
 * transparent, where the source also shows unblended. Samples 65 values of s and bisects the first interval with a sign change.
 */
export function unblendOverClear(blend: BlendId, backdrop: number, wanted: number, straight: number, mixed: number): number {
  const off = (s: number) => straight * s + mixed * blendValue(blend, backdrop, s) - wanted;
  let best = 0;
  let least = Math.abs(off(0));
  for (let n = 0; n < STEPS; n++) {
    let [low, high] = [n / STEPS, (n + 1) / STEPS];
    let [a, b] = [off(low), off(high)];
    if (Math.abs(b) < least) [best, least] = [high, Math.abs(b)];
    if (a * b > 0) continue;
    for (let k = 0; k < HALVINGS; k++) {
      const middle = (low + high) / 2;
      const c = off(middle);
      if (a * c <= 0) [high, b] = [middle, c];
      else [low, a] = [middle, c];
    }
    return Math.abs(a) < Math.abs(b) ? low : high;
  }
  return best;
}

/** What a blend mode is able to do to its backdrop, as the end of a sentence for the artist. */
export function reachOfBlend(blend: BlendId): string {
  const at = (b: number) => Array.from({ length: 9 }, (_, n) => blendValue(blend, b, n / 8));
  if (!(blend in SEPARABLE)) return 'changes one side of a colour only';
  if (at(0.3).every((v) => v <= 0.3 + 1e-9)) return 'can only darken';
  if (at(0.3).every((v) => v >= 0.3 - 1e-9)) return 'can only lighten';
  return 'cannot go that far';
}

/**
 * Tone steps of a colour: darker ones whose hue turns toward a cool blue, lighter ones toward a warm yellow, as light and
 * shadow do outdoors. Lightness goes evenly in OKLCH; chroma gives way where sRGB ends.
 */
import { fromLch, GREY_CHROMA, toLch, turnedHue } from './oklch';
import type { Srgb } from './transfer';

export interface ToneOptions {
  /** Degrees by which the last step's hue is turned; it never turns past the cool or the warm hue. */
  turn: number;
  /** How far the last steps go: 1 is nearly black and nearly white. */
  amount: number;
}

export const TONE_START: ToneOptions = { turn: 35, amount: 0.7 };
export const TONES_EACH_WAY = 5;

/** Hues of OKLCH: of the blue of a clear sky's light, and of a low sun's yellow. */
export const COOL_HUE = 265;
export const WARM_HUE = 85;
/** What the last steps leave to black and to white at an amount of 1. */
const LEAVES = 0.08;
/** Greys take on so much of the cool or the warm hue at the end, for each 90° of turn. */
const GREY_TINT = 0.03;

/** Turned toward another hue by so many degrees, the shorter way, and not past it. */
export function turnToward(h: number, to: number, degrees: number): number {
  const way = ((to - h + 540) % 360) - 180;
  return turnedHue(h + Math.sign(way) * Math.min(Math.abs(way), degrees));
}

/** From the darkest to the lightest, the colour itself in the middle. */
export function toneSteps(
  colour: ArrayLike<Srgb> & Iterable<Srgb>,
  { turn, amount }: ToneOptions = TONE_START,
): [Srgb, Srgb, Srgb][] {
  const from = toLch(colour);
  const grey = from.c < GREY_CHROMA;
  const step = (n: number): [Srgb, Srgb, Srgb] => {
    const t = n / TONES_EACH_WAY;
    const to = t < 0 ? COOL_HUE : WARM_HUE;
    const much = Math.abs(t) * amount * (1 - LEAVES);
    const l = t < 0 ? from.l * (1 - much) : from.l + (1 - from.l) * much;
    const c = grey ? GREY_TINT * Math.abs(t) * (turn / 90) : from.c;
    return fromLch({ l, c, h: grey ? to : turnToward(from.h, to, turn * Math.abs(t)) });
  };
  const [r, g, b] = colour;
  return Array.from({ length: TONES_EACH_WAY * 2 + 1 }, (_, k) =>
    k === TONES_EACH_WAY ? ([r, g, b] as [Srgb, Srgb, Srgb]) : step(k - TONES_EACH_WAY),
  );
}

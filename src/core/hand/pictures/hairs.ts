/** Pictures made of hairs: brushes seen from their end, hair, fur, grass, feathers. u runs along the stroke. */
import { drawTip } from '../tipPicture';
import { chance, disk, noise, Plot, smooth, within, type Line } from './shapes';

const SIDE = 256;

/** Hairs side by side, each where the brush touches: dragged along they leave streaks. */
function hairs(seed: number, count: number, thin: number, thick: number, gaps: number) {
  const random = chance(seed);
  const plot = new Plot(SIDE);
  for (let n = 0; n < count; n++) {
    const y = ((n + 0.5) / count) * 1.9 - 0.95 + within(random, -0.03, 0.03);
    const x = within(random, -0.16, 0.16) * (1 - y * y);
    const r = within(random, thin, thick);
    const a = random() < gaps ? 0 : within(random, 0.35, 1);
    if (a > 0) plot.spot({ x, y, r, a, soft: 0.7, long: 2 });
  }
  return plot.picture();
}

export const bristle = () => hairs(3, 46, 0.03, 0.055, 0.05);
export const dryBristle = () => hairs(7, 40, 0.03, 0.055, 0.35);
/** A few single hairs. */
export const hair = () => hairs(13, 8, 0.034, 0.06, 0);

/** Blades from one foot, bent by their own weight. */
function blades(seed: number, count: number, spread: number, wide: number): Line[] {
  const random = chance(seed);
  return Array.from({ length: count }, (_, n) => {
    const lean = count === 1 ? 0 : (n / (count - 1)) * 2 - 1;
    const [foot, bend, tall] = [lean * spread * 0.35, lean * spread + within(random, -0.15, 0.15), within(random, 1.2, 1.85)];
    const points = Array.from({ length: 9 }, (_, k): [number, number] => {
      const t = k / 8;
      return [foot + bend * t * t, 0.95 - tall * t * (1 - 0.12 * Math.abs(bend) * t)];
    });
    return { points, from: wide * within(random, 0.7, 1.2), to: 0.004 };
  });
}

/** Its roots go into the ground. */
export const grass = () =>
  blades(17, 7, 0.75, 0.075)
    .reduce((plot, blade) => plot.line(blade), new Plot(SIDE))
    .picture((_, v) => 1 - smooth(0.45, 0.93, v));

/** Short hairs that lie along the stroke and overlap. */
export const fur = () => {
  const random = chance(23);
  const plot = new Plot(SIDE);
  for (let n = 0; n < 34; n++) {
    const [x, y, turn] = [within(random, -0.75, 0.2), within(random, -0.85, 0.85), within(random, -0.22, 0.22)];
    const long = within(random, 0.35, 0.75);
    const points = Array.from({ length: 5 }, (_, k): [number, number] => {
      const t = k / 4;
      return [x + long * t, y + long * turn * t + 0.12 * turn * t * t];
    });
    plot.line({ points, from: within(random, 0.02, 0.034), to: 0.003 });
  }
  return plot.picture((u, v) => disk(Math.hypot(u, v), 1, 0.25));
};

/** A quill with barbs on both sides, split here and there. */
export const feather = () =>
  drawTip(SIDE, (u, v) => {
    // From the tip at the right to the quill's end at the left.
    const t = (u + 0.95) / 1.9;
    if (t < 0 || t > 1) return 0;
    const bow = 0.1 * Math.sin(t * Math.PI);
    const y = v + bow;
    const quill = 1 - smooth(0.008, 0.02, Math.abs(y));
    const half = t < 0.18 ? 0 : 0.34 * Math.sin(Math.PI * Math.min(1, (t - 0.18) / 0.82) ** 0.8) ** 0.7;
    const along = t + Math.abs(y) * 0.55;
    const barbs = 0.5 + 0.5 * Math.sin(along * 190);
    const split = smooth(0.74, 0.8, noise(along * 13, y > 0 ? 1 : 5, 29));
    const vane = half > 0 ? 1 - smooth(half - 0.05, half, Math.abs(y)) : 0;
    return Math.max(quill, vane * (0.45 + 0.5 * barbs) * (1 - 0.9 * split) * (1 - 0.5 * (1 - smooth(0, 0.03, Math.abs(y)))));
  });

/** Pictures of marks: lines, cracks, veins. u runs along the stroke. */
import { drawTip } from '../tipPicture';
import { chance, cloudy, disk, noise, plotted, smooth, within, type Line } from './shapes';

const SIDE = 256;

const drawn = (lines: readonly Line[]) => plotted(SIDE, lines);

function strokes(seed: number, count: number, angle: number): Line[] {
  const random = chance(seed);
  return Array.from({ length: count }, (_, n): Line => {
    const off = ((n + 0.5) / count) * 1.7 - 0.85;
    const half = Math.sqrt(Math.max(0, 0.9 - off * off)) * within(random, 0.85, 1);
    const tilt = angle + within(random, -0.035, 0.035);
    const [c, s] = [Math.cos(tilt), Math.sin(tilt)];
    const at = (t: number, bow: number): [number, number] => [c * t - s * (off + bow), s * t + c * (off + bow)];
    return { points: [at(-half, 0), at(0, within(random, -0.02, 0.02)), at(half, 0)], from: 0.032, to: 0.014 };
  });
}
export const hatch = () => drawn(strokes(3, 8, Math.PI / 4));
export const crossHatch = () => drawn([...strokes(3, 8, Math.PI / 4), ...strokes(5, 8, -Math.PI / 4)]);

/** Thin scores, nearly along the stroke, some broken off. */
export const scratch = () => {
  const random = chance(7);
  return drawn(
    Array.from({ length: 6 }, (): Line => {
      const [x, y] = [within(random, -0.95, -0.2), within(random, -0.4, 0.4)];
      const [long, slope] = [within(random, 0.5, 1.5), within(random, -0.14, 0.14)];
      const end = Math.min(0.96, x + long);
      return {
        points: [
          [x, y],
          [(x + end) / 2, y + ((end - x) / 2) * slope + 0.01],
          [end, y + (end - x) * slope],
        ],
        from: within(random, 0.018, 0.045),
        to: 0.004,
      };
    }),
  );
};

/** Lines that go on in steps and part. `jag`: how far each step turns off; `parts`: how often they part. */
function branches(seed: number, jag: number, parts: number, wide: number): Line[] {
  const random = chance(seed);
  const out: Line[] = [];
  const grow = (x: number, y: number, heading: number, steps: number, width: number, depth: number): void => {
    const points: [number, number][] = [[x, y]];
    let h = heading;
    for (let n = 0; n < steps; n++) {
      // Back towards its own line, so that marks set end to end go on.
      h += within(random, -jag, jag) + (heading - (depth === 2 ? y * 0.9 : 0) - h) * 0.45;
      x += Math.cos(h) * 0.13;
      y += Math.sin(h) * 0.13;
      points.push([x, y]);
      if (depth > 0 && random() < parts)
        grow(x, y, h + (random() < 0.5 ? -1 : 1) * within(random, 0.5, 0.95), Math.ceil(steps * 0.45), width * 0.55, depth - 1);
    }
    out.push({ points, from: width, to: width * 0.25 });
  };
  grow(-0.96, 0, 0, 15, wide, 2);
  return out;
}
export const crack = () => drawn(branches(11, 0.8, 0.3, 0.045));
export const vein = () => drawn(branches(19, 0.3, 0.34, 0.05));

/** The grain of a sawn board: long lines that part around a knot. */
export const woodLine = () =>
  drawTip(SIDE, (u, v) => {
    const knot = 0.22 * Math.exp(-((u - 0.15) ** 2) / 0.07 - (v + 0.1) ** 2 / 0.12) * Math.sign(v + 0.1 || 1);
    const y = v - knot + 0.05 * (cloudy(u * 1.3, v * 2, 2, 23) - 0.5);
    const lines = 0.5 + 0.5 * Math.sin(y * 34 + 2 * noise(u * 0.8, y * 3, 29));
    return (
      smooth(0.55, 0.95, lines) *
      (0.4 + 0.6 * noise(u * 3, y * 9, 31)) *
      (1 - smooth(0.6, 1, Math.abs(u))) *
      (1 - smooth(0.75, 0.95, Math.abs(v)))
    );
  });

/** Streaks of a worn felt: a bar across the stroke. */
export const chisel = () =>
  drawTip(SIDE, (u, v) => disk(Math.abs(u), 0.2, 0.05) * disk(Math.abs(v), 0.95, 0.04) * (0.75 + 0.25 * noise(3, v * 16, 37)));

/** The grain of a point of graphite. */
export const point = () =>
  drawTip(
    SIDE,
    (u, v) =>
      disk(Math.hypot(u, v), 0.9 + 0.1 * cloudy(u * 4, v * 4, 2, 41), 0.5) *
      (0.55 + 0.45 * smooth(0.3, 0.65, cloudy(u * 12, v * 12, 3, 43))),
  );

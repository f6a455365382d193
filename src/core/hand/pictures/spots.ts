/** Pictures made of spots: sponges, spray, dust, clouds. */
import { drawTip, tipPicture } from '../tipPicture';
import { chance, cloudy, disk, noise, Plot, scattered, smooth, within, type Spot } from './shapes';

const SIDE = 256;

const spots = (list: readonly Spot[]) => list.reduce((plot, spot) => plot.spot(spot), new Plot(SIDE));

/** Open cells with ragged walls, pressed lightly towards its rim. */
export const sponge = () => {
  const grain = drawTip(SIDE, (u, v) => {
    const rim = 0.8 + 0.25 * (cloudy(u * 3 + 7, v * 3, 3, 2) - 0.5) * 2;
    return disk(Math.hypot(u, v), rim, 0.16) * smooth(0.38, 0.58, cloudy(u * 14, v * 14, 3, 9));
  });
  const cells = spots(
    scattered(3, 46, 0.17).map(([x, y], n) => ({ x, y, r: 0.05 + 0.1 * noise(n, 1, 5), a: 0.95, soft: 0.5 })),
  ).picture();
  return tipPicture(
    SIDE,
    grain.levels[0].map((v, i) => v * (1 - cells.levels[0][i])),
  );
};

/** Flung paint: few large drops, many small ones, drawn out away from the middle. */
export const splatter = () => {
  const random = chance(11);
  return spots(
    Array.from({ length: 70 }, () => {
      const angle = random() * Math.PI * 2;
      const far = random() ** 0.7 * 0.9;
      const r = 0.012 + 0.11 * random() ** 5 * (1.1 - far);
      return {
        x: Math.cos(angle) * far,
        y: Math.sin(angle) * far,
        r,
        a: 1,
        soft: Math.min(0.5, 0.02 / r),
        angle,
        long: 1 + random() * 1.4 * far,
      };
    }),
  ).picture();
};

export const speckle = () => {
  const random = chance(17);
  const list = scattered(19, 130, 0.07).map(([x, y]) => ({
    x,
    y,
    r: within(random, 0.012, 0.034),
    a: within(random, 0.6, 1),
    soft: 0.5,
  }));
  return spots(list).picture();
};

/** Faint motes over a breath of haze. */
export const dust = () => {
  const random = chance(23);
  const list = scattered(29, 90, 0.06).map(([x, y]) => ({
    x,
    y,
    r: within(random, 0.01, 0.05),
    a: within(random, 0.2, 0.85) ** 1.2,
    soft: 1,
  }));
  const motes = spots(list).picture();
  const haze = drawTip(SIDE, (u, v) => 0.4 * disk(Math.hypot(u, v), 1, 0.8) * smooth(0.45, 0.75, cloudy(u * 6, v * 6, 4, 31)));
  return tipPicture(
    SIDE,
    haze.levels[0].map((v, i) => Math.max(v, motes.levels[0][i])),
  );
};

/** Dots of one size, evenly apart. */
export const stipple = () => spots(scattered(37, 60, 0.19).map(([x, y]) => ({ x, y, r: 0.06, a: 1, soft: 0.35 }))).picture();

export const cloud = () =>
  drawTip(SIDE, (u, v) => {
    const billow = cloudy(u * 2.2 + 3, v * 2.2, 5, 41);
    return smooth(0.3, 0.8, billow + 0.35 * (1 - Math.hypot(u, v) * 1.25)) * disk(Math.hypot(u, v), 1, 0.45);
  });

/** Wisps: noise pulled about by noise. */
export const smoke = () =>
  drawTip(SIDE, (u, v) => {
    const [wx, wy] = [cloudy(u * 1.6, v * 1.6, 3, 43) - 0.5, cloudy(u * 1.6 + 9, v * 1.6, 3, 47) - 0.5];
    const ridge = 1 - Math.abs(cloudy((u + wx * 1.8) * 2.2, (v + wy * 1.8) * 2.2, 4, 53) * 2 - 1);
    return 0.85 * smooth(0.62, 1, ridge) * disk(Math.hypot(u, v), 1, 0.65);
  });

/** Patches that gather in places, with fine grains. */
export const dirt = () =>
  drawTip(SIDE, (u, v) => {
    const patch = smooth(0.44, 0.66, cloudy(u * 2.6 + 5, v * 2.6, 5, 59));
    const grains = smooth(0.62, 0.74, cloudy(u * 22, v * 22, 2, 61));
    return disk(Math.hypot(u, v), 1, 0.5) * Math.max(patch * (0.55 + 0.45 * cloudy(u * 9, v * 9, 3, 67)), 0.8 * grains);
  });

/** A knock with a soft rim, not quite round. */
export const dent = () =>
  drawTip(SIDE, (u, v) => {
    const d =
      Math.hypot(u, v) / (0.72 + 0.22 * noise((2 * u) / (Math.hypot(u, v) || 1) + 9, (2 * v) / (Math.hypot(u, v) || 1) + 3, 71));
    return (1 - smooth(0, 1, d)) ** 0.8;
  });

/** A bead with its run below it. */
export const drip = () =>
  drawTip(SIDE, (u, v) => {
    const run = 0.1 + 0.1 * smooth(-1, 0.7, v) + 0.025 * (noise(v * 5, 2, 73) - 0.5);
    const tail = v > -0.95 && v < 0.62 ? 1 - smooth(run - 0.03, run + 0.01, Math.abs(u)) : 0;
    const bead = disk(Math.hypot(u, (v - 0.62) * 0.85), 0.24, 0.04);
    return Math.max(tail * smooth(-0.95, -0.55, v), bead);
  });

/** A gloss: a bright core that goes out softly, longer than wide. */
export const highlight = () =>
  drawTip(SIDE, (u, v) => {
    const d = Math.hypot(u, v * 2);
    return Math.min(1, 1 - smooth(0.25, 0.6, d) + 0.45 * Math.max(0, 1 - d) ** 1.6);
  });

/** Pictures of things: leaves, scales, stitches, rope, rivets. u runs along the stroke. */
import { drawTip } from '../tipPicture';
import { disk, noise, smooth } from './shapes';

const SIDE = 256;

/** A blade with a midrib and veins, the stalk at the left. */
export const leaf = () =>
  drawTip(SIDE, (u, v) => {
    const t = (u + 0.72) / 1.66;
    const stalk = u < -0.6 ? (u > -0.97 ? 1 - smooth(0.015, 0.03, Math.abs(v)) : 0) : 0;
    if (t < 0 || t > 1) return stalk;
    const half = 0.5 * Math.sin(Math.PI * t ** 0.75) ** 0.85 * (1 + 0.05 * Math.sin(t * 60));
    const blade = 1 - smooth(half - 0.03, half, Math.abs(v));
    const rib = 1 - smooth(0.008, 0.022, Math.abs(v));
    const side = (t - Math.abs(v) * 0.75) * 8;
    const vein = 1 - smooth(0.03, 0.09, Math.abs(side - Math.round(side)));
    return Math.max(stalk, blade * (1 - 0.75 * Math.max(rib, vein * 0.6)) * (0.88 + 0.12 * noise(u * 5, v * 5, 3)));
  });

/** One scale: full at its free rim (the right), fading where the next one lies over it. */
export const scale = () =>
  drawTip(SIDE, (u, v) => {
    const d = u > 0 ? Math.hypot(u / 0.92, v / 0.92) : Math.max(Math.abs(v) / 0.92, -u / 0.95);
    const body = 1 - smooth(0.93, 1, d);
    const rim = smooth(0.62, 0.94, d) * (u > -0.4 ? 1 : smooth(-0.95, -0.4, u));
    return body * (0.22 + 0.78 * rim) * (0.9 + 0.1 * Math.sin(v * 26));
  });

/** One stitch: a thread that goes in at both ends. */
export const stitch = () =>
  drawTip(SIDE, (u, v) => {
    const half = 0.2 * (1 - 0.35 * (u / 0.66) ** 2);
    const thread = Math.abs(u) < 0.7 ? (1 - smooth(half - 0.04, half, Math.abs(v))) * (1 - smooth(0.6, 0.7, Math.abs(u))) : 0;
    const twist = 0.72 + 0.28 * smooth(-0.3, 0.3, Math.sin((u * 2.6 + v * 3) * 7));
    const hole = disk(Math.hypot(Math.abs(u) - 0.8, v), 0.12, 0.05);
    return Math.max(thread * twist, hole * 0.55);
  });

/** Strands of a laid rope, one turn: it goes on at both ends. */
export const rope = () =>
  drawTip(SIDE, (u, v) => {
    const round = Math.sqrt(Math.max(0, 1 - (v / 0.72) ** 2));
    const edge = 1 - smooth(0.66, 0.72, Math.abs(v));
    // Two strands a side, S-shaped as they go over the round.
    const turn = u - 0.55 * Math.sin((v / 0.72) * (Math.PI / 2));
    const strand = Math.abs(Math.sin(turn * Math.PI * 1.5));
    return edge * smooth(0.08, 0.5, strand) * (0.45 + 0.55 * round * strand);
  });

/** A head with the shadow around it left free. */
export const rivet = () =>
  drawTip(SIDE, (u, v) => {
    const d = Math.hypot(u, v);
    const head = disk(d, 0.62, 0.05) * (0.6 + 0.4 * smooth(-0.6, 0.5, -(u + v) * 0.7));
    const ring = 0.5 * (1 - smooth(0.03, 0.07, Math.abs(d - 0.8)));
    return Math.max(head, ring);
  });

/** The couriers' emblem: a bottle in a ring, above three waves. Drawn by rule, as a picture with alpha. */
import { hexToSrgb } from '../src/core/colour/transfer';
import { tilesFromPicture, type TileIndex } from '../src/core/tile/tiles';

export const EMBLEM_SIDE = 256;

type Shape = (x: number, y: number) => number;

/** Below 0 inside. Places from −1 to 1, y down (after Inigo Quilez' notes on distances to plain shapes). */
const disc =
  (cx: number, cy: number, r: number): Shape =>
  (x, y) =>
    Math.hypot(x - cx, y - cy) - r;
const box =
  (cx: number, cy: number, w: number, h: number, round = 0): Shape =>
  (x, y) => {
    const [dx, dy] = [Math.abs(x - cx) - w + round, Math.abs(y - cy) - h + round];
    return Math.hypot(Math.max(dx, 0), Math.max(dy, 0)) + Math.min(Math.max(dx, dy), 0) - round;
  };
const any =
  (...of: Shape[]): Shape =>
  (x, y) =>
    Math.min(...of.map((s) => s(x, y)));
const both =
  (...of: Shape[]): Shape =>
  (x, y) =>
    Math.max(...of.map((s) => s(x, y)));
const out =
  (of: Shape): Shape =>
  (x, y) =>
    -of(x, y);

const wave =
  (at: number, thick: number): Shape =>
  (x, y) =>
    Math.abs(y - at - 0.045 * Math.sin(x * 9 + at * 20)) - thick;

const whole = disc(0, 0, 0.96);
const field = disc(0, 0, 0.8);
const bottle = any(
  box(0, -0.02, 0.17, 0.26, 0.09),
  box(0, -0.36, 0.07, 0.16),
  box(0, -0.52, 0.105, 0.035, 0.02),
  both(disc(0, -0.22, 0.17), box(0, -0.22, 0.17, 0.17)),
);
const glint = both(box(-0.08, 0.0, 0.025, 0.17, 0.02), bottle);
const waves = both(field, any(wave(0.4, 0.035), wave(0.53, 0.035), wave(0.66, 0.035)), out(bottle));
const notches: Shape = (x, y) => {
  const a = (Math.atan2(y, x) / (2 * Math.PI)) * 24;
  return both(disc(0, 0, 0.9), out(disc(0, 0, 0.85)))(x, y) + (Math.abs(a - Math.round(a)) > 0.2 ? 1 : 0);
};

const LAID: [Shape, string][] = [
  [whole, '#b8863a'],
  [notches, '#5d3a17'],
  [field, '#1f3d46'],
  [waves, '#7fb7a8'],
  [bottle, '#d8b25a'],
  [glint, '#f6e7b8'],
];

/** RGBA of 16 bits, row by row. */
export function emblem(side = EMBLEM_SIDE): Uint16Array {
  const pixels = new Uint16Array(side * side * 4);
  const soft = (d: number) => Math.min(1, Math.max(0, 0.5 - (d * side) / 2));
  for (let row = 0; row < side; row++)
    for (let column = 0; column < side; column++) {
      const [x, y] = [((column + 0.5) / side) * 2 - 1, ((row + 0.5) / side) * 2 - 1];
      let colour = [0, 0, 0];
      for (const [shape, hex] of LAID) {
        const share = soft(shape(x, y));
        colour = hexToSrgb(hex).map((v, k) => colour[k] + (v - colour[k]) * share);
      }
      const o = (row * side + column) * 4;
      colour.forEach((v, k) => (pixels[o + k] = v * 65535));
      // Its colour goes on under its rim, so that none of the ground's comes in.
      pixels[o + 3] = soft(whole(x, y)) * 65535;
      if (pixels[o + 3] === 0)
        pixels.set(
          hexToSrgb(LAID[0][1]).map((v) => v * 65535),
          o,
        );
    }
  return pixels;
}

export const emblemTiles = (): Iterable<[TileIndex, Uint16Array]> => tilesFromPicture(emblem(), EMBLEM_SIDE, EMBLEM_SIDE, 4);

/** A sheet that lies turned or flipped on the screen: tips and directions stay as they are on the screen. */
import type { FlatSample } from '../hand/sample';
import { brushFor, canvasEasel, flatSample, strokeOn, texelsOf } from '../testing/hand';

const SIDE = 128;
const BRUSH = brushFor({
  ...{ size: 26, sizeUnit: 'texel', spacing: 0.3, hardness: 0.6, flow: 0.7 },
  tip: { shape: 'picture', picture: 'made:leaf', roundness: 0.6, angle: 25 },
  vary: [
    { what: 'angle', by: 'direction', amount: 0 },
    { what: 'angle', by: 'tilt-direction', amount: 30 },
    { what: 'across', by: 'length', amount: 0.4, over: 200, unit: 'texels' },
  ],
  writes: { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 } },
});

/** A bent way over the screen, of which a pixel is a texel; `into`: where its pixels lie in the sheet, and how the sheet lies. */
function painted(into: (x: number, y: number) => [number, number], how: Partial<FlatSample>): Uint16Array {
  const easel = canvasEasel(SIDE);
  const way = Array.from({ length: 24 }, (_, n) => [24 + n * 3.3, 40 + 30 * Math.sin(n / 5)]);
  strokeOn(
    easel,
    BRUSH,
    way.map(([x, y]) => flatSample(...into(x, y), { tiltX: 30, tiltY: 10, ...how })),
  );
  return texelsOf(easel, 'base-colour');
}

/** The largest difference of alpha between one and the other, of which a texel lies where `place` says. */
function apart(a: Uint16Array, b: Uint16Array, place: (x: number, y: number) => [number, number]): number {
  let most = 0;
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) {
      const [px, py] = place(x, y);
      most = Math.max(most, Math.abs(a[(y * SIDE + x) * 4 + 3] - b[(py * SIDE + px) * 4 + 3]));
    }
  return most / 65535;
}

const upright = painted((x, y) => [x, y], {});

test('something is painted, and it is not the same as its own mirror image', () => {
  expect(upright.some((v, i) => i % 4 === 3 && v > 30000)).toBe(true);
  expect(apart(upright, upright, (x, y) => [SIDE - 1 - x, y])).toBeGreaterThan(0.5);
});

test('flipped, what is seen on the screen is the same', () => {
  const flipped = painted((x, y) => [SIDE - x, y], { flip: true });
  expect(apart(upright, flipped, (x, y) => [SIDE - 1 - x, y])).toBeLessThan(2e-3);
});

test('turned by a quarter, what is seen on the screen is the same', () => {
  // Clockwise by 90°: the screen's (x, y) shows the sheet's (y, SIDE − x).
  const turned = painted((x, y) => [y, SIDE - x], { turn: Math.PI / 2 });
  expect(apart(upright, turned, (x, y) => [y, SIDE - 1 - x])).toBeLessThan(2e-3);
});

test('turned, and flipped after that', () => {
  const both = painted((x, y) => [y, x], { turn: Math.PI / 2, flip: true });
  expect(apart(upright, both, (x, y) => [y, x])).toBeLessThan(2e-3);
});

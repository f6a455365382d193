/** Hard tips cover texels by area: lines are as wide as they are set, wherever they lie and however they are turned. */
import type { Brush } from '../hand/brush';
import { brushFor, canvasEasel, flatSample, modelEasel, rayTo, strokeOn, texelsOf } from '../testing/hand';
import { quadModel } from '../testing/models';

const SIDE = 96;
const line = (over: object): Brush =>
  brushFor({
    hardness: 1,
    flow: 1,
    opacity: 1,
    spacing: 0.1,
    writes: { roughness: { on: true, value: [1], amount: 1 } },
    ...over,
  });
/** Coverage, texel by texel. */
const cover = (easel: Parameters<typeof texelsOf>[0]): Float64Array => {
  const texels = texelsOf(easel, 'roughness');
  return Float64Array.from({ length: texels.length / 2 }, (_, i) => texels[i * 2 + 1] / 65535);
};

/** Mean width of a line at an angle, over its middle: area of what is covered there by its length. */
function widthOf(brush: Brush, angle: number, offset: number): number {
  const easel = canvasEasel(SIDE);
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const [mx, my] = [SIDE / 2 - s * offset, SIDE / 2 + c * offset];
  strokeOn(
    easel,
    brush,
    [-44, 44].map((t) => flatSample(mx + c * t, my + s * t, { pressure: brush.vary.length ? 0 : 1 })),
  );
  const values = cover(easel);
  let area = 0;
  // Texels by how much of them lies between two cuts square to the line, 40 texels apart: by 8 × 8 points.
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) {
      if (values[y * SIDE + x] === 0) continue;
      let inside = 0;
      for (let k = 0; k < 64; k++) {
        const along = (x + ((k % 8) + 0.5) / 8 - mx) * c + (y + ((k >> 3) + 0.5) / 8 - my) * s;
        if (Math.abs(along) < 20) inside++;
      }
      area += (values[y * SIDE + x] * inside) / 64;
    }
  return area / 40;
}

test.each([0.5, 1, 1.5, 2, 3, 5])('a line of size %p is so wide at any slope and offset', (size) => {
  for (let n = 0; n < 10; n++)
    for (const offset of [0, 0.25, 0.5, 0.71]) {
      const width = widthOf(line({ size: Math.max(1, size), vary: vary(size) }), (n * Math.PI) / 20, offset);
      expect(Math.abs(width - size)).toBeLessThan(0.05);
    }
});

/** Sizes below 1 are reached by a line of the brush. */
const vary = (size: number) => (size < 1 ? [{ what: 'size', by: 'pressure', amount: 1 - size }] : []);

test.each([
  ['square', { shape: 'square' }],
  ['oval', { shape: 'round', roundness: 0.4 }],
])('a %s tip along its long side is as wide as its short side', (_name, tip) => {
  for (let n = 0; n < 8; n++) {
    const angle = (n * Math.PI) / 16;
    const size = 6;
    const short = size * ((tip as { roundness?: number }).roundness ?? 1);
    const width = widthOf(line({ size, tip: { ...tip, angle: (angle * 180) / Math.PI } }), angle, n * 0.13);
    expect(Math.abs(width - short)).toBeLessThan(0.05);
  }
});

test('a dot gives about clamp(r − d + ½)', () => {
  for (const radius of [0.5, 1, 3.3, 8]) {
    const easel = canvasEasel(SIDE);
    strokeOn(easel, line({ size: 2 * radius }), [flatSample(40.3, 41.8)]);
    const values = cover(easel);
    for (let y = 25; y < 60; y++)
      for (let x = 25; x < 60; x++) {
        const d = Math.hypot(x + 0.5 - 40.3, y + 0.5 - 41.8);
        const expected = Math.min(1, Math.max(0, radius - d + 0.5));
        expect(Math.abs(values[y * SIDE + x] - expected)).toBeLessThan(0.07);
      }
  }
});

test('within one stroke many dabs over a place give no more than its share', () => {
  const easel = canvasEasel(SIDE);
  // Back and forth.
  strokeOn(
    easel,
    line({ size: 3 }),
    [20, 70, 20, 70, 20].map((x) => flatSample(x, 40.25)),
  );
  const values = cover(easel);
  const column = [37, 38, 39, 40, 41, 42].map((y) => values[y * SIDE + 45]);
  [0, 0.25, 1, 1, 0.75, 0].forEach((v, n) => expect(Math.abs(column[n] - v)).toBeLessThan(0.07));
});

test('on the surface a line is as wide as on the flat', () => {
  const plane = quadModel([
    {
      corners: [
        [0, 0, 0],
        [1, 0, 0],
        [1, 1, 0],
        [0, 1, 0],
      ],
      uv: [0, 0, 1, 1],
    },
  ]);
  for (const size of [1, 2, 5])
    for (let n = 0; n < 5; n++) {
      const easel = modelEasel(plane, SIDE);
      const angle = (n * Math.PI) / 10;
      const [c, s] = [Math.cos(angle), Math.sin(angle)];
      const at = (t: number): [number, number, number] => [0.5 + c * t, 0.5 + s * t + 0.003 * n, 0];
      const samples = Array.from({ length: 161 }, (_, n) => n / 200 - 0.4).map((t) => rayTo([at(t)[0], at(t)[1], 2], at(t)));
      strokeOn(easel, line({ size, sizeUnit: 'texel' }), samples);
      const values = cover(easel);
      let area = 0;
      for (let y = 0; y < SIDE; y++)
        for (let x = 0; x < SIDE; x++) {
          const [px, py] = [(x + 0.5) / SIDE - 0.5, 0.5 - (y + 0.5) / SIDE - 0.003 * n];
          if (Math.abs(px * c + py * s) < 0.25) area += values[y * SIDE + x];
        }
      expect(Math.abs(area / (0.5 * SIDE) - size)).toBeLessThan(0.08);
    }
});

test('twice the size, reduced, is the same to two hundredths along its edges', () => {
  for (const [size, hardness] of [
    [2, 1],
    [5, 1],
    [9, 0.9],
    [14, 1],
  ] as const) {
    const [one, two] = [canvasEasel(SIDE), canvasEasel(2 * SIDE)];
    const path = [
      [20.2, 20.7],
      [70.4, 33.1],
      [50.9, 71.3],
    ] as const;
    const brush = line({ size, hardness });
    strokeOn(
      one,
      brush,
      path.map(([x, y]) => flatSample(x, y)),
    );
    strokeOn(
      two,
      brush,
      path.map(([x, y]) => flatSample(2 * x, 2 * y, { texelsPerPixel: 2 })),
    );
    const [small, large] = [cover(one), cover(two)];
    let sum = 0;
    let count = 0;
    for (let y = 0; y < SIDE; y++)
      for (let x = 0; x < SIDE; x++) {
        const o = 2 * y * 2 * SIDE + 2 * x;
        const mean = (large[o] + large[o + 1] + large[o + 2 * SIDE] + large[o + 2 * SIDE + 1]) / 4;
        const v = small[y * SIDE + x];
        if ((mean < 0.01 && v < 0.01) || (mean > 0.99 && v > 0.99)) continue;
        sum += Math.abs(mean - v);
        count++;
      }
    expect(sum / count).toBeLessThan(0.02);
  }
});

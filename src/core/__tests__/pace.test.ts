/** A stroke hangs on what the hand does, not on how often it is asked: sampled at 60, 125, 240 or 1,000 Hz it is the same. */
import { StrokePath } from '../hand/path';
import type { FlatSample } from '../hand/sample';
import { brushFor, canvasEasel, flatSample, modelEasel, rayTo, strokeOn, texelsOf } from '../testing/hand';
import { cubeModel } from '../testing/models';

const SIDE = 512;
const SECONDS = 1;

/** A hand that draws loops, slows down and hurries on, as a function of time. */
function hand(t: number): [number, number, pressure: number] {
  // From rest.
  const p = t - 0.08 * (1 - Math.exp(-12 * t)) + 0.1 * (1 - Math.cos(5 * t)) ** 2;
  const a = 2 * Math.PI * p;
  return [120 + 240 * p + 70 * Math.sin(a), 260 + 90 * Math.cos(a) + 30 * Math.sin(3 * p), 0.6 + 0.35 * Math.sin(4 * t)];
}

const samplesAt = (hz: number): FlatSample[] =>
  Array.from({ length: Math.floor(SECONDS * hz) + 1 }, (_, n) => {
    const [x, y, pressure] = hand(n / hz);
    return flatSample(x, y, { pressure, time: 1000 + (1000 * n) / hz });
  });

/** How many texels either of two strokes has reached, and the share of them whose coverage differs by more than 2 %. */
function compared(a: Uint16Array, b: Uint16Array): { reached: number; apart: number } {
  let [reached, apart] = [0, 0];
  for (let i = 1; i < a.length; i += 2) {
    if (a[i] === 0 && b[i] === 0) continue;
    reached++;
    if (Math.abs(a[i] - b[i]) > 0.02 * 65535) apart++;
  }
  return { reached, apart: apart / reached };
}

const BRUSHES: [string, object][] = [
  ['calmed', { size: 30, hardness: 0.5, smoothing: 0.5 }],
  ['not calmed', { size: 24, hardness: 0.5, smoothing: 0 }],
  ['calmed as far as it goes', { size: 30, hardness: 0.3, smoothing: 1 }],
  ['on a string', { size: 24, hardness: 0.5, smoothing: 0.2, string: 40 }],
  ['by speed', { size: 40, hardness: 0.5, smoothing: 0.4, vary: [{ what: 'size', by: 'speed', amount: 0.6 }] }],
  ['by pressure', { size: 40, hardness: 0.5, smoothing: 0.4, vary: [{ what: 'size', by: 'pressure', amount: 0.8 }] }],
  ['by time at rest', { size: 40, hardness: 0.3, flow: 0.03, smoothing: 0.3, rate: 60, spacing: 1 }],
];

describe.each(BRUSHES)('a brush %s', (_name, over) => {
  const painted = (hz: number) => {
    const easel = canvasEasel(SIDE);
    strokeOn(easel, brushFor({ writes: { roughness: { on: true, value: [1], amount: 1 } }, ...over }), samplesAt(hz));
    return texelsOf(easel, 'roughness');
  };
  const dense = painted(240);

  test.each([60, 125, 1000])('at %i Hz gives the same stroke to 2 % on 99 of 100 texels', (hz) => {
    const texels = painted(hz);
    const { reached, apart } = compared(texels, dense);
    expect(reached).toBeGreaterThan(5000);
    expect(apart).toBeLessThan(0.01);
  });
});

test('on the model too', () => {
  const painted = (hz: number) => {
    const easel = modelEasel(cubeModel(), SIDE);
    const samples = samplesAt(hz).map((s) =>
      rayTo([0, 0, 3], [(s.x - 250) / 700, (s.y - 260) / 400, 0.5], { time: s.time, pressure: s.pressure }),
    );
    const brush = { size: 0.09 * 1000, sizeUnit: 'model', hardness: 0.4, smoothing: 0.5 };
    strokeOn(easel, brushFor({ writes: { roughness: { on: true, value: [1], amount: 1 } }, ...brush }), samples);
    return texelsOf(easel, 'roughness');
  };
  const [slow, quick] = [painted(60), painted(240)];
  const { reached, apart } = compared(slow, quick);
  expect(reached).toBeGreaterThan(1000);
  expect(apart).toBeLessThan(0.01);
});

test('a corner is cut by as much at any rate', () => {
  const cutAt = (hz: number) => {
    const path = new StrokePath(0.8);
    const points: FlatSample[] = [];
    // 600 pixels a second, to the corner in a quarter of a second and on.
    for (let n = 0; n <= hz / 2; n++) {
      const way = (600 * n) / hz;
      const [x, y] = way <= 150 ? [way, 0] : [150, way - 150];
      points.push(...(path.add(flatSample(x, y, { time: (1000 * n) / hz + 1 })) as FlatSample[]));
    }
    return Math.min(...points.map((p) => Math.hypot(p.x - 150, p.y)));
  };
  const [slow, middle, quick] = [60, 125, 240].map(cutAt);
  expect(quick).toBeGreaterThan(3);
  for (const cut of [slow, middle]) expect(Math.abs(cut - quick)).toBeLessThan(1);
});

test('after a rest the hand goes on from where it was', () => {
  const path = new StrokePath(0);
  const points = [flatSample(0, 0, { time: 1 }), flatSample(10, 0, { time: 9 }), flatSample(30, 0, { time: 2009 })].flatMap((s) =>
    path.add(s),
  ) as FlatSample[];
  for (const p of points) if (p.time > 20 && p.time < 2000) expect(p.x).toBeCloseTo(10, 6);
});

test('samples without a clock are read as if they came every eight milliseconds', () => {
  const timed = new StrokePath(0.6);
  const bare = new StrokePath(0.6);
  for (let n = 0; n < 20; n++) {
    const [x, y] = [10 * n, 30 * Math.sin(n / 3)];
    const a = timed.add(flatSample(x, y, { time: 1 + 8 * n })) as FlatSample[];
    const b = bare.add(flatSample(x, y)) as FlatSample[];
    expect(b.length).toBe(a.length);
    a.forEach((p, k) => expect([b[k].x, b[k].y]).toEqual([expect.closeTo(p.x, 5), expect.closeTo(p.y, 5)]));
  }
});

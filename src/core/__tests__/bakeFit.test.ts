import { fitTwin, worthFitting } from '../bake/fit';
import { placed } from '../bake/place';
import type { Model } from '../mesh/model';
import { ballModel, together } from '../testing/baked';
import { boxModel, seededRandom } from '../testing/models';

const turnY = (a: number) => [Math.cos(a), 0, -Math.sin(a), 0, 0, 1, 0, 0, Math.sin(a), 0, Math.cos(a), 0, 0, 0, 0, 1];
const move = (model: Model, scale: number, by: number[]): Model =>
  placed(model, [scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, scale, 0, ...by, 1]);

/** No two of its sides look alike. */
const odd = (): Model =>
  together(
    boxModel(1, 0.4, 0.6),
    move(boxModel(0.3, 0.5, 0.2), 1, [0.3, 0.4, 0.1]),
    move(ballModel(0.15, 12, 20), 1, [-0.3, 0.3, -0.2]),
  );

/** The farthest that a point of the twin is put from where it belongs. */
function off(model: Model, twin: Model, place: number[]): number {
  const back = placed(twin, place).positions;
  return Math.max(...back.map((v, i) => Math.abs(v - model.positions[i])));
}

test('a twin that lies where it should is left alone', () => {
  const fit = fitTwin(odd(), odd())!;
  expect(fit.after).toBeLessThanOrEqual(fit.before);
  expect(worthFitting(fit)).toBe(false);
  expect(off(odd(), odd(), fit.place)).toBeLessThan(0.01);
});

test.each([
  ['a hundred times as large', (m: Model) => move(m, 100, [0, 0, 0])],
  ['elsewhere', (m: Model) => move(m, 1, [3, -2, 0.5])],
  ['with Z up', (m: Model) => placed(m, [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0, 0, 0, 0, 1])],
  [
    'all of that, and turned by some degrees',
    (m: Model) => move(placed(placed(m, [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0, 0, 0, 0, 1]), turnY(0.12)), 39.37, [100, 20, -7]),
  ],
])('a twin %s is noticed, and fitted', (_, change) => {
  const model = odd();
  const fit = fitTwin(model, change(model))!;
  expect(worthFitting(fit)).toBe(true);
  // Points of both are scattered: they agree as far as those lie apart.
  expect(fit.after).toBeLessThan(0.04);
  expect(off(model, change(model), fit.place)).toBeLessThan(0.03);
});

test('a twin turned by any angle around any axis is fitted', () => {
  const model = odd();
  const random = seededRandom(4);
  for (let n = 0; n < 4; n++) {
    // Rodrigues' formula for a turn around an axis.
    const axis = [0, 1, 2].map(() => random() - 0.5);
    const [x, y, z] = axis.map((v) => v / Math.hypot(...axis));
    const angle = 0.2 + random() * (Math.PI - 0.2);
    const [c, s] = [Math.cos(angle), Math.sin(angle)];
    const turned = placed(model, [
      ...[c + x * x * (1 - c), y * x * (1 - c) + z * s, z * x * (1 - c) - y * s, 0],
      ...[x * y * (1 - c) - z * s, c + y * y * (1 - c), z * y * (1 - c) + x * s, 0],
      ...[x * z * (1 - c) + y * s, y * z * (1 - c) - x * s, c + z * z * (1 - c), 0],
      ...[0, 0, 0, 1],
    ]);
    const twin = move(turned, 0.1 + random() * 10, [random(), random(), random()]);
    const fit = fitTwin(model, twin)!;
    expect(off(model, twin, fit.place)).toBeLessThan(0.04);
  }
});

test('a twin with dents and no corner alike still lands on its model', () => {
  const model = ballModel(1, 24, 48, { torus: 2 });
  const random = seededRandom(9);
  const dense = { ...model, positions: model.positions.map((v) => v * 3 + (random() - 0.5) * 0.05) };
  const fit = fitTwin(model, dense)!;
  expect(worthFitting(fit)).toBe(true);
  expect(off(model, dense, fit.place)).toBeLessThan(0.06);
});

test('nothing can be fitted to what has no area', () => {
  const nothing = { positions: Float32Array.of(0, 0, 0), indices: Uint32Array.of(0, 0, 0) };
  expect(fitTwin(nothing, odd())).toBeNull();
  expect(fitTwin(odd(), nothing)).toBeNull();
});

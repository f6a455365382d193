/** Loops of rules: the bits of the twin, whatever the numbers; ramps and levels by their own formulas. */
import { powersOf, type RampPiece } from '../../kernels/rules';
import { rulesTwin } from '../../kernels/rulesTwin';
import { FILTERS } from '../kinds/filters';
import { rampAt, rampOver } from '../kinds/filters/ramp';
import { chooseKernels } from '../compute';
import { kernels } from '../kernels';
import { seededRandom } from '../testing/models';

beforeAll(() => chooseKernels('wasm'));

const random = seededRandom(5);
const some = (n: number, size = 2) => Float32Array.from({ length: n }, () => (random() - 0.5) * size);
const planes = (n: number) => [0, 1, 2].map(() => new Float32Array(n)) as [Float32Array, Float32Array, Float32Array];

test.each([1, 3, 4, 250])('places of %i texels, and the last one again', (count) => {
  const position = some(3000, 7);
  const there = Int32Array.from({ length: count }, () => Math.floor(random() * 1000));
  const [mine, twins] = [planes((count + 3) & ~3), planes((count + 3) & ~3)];
  kernels().spaced(position, there, [0.1, -2, 3], 0.37, ...mine);
  rulesTwin.spaced(position, there, [0.1, -2, 3], 0.37, ...twins);
  expect(mine).toEqual(twins);
  expect(mine[1].at(-1)).toBe(Math.fround((position[there[count - 1] * 3 + 1] + 2) / 0.37));
});

test('fields that are pushed, and lines', () => {
  const [x, y, z] = [some(64), some(64), some(64)];
  const [mine, twins] = [new Float32Array(64), new Float32Array(64)];
  kernels().pushed(mine, x, y, 0.3);
  rulesTwin.pushed(twins, x, y, 0.3);
  expect(mine).toEqual(twins);
  for (const smooth of [false, true]) {
    const line = { gx: 0.7, gy: -1.1, gz: 0.2, start: 0.4, low: 0.9, high: 0.15, smooth };
    kernels().alongLine(mine, { x, y, z }, line);
    rulesTwin.alongLine(twins, { x, y, z }, line);
    expect(mine).toEqual(twins);
    expect(Math.max(...mine)).toBe(Math.fround(0.9));
    expect(Math.min(...mine)).toBe(Math.fround(0.15));
  }
});

test('levels hold at both ends, and turn round where black lies above white', () => {
  for (const [black, white] of [
    [0.2, 0.6],
    [0.8, 0.3],
  ]) {
    const data = some(64);
    const twins = data.slice();
    const by = { type: 'levels' as const, black, white, gamma: 1, outBlack: 0.1, outWhite: 0.7 };
    const wanted = data.map((v) => 0.1 + (0.7 - 0.1) * Math.min(1, Math.max(0, (v - black) / (white - black))));
    kernels().stretched(data, black, white - black, 0.1, 0.7 - 0.1);
    rulesTwin.stretched(twins, black, white - black, 0.1, 0.7 - 0.1);
    expect(data).toEqual(twins);
    expect(data).toEqual(wanted);
    // Of a count that is no multiple of four, by the filter itself.
    const few = Float32Array.of(0.5, 0, 1, 1, 1, 1);
    FILTERS.levels.apply!(few, 3, 'value', by);
    expect(few[0]).toBe(Math.fround(0.1 + (0.7 - 0.1) * Math.min(1, Math.max(0, (0.5 - black) / (white - black)))));
  }
});

test.each([0.1, 0.5, 1 / 1.1, 1.7, 10])(
  'levels to a power of %f: the bits of the twin, right to some ulp, and whole at the ends',
  (power) => {
    // Over many octaves, and what is held at either end.
    const data = Float32Array.from({ length: 4000 }, (_, i) => (i % 9 === 0 ? i / 4000 : Math.max(1e-30, random() ** 12)));
    data.set([0, 1, -1, 2, 1e-30, 0.99999994, 0.5, 2 ** -24]);
    const [mine, twins] = [data.slice(), data.slice()];
    kernels().powered(mine, 0, 1, 0, 1, powersOf(power));
    rulesTwin.powered(twins, 0, 1, 0, 1, powersOf(power));
    expect(mine).toEqual(twins);
    expect([...mine.subarray(0, 4)]).toEqual([0, 1, 0, 1]);
    data.forEach((v, i) => {
      const wanted = Math.min(1, Math.max(0, v)) ** power;
      const straight = Math.abs(power * (power - 1)) * 7.5e-9;
      expect(Math.abs(mine[i] - wanted)).toBeLessThanOrEqual((2.5e-7 + straight) * wanted + 1.2e-38);
    });
    // It never falls.
    const rising = data.toSorted();
    kernels().powered(rising, 0, 1, 0, 1, powersOf(power));
    for (let i = 1; i < rising.length; i++) expect(rising[i] - rising[i - 1]).toBeGreaterThanOrEqual(-6e-8);
    const part = data.slice(0, 400);
    const same = part.slice();
    kernels().powered(part, 0.2, -0.6, 0.9, -0.3, powersOf(power));
    rulesTwin.powered(same, 0.2, -0.6, 0.9, -0.3, powersOf(power));
    expect(part).toEqual(same);
  },
);

test.each([
  ['one stop', [0.4]],
  ['two', [0.2, 0.9]],
  ['two at one place', [0, 0.5, 0.5, 1]],
  ['sixteen', Array.from({ length: 16 }, (_, k) => k / 15)],
])('a ramp of %s', (_, places) => {
  const stops = places.map((at) => ({ at, colour: [random(), random(), random()] }));
  // On the stops themselves too, and beyond the ends.
  const values = Float32Array.from({ length: 256 }, (_v, k) => (k % 5 === 0 ? places[k % places.length] : random() * 1.4 - 0.2));
  const out = new Float32Array(3 * 256);
  rampOver(stops, values, 256, out);
  values.forEach((v, i) => {
    const colour = [0, 0, 0];
    rampAt(stops, v, colour);
    for (let c = 0; c < 3; c++) expect(Math.abs(out[c * 256 + i] - colour[c])).toBeLessThan(1e-6);
  });
  // A count that is no multiple of four goes the plain way.
  const few = new Float32Array(9);
  rampOver(stops, values, 3, few);
  for (let i = 0; i < 3; i++) expect(few[3 + i]).toBeCloseTo(out[256 + i], 6);
});

test('pieces of a ramp give the bits of the twin, and more of them than there is room for are refused', () => {
  const pieces: RampPiece[] = [0.1, 0.30000001, 0.7, Infinity].map((high) => ({
    high,
    colour: [random(), random(), random()],
    gain: [random(), random(), random()],
  }));
  const values = some(400);
  const [mine, twins] = [new Float32Array(1200), new Float32Array(1200)];
  kernels().alongRamp(mine, values, pieces);
  rulesTwin.alongRamp(twins, values, pieces);
  expect(mine).toEqual(twins);
  expect(() => kernels().alongRamp(mine, values, new Array<RampPiece>(40).fill(pieces[3]))).toThrow(/40 pieces/);
});

import { srgbToLinear, linearToSrgb } from '../colour/transfer';
import { FILTERS, FILTER_TYPES, filterSchema, type Filter } from '../strata/filters';
import { gaussianSide } from '../strata/filters/blur';
import { monotoneCurve } from '../strata/filters/curves';
import type { MapKind } from '../strata/filters/filter';
import { rampAt } from '../strata/filters/ramp';
import { seededRandom } from '../testing/models';

/** One texel through a point filter: values, then alpha. */
function through(filter: Filter, values: number[], kind: MapKind = values.length === 4 ? 'colour' : 'value'): number[] {
  const data = Float32Array.from(values);
  FILTERS[filter.type].apply!(data, 1, kind, filter);
  return [...data];
}

describe('adjustments', () => {
  test.each(FILTER_TYPES)('%s starts as its own schema has it, and leaves alpha alone', (type) => {
    const { start, apply } = FILTERS[type];
    expect(filterSchema.parse(start)).toEqual(start);
    if (apply) expect(through(start, [0.2, 0.5, 0.7, 0.3])[3]).toBeCloseTo(0.3, 6);
  });

  test.each(['levels', 'curve', 'contrast', 'hue'] as const)('%s changes nothing as it starts', (type) => {
    const random = seededRandom(1);
    for (let n = 0; n < 40; n++) {
      const texel = [random(), random(), random(), 1];
      through(FILTERS[type].start, texel).forEach((v, k) => expect(v).toBeCloseTo(texel[k], 4));
    }
  });

  test('levels: black and white go to the ends, the middle follows the gamma, the range goes out as asked', () => {
    const levels: Filter = { type: 'levels', black: 0.2, white: 0.8, gamma: 2, outBlack: 0.1, outWhite: 0.9 };
    expect(through(levels, [0.2, 1])[0]).toBeCloseTo(0.1, 4);
    expect(through(levels, [0.8, 1])[0]).toBeCloseTo(0.9, 4);
    expect(through(levels, [0.5, 1])[0]).toBeCloseTo(0.1 + 0.8 * Math.sqrt(0.5), 4);
  });

  test('a curve goes through its points, never overshoots, and a straight one is straight', () => {
    const points: [number, number][] = [
      [0, 0.1],
      [0.3, 0.8],
      [0.5, 0.8],
      [1, 0.2],
    ];
    const curve = monotoneCurve(points);
    for (const [x, y] of points) expect(curve(x)).toBeCloseTo(y, 12);
    for (let x = 0; x <= 1; x += 0.01) expect(curve(x)).toBeLessThanOrEqual(0.8 + 1e-12);
    expect(curve(0.4)).toBeCloseTo(0.8, 12);
    const line = monotoneCurve([
      [0, 0],
      [0.4, 0.4],
      [1, 1],
    ]);
    for (let x = 0; x <= 1; x += 0.05) expect(line(x)).toBeCloseTo(x, 12);
  });

  test('grey stays grey under hue and saturation; a full turn of hue comes back; −100 % is grey', () => {
    through({ type: 'hue', hue: 140, saturation: 0.5, lightness: 0 }, [0.4, 0.4, 0.4, 1])
      .slice(0, 3)
      .forEach((v) => expect(v).toBeCloseTo(0.4, 3));
    const turned = through({ type: 'hue', hue: 120, saturation: 0, lightness: 0 }, [0.5, 0.45, 0.4, 1]);
    const back = through({ type: 'hue', hue: -120, saturation: 0, lightness: 0 }, turned);
    [0.5, 0.45, 0.4].forEach((v, k) => expect(back[k]).toBeCloseTo(v, 3));
    const grey = through({ type: 'hue', hue: 0, saturation: -1, lightness: 0 }, [0.9, 0.3, 0.1, 1]);
    expect(grey[0]).toBeCloseTo(grey[1], 3);
    expect(grey[1]).toBeCloseTo(grey[2], 3);
  });

  test('inverting twice is nothing; on normals the slope turns and the direction outward stays', () => {
    const texel = [0.2, 0.7, 0.9, 1];
    through({ type: 'invert' }, through({ type: 'invert' }, texel)).forEach((v, k) => expect(v).toBeCloseTo(texel[k], 6));
    expect(through({ type: 'invert' }, [0.3, 0.6, 0.9, 1], 'normal').map((v) => Math.round(v * 10) / 10)).toEqual([
      0.7, 0.4, 0.9, 1,
    ]);
  });

  test('a ramp has its colours at its stops, mixes between them, and with one stop is that colour', () => {
    const out = [0, 0, 0];
    const stops = [
      { at: 0.25, colour: [1, 0, 0] as [number, number, number] },
      { at: 0.75, colour: [0, 0, 1] as [number, number, number] },
    ];
    rampAt(stops, 0.5, out);
    expect(out).toEqual([0.5, 0, 0.5]);
    rampAt(stops, 0, out);
    expect(out).toEqual([1, 0, 0]);
    rampAt(stops.slice(0, 1), 0.9, out);
    expect(out).toEqual([1, 0, 0]);
  });

  test('a Gaussian sums to one and has its standard deviation', () => {
    for (const sigma of [0.7, 3, 20]) {
      const side = gaussianSide(sigma);
      let sum = side[0];
      let variance = 0;
      for (let k = 1; k < side.length; k++) {
        sum += 2 * side[k];
        variance += 2 * side[k] * k * k;
      }
      expect(sum).toBeCloseTo(1, 5);
      // Cut at 3σ it is a little narrower.
      expect(Math.sqrt(variance) / sigma).toBeGreaterThan(0.96);
      expect(Math.sqrt(variance) / sigma).toBeLessThan(1.01);
    }
  });

  test('colour is blurred in linear light: half white and half black is the grey of half the light', () => {
    const [first, x, y] = FILTERS.blur.passes!({ type: 'blur', sigma: 40 }, { width: 8, height: 8 });
    const width = 8 + 2 * x.rx;
    const window = new Float32Array(width * 8 * 4).fill(1);
    for (let row = 0; row < 8; row++)
      for (let i = 0; i < width / 2; i++) for (let c = 0; c < 3; c++) window[c * width * 8 + row * width + i] = 0;
    const where = { x: 0, y: 0, sheet: { width: 8, height: 8, wrapU: false, wrapV: false }, aux: null };
    const linear = new Float32Array(window.length);
    first.run(window, width, 8, 'colour', linear, true, where);
    const across = new Float32Array(8 * 8 * 4);
    x.run(linear, 8, 8, 'colour', across, true, where);
    // Rows are all alike: the second pass over copies of one of them only encodes.
    const tall = new Float32Array(8 * (8 + 2 * y.ry) * 4);
    for (let p = 0; p < 4; p++)
      for (let r = 0; r < 8 + 2 * y.ry; r++) tall.set(across.subarray(p * 64, p * 64 + 8), p * 8 * (8 + 2 * y.ry) + r * 8);
    const out = new Float32Array(8 * 8 * 4);
    y.run(tall, 8, 8, 'colour', out, true, where);
    expect(srgbToLinear((out[3] + out[4]) / 2)).toBeCloseTo(0.5, 2);
    expect(out[3]).toBeCloseTo(linearToSrgb(0.5), 1);
    expect(out[3 * 64]).toBe(1);
  });
});

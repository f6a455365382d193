import { srgbToLinear, linearToSrgb } from '../colour/transfer';
import { FILTERS, FILTER_TYPES, filterSchema, type Filter, type FilterOf } from '../kinds/filters';
import { getKernels } from '../compute';
import { gaussianSide, widePlan } from '../kinds/filters/gaussian';
import { monotoneCurve } from '../kinds/filters/curves';
import type { MapKind } from '../kinds/filters/filter';
import { rampAt } from '../kinds/filters/ramp';
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

  test.each(['levels', 'curve', 'contrast', 'hue', 'balance'] as const)('%s changes nothing as it starts', (type) => {
    const random = seededRandom(1);
    for (let n = 0; n < 40; n++) {
      const texel = [random(), random(), random(), 1];
      through(FILTERS[type].start, texel).forEach((v, k) => expect(v).toBeCloseTo(texel[k], 4));
    }
  });

  test('colour balance pushes each range by its share, keeps how light it is where asked, and never leaves 0 … 1', () => {
    const start = FILTERS.balance.start as FilterOf<'balance'>;
    const plain = { ...start, keep: 'nothing' } as const;
    // Half grey: a quarter of it shadow, half middle, a quarter light; a full push goes half of the way.
    expect(through({ ...plain, middleRed: 1 }, [0.5, 0.5, 0.5, 1])[0]).toBeCloseTo(0.5 + 0.5 * 0.5, 5);
    expect(through({ ...plain, shadowsBlue: -1 }, [0.5, 0.5, 0.5, 1])[2]).toBeCloseTo(0.5 - 0.5 * 0.25, 5);
    // Black is all shadow, white all light.
    expect(through({ ...plain, shadowsGreen: 0.6, lightsGreen: -1 }, [0, 0, 0, 1])[1]).toBeCloseTo(0.3, 5);
    expect(through({ ...plain, shadowsGreen: -1, lightsGreen: -0.6 }, [1, 1, 1, 1])[1]).toBeCloseTo(0.7, 5);
    const random = seededRandom(9);
    for (let n = 0; n < 60; n++) {
      const texel = [random(), random(), random(), 1];
      const pushed = { ...start, shadowsRed: random() * 2 - 1, middleGreen: random() * 2 - 1, lightsBlue: random() * 2 - 1 };
      const out = through(pushed, texel);
      const light = (c: number[]) => 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2];
      expect(light(out)).toBeCloseTo(light(texel), 4);
      for (const v of out) expect(v >= 0 && v <= 1.000001).toBe(true);
    }
  });

  test('levels and curves keep what float32 holds: a step of a millionth stays one', () => {
    // Between two codes of 16 bits, which lie 1.5e-5 apart: rounded to them the slope would be 0 or many times itself.
    const values = Array.from({ length: 32 }, (_, n) => 0.5 + n * 1e-6);
    const data = (filter: Filter) => {
      const out = Float32Array.from([...values, ...values.map(() => 1)]);
      FILTERS[filter.type].apply!(out, 32, 'value', filter);
      return out;
    };
    const stretched = data({ type: 'levels', black: 0.4, white: 0.6, gamma: 1, outBlack: 0, outWhite: 1 });
    values.forEach((v, n) => expect(Math.abs(stretched[n] - (Math.fround(v) - 0.4) / 0.2)).toBeLessThan(2e-7));
    for (const gamma of [0.5, 2.2, 10]) {
      const bent = data({ type: 'levels', black: 0, white: 1, gamma, outBlack: 0, outWhite: 1 });
      values.forEach((v, n) => expect(Math.abs(bent[n] - Math.fround(v) ** (1 / gamma))).toBeLessThan(2e-7));
    }
    const tiny = Float32Array.from([1e-9, 1e-5, 1 / 300, 0, 1, 1, 1, 1]);
    FILTERS.levels.apply!(tiny, 4, 'value', { type: 'levels', black: 0, white: 1, gamma: 4, outBlack: 0, outWhite: 1 } as never);
    [1e-9, 1e-5, 1 / 300, 0].forEach((v, n) => expect(Math.abs(tiny[n] - v ** 0.25)).toBeLessThan(1e-6));
    const points: [number, number][] = [
      [0, 0.1],
      [0.4, 0.7],
      [1, 0.8],
    ];
    const curved = data({ type: 'curve', points });
    const exact = monotoneCurve(points);
    values.forEach((v, n) => expect(Math.abs(curved[n] - exact(Math.fround(v)))).toBeLessThan(2e-7));
  });

  test('levels: black and white go to the ends, the middle follows the gamma, the range goes out as asked', () => {
    const levels: Filter = { type: 'levels', black: 0.2, white: 0.8, gamma: 2, outBlack: 0.1, outWhite: 0.9 };
    // The square root of what float32 makes of 0.2 less 0.2.
    expect(through(levels, [0.2, 1])[0]).toBeCloseTo(0.1, 3);
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
      // Cut at 4σ it is narrower by 5e-4 of its variance.
      expect(Math.sqrt(variance) / sigma).toBeGreaterThan(0.9985);
      expect(Math.sqrt(variance) / sigma).toBeLessThan(1.01);
    }
  });

  test('wide blurs go by samples: the Gaussian itself to 1/5,000 (its tails are cut in another way), along both axes, with both kernels', () => {
    const random = seededRandom(5);
    for (const sigma of [8, 13, 20, 64, 200]) {
      const plan = widePlan(sigma)!;
      const [width, height] = [128, 8];
      const row = width + 2 * plan.radius;
      // A step, a peak, and noise.
      const line = Float32Array.from({ length: row }, (_, i) => (i < row / 2 ? 0 : 0.8) + 0.2 * random());
      line[plan.radius + 20] = 1;
      const window = Float32Array.from({ length: row * height }, (_, i) => line[i % row]);
      const tall = Float32Array.from({ length: row * height }, (_, i) => line[Math.floor(i / height)]);
      const [a, b] = (['wasm', 'twin'] as const).map((name) => {
        const out = new Float32Array(width * height);
        getKernels(name).blurWide(window, width, height, plan, 'x', out);
        const down = new Float32Array(width * height);
        getKernels(name).blurWide(tall, height, width, plan, 'y', down);
        return { out, down };
      });
      let [kernels, axes, exact] = [0, 0, 0];
      // The samples' Gaussian is cut at 4σ: so is this one, at as many texels.
      const cut = Math.min(plan.radius, Math.round((plan.side.length - 1) * plan.factor));
      const weights = Array.from({ length: 2 * cut + 1 }, (_, k) => Math.exp(-((k - cut) ** 2) / (2 * sigma * sigma)));
      const sum = weights.reduce((p, q) => p + q);
      for (let i = 0; i < width; i++) {
        const wanted = weights.reduce((v, w, k) => v + (w / sum) * line[plan.radius + i + k - cut], 0);
        exact = Math.max(exact, Math.abs(a.out[i] - wanted));
        axes = Math.max(axes, Math.abs(a.out[i] - a.down[i * height]));
        kernels = Math.max(kernels, Math.abs(a.out[i] - b.out[i]), Math.abs(a.down[i * height] - b.down[i * height]));
      }
      expect(kernels).toBeLessThan(1 / 65535);
      expect(axes).toBeLessThan(1 / 65535);
      expect([sigma, exact < 2e-4 ? 'close' : exact]).toEqual([sigma, 'close']);
    }
  });

  test('an even plane stays even, and a plan has the standard deviation that it was made for', () => {
    for (const sigma of [8, 30, 256]) {
      const plan = widePlan(sigma)!;
      const width = 128;
      const row = width + 2 * plan.radius;
      const out = new Float32Array(width * 4);
      getKernels('wasm').blurWide(new Float32Array(row * 4).fill(0.3), width, 4, plan, 'x', out);
      expect(Math.max(...out.map((v) => Math.abs(v - 0.3)))).toBeLessThan(1e-6);
      // What one bright texel becomes has that texel's place and this deviation.
      const reach = plan.radius;
      let [mass, spread] = [0, 0];
      for (let at = -reach; at < width + reach; at++) {
        const line = new Float32Array(row * 4);
        line[at + reach] = 1;
        getKernels('wasm').blurWide(line, width, 4, plan, 'x', out);
        mass += out[60];
        spread += out[60] * (at - 60) ** 2;
      }
      expect(mass).toBeCloseTo(1, 4);
      // Cut at 4σ it is a little narrower.
      expect(Math.sqrt(spread / mass) / sigma).toBeGreaterThan(0.998);
      expect(Math.sqrt(spread / mass) / sigma).toBeLessThan(1.005);
    }
  });

  test('colour is blurred in linear light: half white and half black is the grey of half the light', () => {
    const side = 64;
    const [first, x, y] = FILTERS.blur.passes!({ type: 'blur', sigma: 40 }, { width: side, height: side });
    const width = side + 2 * x.rx;
    const window = new Float32Array(width * side * 4).fill(1);
    for (let row = 0; row < side; row++)
      for (let i = 0; i < width / 2; i++) for (let c = 0; c < 3; c++) window[c * width * side + row * width + i] = 0;
    const where = { x: 0, y: 0, sheet: { width: side, height: side, wrapU: false, wrapV: false }, aux: null };
    const linear = new Float32Array(window.length);
    first.run(window, width, side, 'colour', linear, true, where);
    const texels = side * side;
    const across = new Float32Array(texels * 4);
    x.run(linear, side, side, 'colour', across, true, where);
    // Rows are all alike: the second pass over copies of one of them only encodes.
    const high = side + 2 * y.ry;
    const tall = new Float32Array(side * high * 4);
    for (let p = 0; p < 4; p++)
      for (let r = 0; r < high; r++) tall.set(across.subarray(p * texels, p * texels + side), (p * high + r) * side);
    const out = new Float32Array(texels * 4);
    y.run(tall, side, side, 'colour', out, true, where);
    expect(srgbToLinear((out[31] + out[32]) / 2)).toBeCloseTo(0.5, 2);
    expect(out[31]).toBeCloseTo(linearToSrgb(0.5), 1);
    expect(out[3 * texels]).toBe(1);
  });
});

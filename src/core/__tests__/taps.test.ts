/** Reading placed pictures: the kernels against their twin, and against reading texel by texel. */
import '../colour/blend';
import { getKernels } from '../compute';
import { MOST_READS, TABLE_BINS, type Pixels } from '../../kernels/taps';
import { enlarge, MipPyramid } from '../tile/mips';
import { TILE_TEXELS } from '../tile/tiles';
import { seededRandom } from '../testing/models';

const [wasm, twin] = [getKernels('wasm'), getKernels('twin')];

function pixels(size: 1 | 4, width: number, height: number, seed: number): Pixels {
  return {
    size,
    length: (width + 1) * (height + 1) * size,
    fill: (into) => {
      const random = seededRandom(seed);
      const plain = Array.from({ length: width * height * size }, () => Math.round(random() * 65535 - 32768));
      for (let y = 0; y <= height; y++)
        for (let x = 0; x <= width; x++)
          for (let c = 0; c < size; c++)
            into[(y * (width + 1) + x) * size + c] = plain[((y % height) * width + (x % width)) * size + c];
    },
  };
}

/** Places all over, some left out; as many as no multiple of four. */
function places(seed: number, count: number) {
  const random = seededRandom(seed);
  const numbers = (f: () => number) => Float32Array.from({ length: count }, f);
  return {
    x: numbers(() => random() * 12 - 4),
    y: numbers(() => random() * 12 - 4),
    weight: numbers(() => (random() < 0.3 ? 0 : random())),
  };
}

const largest = (a: Float32Array, b: Float32Array): number => a.reduce((m, v, i) => Math.max(m, Math.abs(v - b[i])), 0);

describe.each([
  ['the picture as it is', 1, 0],
  ['three patches', 3, 1],
  ['patches and the picture', 4, 0.4],
] as const)('%s', (_, reads, strength) => {
  const [width, height] = [37, 23];
  const grid = { cells: [0, 6] as const, per: [2, 3] as const, strength };
  const sets = [wasm, twin].map(({ pictures }) => {
    const set = pictures.tapSet();
    pictures.clearTaps(set, reads);
    // Two projections, one after the other.
    for (const where of [places(3, 1001), { ...places(4, 66), weight: null }])
      if (reads === 1) pictures.addPlain(set, where, width, height);
      else pictures.addPatches(set, where, width, height, grid);
    return set;
  });

  test('taps are the same, and their weights sum to their shares', () => {
    const [a, b] = sets;
    expect(a.count).toBe(b.count);
    expect(a.count).toBeGreaterThan(700);
    const [v, w] = [a.views(), b.views()];
    expect(largest(v.seen, w.seen)).toBe(0);
    expect(v.seen.reduce((p, q) => p + q)).toBeCloseTo(
      v.share.subarray(0, a.count).reduce((p, q) => p + q),
      1,
    );
    let worst = 0;
    let sums = 0;
    for (let t = 0; t < a.count; t++) {
      if (v.texel[t] !== w.texel[t] || v.share[t] !== w.share[t]) worst = 1;
      worst = Math.max(worst, Math.abs(v.scale[t] - w.scale[t]));
      let sum = 0;
      for (let k = 0; k < reads; k++) {
        const o = t * MOST_READS + k;
        if (v.at[o] !== w.at[o] || (reads > 1 && v.turn[o] !== w.turn[o])) worst = 1;
        for (let q = 0; q < 4; q++) {
          worst = Math.max(worst, Math.abs(v.weights[o * 4 + q] - w.weights[o * 4 + q]));
          if (k < 3) sum += v.weights[o * 4 + q];
        }
      }
      sums = Math.max(sums, Math.abs(sum - 1));
    }
    expect(worst).toBeLessThan(1e-6);
    expect(sums).toBeLessThan(1e-5);
  });

  test.each([
    ['plain', false],
    ['through tables', true],
  ] as const)('values and colours, %s, are equal to 1/65,535', (_how, tables) => {
    const random = seededRandom(9);
    const steps = tables ? 0.01 : 0;
    const table = tables ? Float32Array.from({ length: (TABLE_BINS + 1) * 3 }, () => random() * 1e-3) : null;
    for (let i = 1; table && i < table.length; i++) table[i] = i % (TABLE_BINS + 1) === 0 ? 0 : table[i - 1] + table[i];
    const matrix = Float32Array.from({ length: 16 }, () => (tables ? random() * 0.5 : random() / 65535));
    matrix.set([0.2, 0.3, 0.1], 12);
    const [values, colours] = [pixels(1, width, height, 1), pixels(4, width, height, 2)];
    const read = [wasm, twin].map(({ pictures }, n) => {
      const out = new Float32Array(TILE_TEXELS * 3);
      const one = new Float32Array(TILE_TEXELS);
      const finish = {
        table: table && table.subarray(0, TABLE_BINS + 1),
        steps,
        by: tables ? 1 : 1 / 65535,
        lift: tables ? 0 : 0.5,
      };
      pictures.readValues(sets[n], values, width + 1, finish, one);
      pictures.readColours(sets[n], colours, width + 1, { table, steps, matrix }, out);
      return { one, out };
    });
    expect(largest(read[0].one, read[1].one)).toBeLessThan(1 / 65535);
    expect(largest(read[0].out, read[1].out)).toBeLessThan(1 / 65535);
    expect(Math.max(...read[0].one) - Math.min(...read[0].one)).toBeGreaterThan(0.3);
  });
});

test('a read in the middle of a pixel is that pixel, and beyond the border the picture begins anew', () => {
  const [width, height] = [8, 4];
  const { pictures } = wasm;
  const set = pictures.tapSet();
  pictures.clearTaps(set, 1);
  const source = pixels(1, width, height, 5);
  const codes = pictures.pixelsOf(source).slice();
  const n = width * height;
  const at = (shift: number) => ({
    x: Float32Array.from({ length: n }, (_, i) => ((i % width) + 0.5) / width + shift),
    y: Float32Array.from({ length: n }, (_, i) => (Math.floor(i / width) + 0.5) / height - shift),
    weight: null,
  });
  for (const shift of [0, 3]) {
    pictures.clearTaps(set, 1);
    pictures.addPlain(set, at(shift), width, height);
    const out = new Float32Array(TILE_TEXELS);
    pictures.readValues(set, source, width + 1, { table: null, steps: 0, by: 1 / 65535, lift: 32768 / 65535 }, out);
    for (let i = 0; i < n; i++) {
      const code = codes[Math.floor(i / width) * (width + 1) + (i % width)];
      expect(out[i] * 65535).toBeCloseTo(code + 32768, 0);
    }
  }
});

test('places on a box are the same with both kernels, their weights sum to 1, and nothing lies off the model', () => {
  const random = seededRandom(12);
  const n = 4096;
  const texels = {
    face: Int32Array.from({ length: n }, () => (random() < 0.3 ? -1 : Math.floor(random() * 50))),
    position: Float32Array.from({ length: n * 3 }, () => random() * 4 - 2),
    normal: Int8Array.from({ length: n * 3 }, (_, i) => (i < 30 ? [127, 0, 0, 0, -127, 0][i % 6] : random() * 254 - 127)),
  };
  const shares = Float32Array.from({ length: 128 * 128 }, (_, i) => {
    const [most, own] = [i >> 7, i & 127];
    return own > most || own < most * 0.6 ? 0 : (own / most) ** 5;
  });
  const how = [0.1, -0.2, 0.3, 2.5, 0.8, 0.6, 0.25, -0.6, 0.8, -1];
  const made = [wasm, twin].map((k) => {
    const [x, y, weight] = [0, 1, 2].map(() => new Float32Array(n * 3).fill(9));
    return { counts: k.boxPlaces(texels, shares, how, x, y, weight), x, y, weight };
  });
  expect(made[0].counts).toEqual(made[1].counts);
  for (const plane of ['x', 'y', 'weight'] as const) expect(largest(made[0][plane], made[1][plane])).toBeLessThan(1e-6);
  const { weight, counts } = made[0];
  expect(counts[3]).toBeGreaterThan(0);
  let worst = 0;
  for (let i = 0; i < n; i++) {
    const sum = weight[i] + weight[n + i] + weight[2 * n + i];
    worst = Math.max(worst, Math.abs(sum - (texels.face[i] < 0 ? 0 : 1)));
  }
  expect(worst).toBeLessThan(1e-6);
});

describe('making larger', () => {
  const picture = (width: number, height: number, seed: number) => {
    const random = seededRandom(seed);
    return { width, height, data: Uint8Array.from({ length: width * height * 4 }, () => random() * 256) };
  };

  test.each([
    [16, 12, 128, 96, { x: 0, y: 0, width: 128, height: 96 }],
    [16, 12, 130, 97, { x: 30, y: 11, width: 53, height: 40 }],
    [1, 1, 20, 20, { x: 3, y: 3, width: 9, height: 2 }],
    [64, 64, 16, 16, { x: 0, y: 0, width: 16, height: 16 }],
  ])('%i × %i to %i × %i is the same with both kernels and stays within what it is made from', (w, h, tw, th, rect) => {
    const from = picture(w, h, w + h);
    const across = (rect.width + 3) & ~3;
    const between = (first: number, count: number, small: number, large: number) => {
      const at = Array.from({ length: count }, (_, n) =>
        Math.min(small - 1, Math.max(0, ((first + n + 0.5) * small) / large - 0.5)),
      );
      return { left: Int32Array.from(at, Math.floor), share: Int32Array.from(at, (v) => (v % 1) * 256) };
    };
    const columns = between(rect.x, across, w, tw);
    const rows = between(rect.y, rect.height, h, th);
    const [a, b] = [wasm, twin].map((k) => {
      const out = new Uint8Array(across * rect.height * 4);
      k.enlarge(from.data, w, columns, rows, out);
      return out;
    });
    expect(Buffer.compare(a, b)).toBe(0);
    // Any part is the same as that part of the whole.
    const [part, whole] = [rect, { x: 0, y: 0, width: tw, height: th }].map((r) => enlarge(from, { width: tw, height: th }, r));
    expect(part).toHaveLength(rect.width * rect.height * 4);
    for (let y = 0; y < rect.height; y++)
      expect(part.subarray(y * rect.width * 4, (y + 1) * rect.width * 4)).toEqual(
        whole.subarray(((rect.y + y) * tw + rect.x) * 4, ((rect.y + y) * tw + rect.x + rect.width) * 4),
      );
  });

  test('an even picture fills every level of a pyramid evenly', () => {
    const pyramid = new MipPyramid(256, 128, 'srgb');
    const whole = { x: 0, y: 0, width: 256, height: 128 };
    const even = (v: number) => ({ width: 32, height: 16, data: new Uint8Array(32 * 16 * 4).fill(v) });
    expect(pyramid.enlarge(even(99), whole)!.rects).toEqual([]);
    for (let n = 1; n < pyramid.sizes.length; n++) expect(pyramid.level(n).data.every((v) => v === 99)).toBe(true);
    const { rects } = pyramid.enlarge(even(55), whole)!;
    expect(rects).toHaveLength(pyramid.sizes.length);
    for (let n = 1; n < pyramid.sizes.length; n++) expect(pyramid.level(n).data.every((v) => v === 55)).toBe(true);
  });
});

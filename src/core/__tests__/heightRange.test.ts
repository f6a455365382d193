/** Heights add up beyond 0 … 1 and are held once; edges grow as soft as they are; 8 bits with a pattern keep what lies between. */
import { chooseKernels } from '../compute';
import { quantise } from '../deliver/codes';
import { newCoatLayer, newGroup, newPaintedLayer, newSheet } from '../document/factory';
import type { Layer } from '../document/schema';
import { FILTERS } from '../kinds/filters';
import { evaluateRegion, evaluateWhole16, valueAt } from '../strata/evaluate';
import { seededRandom } from '../testing/models';
import { tilesFromPicture, TileStore } from '../tile/tiles';

const SIZE = 128;
const heights = (...values: number[]): Layer[] => values.map((v, n) => newCoatLayer(`c${n}`, `C${n}`, { height: [v + 0.5] }));

/** Paint of varying coverage, so that nothing is even. */
function painted(store: TileStore, id: string, value: number): Layer {
  const pixels = new Uint16Array(SIZE * SIZE * 2);
  for (let i = 0; i < SIZE * SIZE; i++) pixels.set([value * 65535 + 0.5, i % SIZE < 64 ? 65535 : 0], i * 2);
  for (const [tile, data] of tilesFromPicture(pixels, SIZE, SIZE, 2)) store.set(`${id}/height`, tile, { data, hash: null });
  return newPaintedLayer(id, id, ['height']);
}

describe.each(['wasm', 'twin'] as const)('heights (%s)', (kernels) => {
  beforeAll(() => void chooseKernels(kernels));
  afterAll(() => void chooseKernels('wasm'));

  test('+0.4 +0.4 −0.4 is +0.4, by coats, by paint, and in a group', () => {
    const sheet = newSheet('s', 'S', SIZE, SIZE);
    sheet.layers = heights(0.4, 0.4, -0.4);
    expect(valueAt({ sheet, store: new TileStore() }, 'height', 3, 3)[0]).toBeCloseTo(0.9, 6);
    const store = new TileStore();
    const paint = [painted(store, 'a', 0.9), painted(store, 'b', 0.9), painted(store, 'd', 0.1)];
    const flat = { ...sheet, layers: paint };
    expect(valueAt({ sheet: flat, store }, 'height', 3, 3)[0]).toBeCloseTo(0.9, 4);
    expect(valueAt({ sheet: flat, store }, 'height', 100, 3)[0]).toBeCloseTo(0.5, 6);
    const group = { ...newGroup('g', 'G'), isolated: true } as Layer;
    const grouped = { ...sheet, layers: [...paint.map((l) => ({ ...l, parent: 'g' })), group] };
    expect(valueAt({ sheet: grouped, store }, 'height', 3, 3)[0]).toBeCloseTo(0.9, 4);
  });

  test('what is too high at the end is held to 1, in every way that it is read', () => {
    const sheet = newSheet('s', 'S', SIZE, SIZE);
    const store = new TileStore();
    sheet.layers = [painted(store, 'a', 0.95), painted(store, 'b', 0.95)];
    const all = evaluateWhole16({ sheet, store }, 'height');
    expect([all[3], all[100]]).toEqual([65535, 32768]);
    const out = new Float32Array(16);
    evaluateRegion({ sheet, store }, 'height', 0, 0, 4, 4, out);
    expect(Math.max(...out)).toBe(1);
  });
});

describe('growing', () => {
  const run = (line: number[], by: number) => {
    const passes = FILTERS.grow.passes!({ type: 'grow', by, soften: 0 }, { width: SIZE, height: SIZE });
    const [{ rx, ry, run }] = passes;
    const across = 32 + 2 * rx;
    const window = new Float32Array(across * (8 + 2 * ry) * 2).fill(1);
    for (let y = 0; y < 8 + 2 * ry; y++)
      for (let x = 0; x < across; x++) window[y * across + x] = line[Math.min(31, Math.max(0, x - rx))];
    const out = new Float32Array(32 * 8 * 2);
    run(window, 32, 8, 'value', out, false, { x: 0, y: 0, sheet: newSheet('s', 'S', 32, 32), aux: null });
    return out.subarray(0, 32);
  };
  const soft = Array.from({ length: 32 }, (_, x) => Math.min(1, Math.max(0, (20 - x) / 8)));

  test('a soft edge is moved as it is, out and in, by whole and by half texels', () => {
    const shifted = (by: number) => soft.map((_, x) => Math.min(1, Math.max(0, (20 + by - x) / 8)));
    for (const by of [1, 5, 2.5, -3, -4.5])
      run(soft, by).forEach((v, x) => {
        if (x > 4 && x < 27) expect(v).toBeCloseTo(shifted(by)[x], 5);
      });
  });

  test('against the highest of all values within the disc, tried one by one', () => {
    const random = seededRandom(9);
    const r = 5;
    const [{ run: pass }] = FILTERS.grow.passes!({ type: 'grow', by: r, soften: 0 }, { width: SIZE, height: SIZE });
    const side = 20 + 2 * r;
    const window = Float32Array.from({ length: side * side * 2 }, (_, i) => (i < side * side ? random() ** 4 : 1));
    const out = new Float32Array(20 * 20 * 2);
    pass(window, 20, 20, 'value', out, false, { x: 0, y: 0, sheet: newSheet('s', 'S', 32, 32), aux: null });
    for (let y = 0; y < 20; y++)
      for (let x = 0; x < 20; x++) {
        let most = 0;
        for (let dy = -r; dy <= r; dy++)
          for (let dx = -r; dx <= r; dx++)
            if (dx * dx + dy * dy <= r * r) most = Math.max(most, window[(y + r + dy) * side + x + r + dx]);
        expect(out[y * 20 + x]).toBe(most);
      }
  });
});

describe('8 bits', () => {
  const ramp = Float32Array.from({ length: 64 * 64 }, (_, i) => 0.3 + (i % 64) / 64 / 255);

  test('with a pattern the mean over 8 × 8 texels is the value to a 64th of a step; whole codes stay', () => {
    const even = new Float32Array(64 * 64).fill(0.3 + 0.4 / 255);
    const { data } = quantise(even, 64, 64, 1, { bits: 8, dither: true });
    const mean = (data as Uint8Array).reduce((a, b) => a + b, 0) / data.length / 255;
    expect(Math.abs(mean - even[0])).toBeLessThan(1 / 64 / 255);
    const whole = quantise(
      Float32Array.from({ length: 256 }, (_, i) => i / 255),
      16,
      16,
      1,
      { bits: 8, dither: true },
    );
    expect([...whole.data]).toEqual(Array.from({ length: 256 }, (_, i) => i));
  });

  test('without it a slow ramp is two bands, with it it is as fine as the pattern', () => {
    const kinds = (dither: boolean) => {
      const { data } = quantise(ramp, 64, 64, 1, { bits: 8, dither });
      return new Set(Array.from({ length: 64 }, (_, x) => Array.from({ length: 8 }, (_, y) => data[y * 64 + x]).join())).size;
    };
    expect(kinds(false)).toBeLessThanOrEqual(2);
    expect(kinds(true)).toBeGreaterThan(8);
  });
});

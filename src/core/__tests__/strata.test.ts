import { composite } from '../colour/blend';
import { valueChannels, type MapId } from '../kinds/maps';
import { newCoatLayer, newSheet } from '../document/factory';
import { planeKey } from '../document/planes';
import { TileStore } from '../tile/tiles';
import { randomStack } from '../testing/stacks';
import { effectiveBlend, evaluateRegion, evaluateWhole16, valueAt } from '../strata/evaluate';
import { Evaluator } from '../strata/evaluator';
import { normalRegion } from '../strata/displayPlanes';
import { normalAt } from '../tile/normal';
import { seededRandom } from '../testing/models';

/** Jest's own comparison takes a microsecond a number. */
const same = (a: Float32Array, b: Float32Array) => a.length === b.length && a.every((v, i) => v === b[i]);

describe('evaluation', () => {
  test('a texel is what compositing its layers one by one gives', () => {
    const source = randomStack(3, { plain: true });
    const evaluator = new Evaluator(source);
    const random = seededRandom(1);
    for (let n = 0; n < 200; n++) {
      const x = Math.floor(random() * 200);
      const y = Math.floor(random() * 150);
      for (const map of ['base-colour', 'roughness'] as const) {
        let value: number[] = map === 'base-colour' ? [0.5, 0.5, 0.5] : [0.6];
        for (const layer of source.sheet.layers) {
          const cell = layer.cells[map];
          if (!layer.visible || !cell?.on) continue;
          const tile = source.store.data(planeKey(layer.id, map), Math.floor(y / 128) * 256 + Math.floor(x / 128));
          if (layer.kind === 'painted' && !tile) continue;
          const o = ((y % 128) * 128 + (x % 128)) * (value.length + 1);
          const own = tile ? [...tile.subarray(o, o + value.length)].map((v) => v / 65535) : cell.value!;
          const a = tile ? tile[o + value.length] / 65535 : 1;
          value = composite(effectiveBlend(layer, map), value, 1, own, a * layer.opacity * (cell.opacity ?? 1)).slice(0, -1);
        }
        valueAt(source, map, x, y, evaluator).forEach((v, c) => expect(v).toBeCloseTo(value[c], 4));
      }
    }
  });

  test.each([1, 2, 3, 4, 5])('any region equals the same part of the whole, at tile and sheet borders too (seed %i)', (seed) => {
    const source = randomStack(seed);
    const random = seededRandom(seed + 100);
    for (const map of source.sheet.maps) {
      const ch = valueChannels(map);
      const whole = new Float32Array(200 * 150 * ch);
      evaluateRegion(source, map, 0, 0, 200, 150, whole);
      const evaluator = new Evaluator(source);
      for (let n = 0; n < 12; n++) {
        const x = Math.floor(random() * 199);
        const y = Math.floor(random() * 149);
        const w = 1 + Math.floor(random() * (200 - x));
        const h = 1 + Math.floor(random() * (150 - y));
        const part = new Float32Array(w * h * ch);
        evaluateRegion(source, map, x, y, w, h, part, evaluator);
        for (let r = 0; r < h; r++)
          expect(
            same(
              part.subarray(r * w * ch, (r + 1) * w * ch),
              whole.subarray(((y + r) * 200 + x) * ch, ((y + r) * 200 + x + w) * ch),
            ),
          ).toBe(true);
      }
    }
  });

  test('beyond the border a wrapping sheet repeats, another goes on with its last texel', () => {
    for (const wraps of [true, false]) {
      const source = randomStack(7, { over: { wrapU: wraps, wrapV: wraps } });
      const out = new Float32Array(3 * 3);
      evaluateRegion(source, 'roughness', 199, 149, 3, 3, out);
      const at = (x: number, y: number) =>
        valueAt(source, 'roughness', wraps ? x % 200 : Math.min(x, 199), wraps ? y % 150 : Math.min(y, 149))[0];
      for (let i = 0; i < 9; i++) expect(out[i]).toBeCloseTo(at(199 + (i % 3), 149 + Math.floor(i / 3)), 6);
    }
  });

  test('height layers add their offsets; hidden layers and cells that are off do nothing', () => {
    const sheet = newSheet('s', 'S', 64, 64);
    sheet.layers = [
      newCoatLayer('a', 'A', { height: [0.6] }),
      newCoatLayer('b', 'B', { height: [0.7] }),
      { ...newCoatLayer('c', 'C', { height: [0.9] }), visible: false },
    ];
    const source = { sheet, store: new TileStore() };
    expect(valueAt(source, 'height', 3, 3)[0]).toBeCloseTo(0.8, 6);
    const off = {
      ...sheet,
      layers: sheet.layers.map((l) => (l.id === 'b' ? { ...l, cells: { height: { on: false, value: [0.7] } } } : l)),
    };
    expect(valueAt({ ...source, sheet: off }, 'height', 3, 3)[0]).toBeCloseTo(0.6, 6);
  });

  test('normals of a region equal normals taken texel by texel, across tiles and around a wrapping border', () => {
    const source = randomStack(5, { plain: true, over: { wrapU: true, wrapV: true } });
    const evaluator = new Evaluator(source);
    const height = (x: number, y: number) =>
      valueAt(source, 'height', ((x % 200) + 200) % 200, ((y % 150) + 150) % 150, evaluator)[0] * source.sheet.heightSpan * 200;
    const region = normalRegion(source, { x: 120, y: 120, width: 20, height: 30 }).slice(0, 20 * 30 * 3);
    const corner = normalRegion(source, { x: 0, y: 0, width: 2, height: 2 }).slice(0, 12);
    const out = new Float32Array(3);
    for (const [x, y, from, i] of [
      [125, 127, region, (7 * 20 + 5) * 3],
      [127, 128, region, (8 * 20 + 7) * 3],
      [0, 0, corner, 0],
    ] as const) {
      normalAt(height, x, y, out);
      for (let k = 0; k < 3; k++) expect(from[i + k]).toBeCloseTo(out[k], 4);
    }
  });

  test('the map as 16 bit is the evaluated value rounded', () => {
    const sheet = newSheet('s', 'S', 20, 18);
    sheet.layers = [newCoatLayer('a', 'A', { 'base-colour': [0.25, 0.5, 1] })];
    const out = evaluateWhole16({ sheet, store: new TileStore() }, 'base-colour' as MapId);
    expect([...out.slice(0, 3)]).toEqual([16384, 32768, 65535]);
    expect(out.length).toBe(20 * 18 * 3);
  });
});

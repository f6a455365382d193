import type { OklabChange } from '../../kernels/kernels';
import { SEPARABLE_BLENDS } from '../colour/blend';
import { TRANSFER } from '../colour/transfer';
import { getKernels, chooseKernels } from '../compute';
import { storedChannels } from '../kinds/maps';
import { pieceSchema } from '../document/schema';
import { planeKey } from '../document/planes';
import {
  newAdjustLayer,
  newMask,
  newCoatLayer,
  newEchoLayer,
  newGroup,
  newPaintedLayer,
  newPiece,
  newSheet,
} from '../document/factory';
import { TILE, TILE_TEXELS, tilesOf, TileStore, type TileIndex } from '../tile/tiles';
import { evaluateRegion, evaluateWhole16, valueAt } from '../strata/evaluate';
import { Evaluator, type StrataSource } from '../strata/evaluator';
import { programOf } from '../strata/program';
import { TileCache } from '../strata/tileCache';
import { gaussianSide } from '../kinds/filters/gaussian';
import { seededRandom } from '../testing/models';
import { randomStack, scribble } from '../testing/stacks';

const seeds = Array.from({ length: 8 }, (_, n) => n + 1);
afterEach(() => chooseKernels('wasm'));

function planesOf(
  evaluator: Evaluator,
  source: StrataSource,
  map: 'base-colour' | 'height' | 'own-oil' | 'normal',
  tile: TileIndex,
): Float32Array {
  const scope = programOf(source.sheet, map);
  const value = evaluator.tile(scope, tile);
  if (value.data) return value.data;
  const out = new Float32Array(TILE_TEXELS * (scope.channels + 1));
  value.uniform.forEach((v, p) => out.fill(v, p * TILE_TEXELS, (p + 1) * TILE_TEXELS));
  return out;
}

describe('the evaluator on random stacks of every kind', () => {
  test.each(seeds)('the stack is a sound document (seed %i)', (seed) => {
    const { sheet } = randomStack(seed, { layers: 12, rules: true });
    const result = pieceSchema.safeParse(newPiece('p', 'P', 'canvas', [sheet]));
    expect(result.error?.issues ?? []).toEqual([]);
  });

  test.each(seeds)('any rectangle equals the same part of the whole tile, bit for bit (seed %i)', (seed) => {
    const source = randomStack(seed, {
      layers: 8,
      rules: seed % 2 === 1,
      over: { wrapU: seed % 2 === 0, wrapV: seed % 3 === 0 },
    });
    const random = seededRandom(seed);
    for (const map of ['base-colour', 'height', 'own-oil', 'normal'] as const) {
      const scope = programOf(source.sheet, map);
      for (const tile of tilesOf(200, 150)) {
        const whole = planesOf(new Evaluator(source), source, map, tile);
        for (let n = 0; n < 3; n++) {
          const x = Math.floor(random() * 28) * 4;
          const y = Math.floor(random() * 100);
          const rect = {
            x,
            y,
            width: 4 * (1 + Math.floor(random() * ((TILE - x) / 4))),
            height: 1 + Math.floor(random() * (TILE - y)),
          };
          let wrong = 0;
          new Evaluator(source).rect(scope, tile, rect, (even, planes) => {
            const size = rect.width * rect.height;
            for (let p = 0; p < scope.channels; p++)
              for (let i = 0; i < size; i++) {
                const at = p * TILE_TEXELS + (y + Math.floor(i / rect.width)) * TILE + x + (i % rect.width);
                if ((even ? Math.fround(even[p]) : planes![p * size + i]) !== whole[at]) wrong++;
              }
          });
          expect(wrong).toBe(0);
        }
      }
    }
  });

  test.each(seeds)('with a cache that has seen other states, and a layer at work, it equals a fresh one (seed %i)', (seed) => {
    const random = seededRandom(seed * 7);
    const { sheet, store } = randomStack(seed, { layers: 7, rules: seed % 4 === 0 });
    const cache = new TileCache(6 * 1024 * 1024);
    let now = sheet;
    for (let step = 0; step < 8; step++) {
      const at = Math.floor(random() * now.layers.length);
      const layer = now.layers[at];
      const what = Math.floor(random() * 4);
      if (what === 0) now = { ...now, layers: now.layers.with(at, { ...layer, opacity: random() }) };
      else if (what === 1) now = { ...now, layers: now.layers.with(at, { ...layer, visible: !layer.visible }) };
      else if (what === 2) scribble(random, store, planeKey(`m${step % 3}`, 'mask'), 2, 200, 150);
      else if (layer.kind === 'painted')
        for (const map of now.maps) scribble(random, store, planeKey(layer.id, map), storedChannels(map), 200, 150);
      const hot = now.layers[Math.floor(random() * now.layers.length)].id;
      const used = new Evaluator({ sheet: now, store, cache, hot });
      const fresh = { sheet: { ...now }, store };
      for (const map of ['base-colour', 'height'] as const)
        for (const tile of tilesOf(200, 150))
          expect(
            Buffer.from(planesOf(used, { sheet: now, store }, map, tile).buffer).equals(
              Buffer.from(planesOf(new Evaluator(fresh), fresh, map, tile).buffer),
            ),
          ).toBe(true);
      expect(cache.bytes).toBeLessThanOrEqual(cache.budgetBytes);
    }
  });

  test.each(seeds.slice(0, 6))('SIMD equals its TypeScript twin within 1 of 65,535 (seed %i)', (seed) => {
    const source = randomStack(seed, { layers: 10 });
    for (const map of ['base-colour', 'height', 'roughness', 'normal'] as const) {
      chooseKernels('wasm');
      const simd = evaluateWhole16(source, map);
      chooseKernels('twin');
      const twin = evaluateWhole16(source, map);
      let most = 0;
      for (let i = 0; i < simd.length; i++) most = Math.max(most, Math.abs(simd[i] - twin[i]));
      expect([map, most <= 1]).toEqual([map, true]);
    }
  });

  test.each([1, 2, 3, 4])('on a wrapping sheet, shifting the paint shifts the result (seed %i)', (seed) => {
    const over = { width: 256, height: 128, wrapU: true, wrapV: true };
    const source = randomStack(seed, { layers: 10, over, anchored: false });
    const shifted: StrataSource = { sheet: source.sheet, store: new TileStore() };
    for (const plane of source.store.planeKeys()) {
      // Half way round: the two tiles change places.
      const tiles = source.store.tilesOf(plane);
      for (const [tile, version] of tiles) shifted.store.set(plane, tile === 0 ? 1 : 0, version);
    }
    for (const map of ['base-colour', 'height'] as const) {
      const a = evaluateWhole16(source, map);
      const b = evaluateWhole16(shifted, map);
      const channels = a.length / (256 * 128);
      let wrong = 0;
      for (let y = 0; y < 128; y++)
        for (let x = 0; x < 256; x++)
          for (let c = 0; c < channels; c++)
            if (a[(y * 256 + x) * channels + c] !== b[(y * 256 + ((x + 128) % 256)) * channels + c]) wrong++;
      expect(wrong).toBe(0);
    }
  });
});

describe('the kernels against their twin', () => {
  test.each([...SEPARABLE_BLENDS])('%s: stored and float sources, masks, clear and opaque backdrops', (blend) => {
    const random = seededRandom(11);
    const texels = 64;
    for (const channels of [1, 3] as const)
      for (const opaque of [true, false])
        for (const masked of [true, false]) {
          const data = Uint16Array.from({ length: texels * (channels + 1) }, () =>
            random() < 0.1 ? 0 : random() < 0.1 ? 65535 : random() * 65536,
          );
          const start = Float32Array.from({ length: texels * (channels + 1) }, () =>
            random() < 0.1 ? Math.round(random()) : random(),
          );
          const mask = masked ? Float32Array.from({ length: texels }, random) : null;
          const source = { data, offset: 0, stride: 16, width: 16, rows: 4 };
          const planes = Float32Array.from({ length: texels * (channels + 1) }, random);
          const run = (which: 'wasm' | 'twin') => {
            const acc = start.slice();
            const mode = SEPARABLE_BLENDS.indexOf(blend);
            const layer = { source, mode, opacity: 0.7, mask };
            getKernels(which).blendStored(acc, channels, [layer, { ...layer, mode: 0, mask: null }], opaque);
            getKernels(which).blendFloat(acc, channels, planes, texels, mode, 0.6, mask, opaque);
            return acc;
          };
          const [a, b] = [run('wasm'), run('twin')];
          expect(Math.max(...a.map((v, i) => Math.abs(v - b[i])))).toBeLessThan(1 / 65535);
        }
  });

  test('masks, mixing, 16-bit rounding and blurs', () => {
    const random = seededRandom(12);
    const data = Uint16Array.from({ length: 128 }, () => random() * 65536);
    const both = <T extends Float32Array | Uint16Array>(run: (k: ReturnType<typeof getKernels>) => T, tolerance: number) => {
      const [a, b] = [run(getKernels('wasm')), run(getKernels('twin'))];
      expect(a.length).toBe(b.length);
      for (let i = 0; i < a.length; i++) expect(Math.abs(a[i] - b[i])).toBeLessThanOrEqual(tolerance);
    };
    for (const invert of [true, false])
      both((k) => {
        const out = new Float32Array(64);
        k.maskValues(out, { data, offset: 0, stride: 8, width: 8, rows: 8 }, 0.3, invert);
        return out;
      }, 1e-6);
    const values = Float32Array.from({ length: 96 }, () => random() * 1.2 - 0.1);
    both((k) => {
      const acc = values.slice();
      k.lerp(acc, values.toReversed(), 32, 3, 0.4, values.slice(0, 32));
      return acc;
    }, 1e-6);
    both((k) => k.toUint16(values.subarray(0, 93)), 0);
    both((k) => k.interleave16(values, 32), 0);
    both((k) => {
      const out = new Float32Array(96);
      k.affine(out, values, 0.2, 0.7);
      return out;
    }, 1e-6);
    both((k) => {
      const out = new Float32Array(96);
      k.affine(out, values, 0.2, 1.7, true);
      return out;
    }, 1e-6);
    for (const [count, first] of [
      [1, 2],
      [3, 0],
      [4, 0],
      [2, 1],
    ])
      // prettier-ignore
      both((k) => {
        const out = k.bytes(24 * 4).fill(77);
        k.interleave8(values.subarray(0, 24 * count), 24, count, first, out);
        return Uint16Array.from(out);
      }, 0);
    const changes: OklabChange[] = [
      { lift: 0.1, turn: [[0.7, -0.6], [0.6, 0.7]], tint: [0, 0], roomy: false }, // prettier-ignore
      { lift: 0, turn: [[0.4, 0], [0, 0.4]], tint: [0.05, -0.08], roomy: true }, // prettier-ignore
    ];
    for (const change of changes)
      both((k) => {
        const out = k.floats(96);
        out.set(values.map((v) => Math.min(1, Math.max(0, v))));
        out.fill(0, 8, 16);
        k.turnInOklab(out, 32, change, TRANSFER);
        return out.slice();
      }, 4e-6);
    const side = gaussianSide(3);
    for (const axis of ['x', 'y'] as const)
      both((k) => {
        const window = Float32Array.from({ length: (20 + 18) * (20 + 18) }, (_, i) => ((i * 7919) % 101) / 100);
        const out = new Float32Array(20 * 20);
        k.blur(window, 20, 20, side, axis, out);
        return out;
      }, 1e-5);
  });
});

describe('groups, masks, adjustments and echoes', () => {
  const at = (source: StrataSource, map: Parameters<typeof valueAt>[1]) => valueAt(source, map, 5, 5);
  const grey = (v: number) => ({ 'base-colour': [v, v, v] });
  const sheetOf = (...layers: ReturnType<typeof newCoatLayer>[]): StrataSource => ({
    sheet: { ...newSheet('s', 'S', 64, 64), layers },
    store: new TileStore(),
  });

  test('an isolated group blends among itself first; one that passes through blends with what lies below', () => {
    const ground = newCoatLayer('a', 'A', grey(0.5));
    const inside = { ...newCoatLayer('b', 'B', grey(0.4)), parent: 'g', blend: 'multiply' as const };
    const isolated = newGroup('g', 'G');
    expect(at(sheetOf(ground, inside, isolated), 'base-colour')[0]).toBeCloseTo(0.4, 6);
    expect(at(sheetOf(ground, inside, { ...isolated, passThrough: true }), 'base-colour')[0]).toBeCloseTo(0.2, 6);
    expect(at(sheetOf(ground, inside, { ...isolated, passThrough: true, opacity: 0.5 }), 'base-colour')[0]).toBeCloseTo(0.35, 6);
  });

  test('an adjustment in an isolated group leaves what lies below alone', () => {
    const ground = newCoatLayer('a', 'A', grey(0.2));
    const adjust = { ...newAdjustLayer('x', 'X', { type: 'invert' }, ['base-colour']), parent: 'g' };
    expect(at(sheetOf(ground, adjust, newGroup('g', 'G')), 'base-colour')[0]).toBeCloseTo(0.2, 6);
    expect(at(sheetOf(ground, adjust, { ...newGroup('g', 'G'), passThrough: true }), 'base-colour')[0]).toBeCloseTo(0.8, 6);
  });

  test('one mask linked to two layers hides both where it is black; changing its ground shows them', () => {
    const source = sheetOf(
      { ...newCoatLayer('a', 'A', grey(0.9)), mask: { id: 'm', on: true } },
      { ...newCoatLayer('b', 'B', { roughness: [0.1] }), mask: { id: 'm', on: true } },
    );
    const masks = (ground: number, invert = false) => [newMask('m', 'M', ground, { invert })];
    const shown = (m: ReturnType<typeof masks>) => {
      const s = { ...source, sheet: { ...source.sheet, masks: m } };
      return [at(s, 'base-colour')[0], at(s, 'roughness')[0]].map((v) => Math.round(v * 1000) / 1000);
    };
    expect(shown(masks(0))).toEqual([0.5, 0.6]);
    expect(shown(masks(1))).toEqual([0.9, 0.1]);
    expect(shown(masks(0, true))).toEqual([0.9, 0.1]);
    expect(shown(masks(0.5))).toEqual([0.7, 0.35]);
  });

  test('an echo turns colour into height, follows its original, and leaves out a member', () => {
    const dark = { ...newCoatLayer('a', 'A', grey(0.3)), parent: 'g' };
    const light = { ...newCoatLayer('b', 'B', grey(0.8)), parent: 'g' };
    const group = { ...newGroup('g', 'G'), visible: false };
    const echo = newEchoLayer('e', 'E', 'g', 'base-colour', ['height']);
    // Height adds around 0.5 on the ground of 0.5.
    expect(at(sheetOf(dark, light, group, echo), 'height')[0]).toBeCloseTo(0.8, 5);
    const without = { ...echo, echo: { ...echo.echo!, members: { b: 0 } } };
    expect(at(sheetOf(dark, light, group, without), 'height')[0]).toBeCloseTo(0.3, 5);
    const turned = { ...echo, echo: { ...echo.echo!, filters: [{ type: 'invert' as const }] } };
    expect(at(sheetOf(dark, light, group, turned), 'height')[0]).toBeCloseTo(0.2, 5);
    expect(at(sheetOf(dark, light, group, echo), 'base-colour')[0]).toBeCloseTo(0.5, 6);
  });

  test('an echo of a layer that is gone shows nothing', () => {
    expect(at(sheetOf(newEchoLayer('e', 'E', 'gone', 'base-colour', ['height'])), 'height')[0]).toBe(0.5);
  });

  test('a layer with missing pixels counts as unpainted', () => {
    const source = sheetOf(newPaintedLayer('a', 'A'));
    source.store.set(planeKey('a', 'base-colour'), 0, { data: null, hash: 'ff'.repeat(32) });
    expect(at(source, 'base-colour')).toEqual([0.5, 0.5, 0.5]);
  });

  test('a blur keeps the sum of what it blurs, is even on even ground, and runs around a wrapping border', () => {
    const sheet = { ...newSheet('s', 'S', 128, 128, { wrapU: true, wrapV: true }) };
    const store = new TileStore();
    const data = new Uint16Array(TILE_TEXELS * 2);
    data.set([65535, 65535], 0);
    store.set(planeKey('a', 'roughness'), 0, { data, hash: null });
    sheet.layers = [
      newCoatLayer('c', 'C', { roughness: [0] }),
      newPaintedLayer('a', 'A'),
      newAdjustLayer('x', 'X', { type: 'blur', sigma: 3 }, ['roughness', 'metallic']),
    ];
    const out = new Float32Array(128 * 128);
    evaluateRegion({ sheet, store }, 'roughness', 0, 0, 128, 128, out);
    expect(out.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 4);
    // The peak of a sampled Gaussian is 1 / (2πσ²), the same to both sides of the border.
    expect(out[0]).toBeCloseTo(1 / (2 * Math.PI * 9), 3);
    for (const d of [1, 2, 5]) {
      expect(out[128 - d]).toBeCloseTo(out[d], 7);
      expect(out[(128 - d) * 128]).toBeCloseTo(out[d * 128], 7);
    }
    expect(valueAt({ sheet, store }, 'metallic', 3, 3)[0]).toBe(0);
  });
});

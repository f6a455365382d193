/** Evaluating in a memory that threads share gives what evaluating copies gives. */
import { Helper } from '../show/helper';
import { chooseKernels, shareMemory } from '../../core/compute';
import { newAdjustLayer, newMask, newPaintedLayer, newSheet } from '../../core/document/factory';
import type { Layer } from '../../core/document/schema';
import { planeKey } from '../../core/document/planes';
import { evaluateRegion, evaluateWhole16 } from '../../core/strata/evaluate';
import { Evaluator } from '../../core/strata/evaluator';
import { programOf } from '../../core/strata/program';
import { TileCache } from '../../core/strata/tileCache';
import { seededRandom } from '../../core/testing/models';
import { newTexels, sentTexels, shareTexels, TILE_TEXELS, tilesOf, TileStore } from '../../core/tile/tiles';

const SIZE = 256;

afterEach(() => {
  chooseKernels('wasm');
  shareTexels();
});

/** Two maps, five painted layers with a mask between them: every texel of everything is something. */
function stack(seed: number): { sheet: ReturnType<typeof newSheet>; store: TileStore } {
  const random = seededRandom(seed);
  const sheet = newSheet('s', 'Sheet', SIZE, SIZE, { maps: ['base-colour', 'roughness'] });
  const store = new TileStore();
  sheet.masks = [newMask('m', 'Mask', 0.2)];
  const paint = (plane: string, channels: 2 | 4) => {
    for (const tile of tilesOf(SIZE, SIZE)) {
      const data = newTexels(TILE_TEXELS * channels);
      for (let i = 0; i < data.length; i++) data[i] = random() * 65536;
      store.set(plane, tile, { data, hash: null });
    }
  };
  paint(planeKey('m', 'mask'), 2);
  sheet.layers = (['normal', 'multiply', 'overlay', 'divide', 'add'] as const).map((blend, n) => ({
    ...newPaintedLayer(`l${n}`, `Layer ${n}`, sheet.maps),
    blend,
    opacity: 0.8,
    mask: n === 2 ? { id: 'm', on: true } : null,
  }));
  for (const { id } of sheet.layers) {
    paint(planeKey(id, 'base-colour'), 4);
    paint(planeKey(id, 'roughness'), 2);
  }
  return { sheet, store };
}

const all = ({ sheet, store }: ReturnType<typeof stack>) =>
  sheet.maps.map((map) => Buffer.from(evaluateWhole16({ sheet: { ...sheet }, store, cache: new TileCache(0) }, map).buffer));

test('the same bytes as with copies, whole and in narrow parts', () => {
  const apart = stack(5);
  const [colour, value] = all(apart);
  const part = new Float32Array(20 * 30 * 3);
  evaluateRegion(apart, 'base-colour', 118, 120, 20, 30, part);
  const narrow = (of: ReturnType<typeof stack>) => {
    const out: number[] = [];
    const evaluator = new Evaluator({ ...of, cache: new TileCache(0) });
    for (const map of of.sheet.maps)
      evaluator.rect(programOf(of.sheet, map), 0, { x: 12, y: 70, width: 20, height: 9 }, (_, planes) =>
        out.push(...planes!.subarray(0, 180)),
      );
    return out;
  };
  const before = narrow(apart);

  expect(shareMemory(() => 0)).not.toBeNull();
  const together = stack(5);
  expect(sentTexels(together.store.get(planeKey('l0', 'base-colour'), 0)!.data!)).not.toBeInstanceOf(Uint16Array);
  const [a, b] = all(together);
  expect(a.equals(colour)).toBe(true);
  expect(b.equals(value)).toBe(true);
  const there = new Float32Array(20 * 30 * 3);
  evaluateRegion(together, 'base-colour', 118, 120, 20, 30, there);
  expect([...there]).toEqual([...part]);
  expect(narrow(together)).toEqual(before);
  // Tiles of before, which lie outside, are read too.
  expect(all(apart)[0].equals(colour)).toBe(true);
});

/** Sixteen layers in the commonest modes, some masked, two of them even, and a blur in the middle. */
function tall(seed: number): ReturnType<typeof stack> {
  const { sheet, store } = stack(seed);
  const random = seededRandom(seed + 1);
  const painted = sheet.layers;
  sheet.layers = Array.from({ length: 16 }, (_, n): Layer => ({
    ...painted[n % 5],
    blend: (['normal', 'multiply', 'screen', 'overlay', 'darken'] as const)[Math.floor(random() * 5)],
    opacity: 0.2 + random() * 0.8,
    mask: random() < 0.3 ? { id: 'm', on: true } : null,
  }));
  sheet.layers.splice(7, 0, newAdjustLayer('b', 'Blur', { type: 'blur', sigma: 2.5 }, sheet.maps));
  sheet.layers.splice(11, 0, newAdjustLayer('w', 'Wide blur', { type: 'blur', sigma: 9 }, sheet.maps));
  return { sheet, store };
}

test.each([11, 12, 13])(
  'layers laid down together, and windows gathered from kept tiles, give the bytes of one by one: %i',
  (seed) => {
    const apart = all(tall(seed));
    expect(shareMemory(() => 0)).not.toBeNull();
    const together = all(tall(seed));
    expect(together.map((b, n) => b.equals(apart[n]))).toEqual([true, true]);
  },
);

test('kept tiles lie in the shared memory and stay as they are when more is computed', () => {
  expect(shareMemory(() => 0)).not.toBeNull();
  const of = tall(14);
  const evaluator = new Evaluator({ ...of, cache: new TileCache(0) });
  const scope = programOf(of.sheet, 'base-colour');
  const first = evaluator.tile(scope, 0).data!;
  expect(first.buffer).toBeInstanceOf(SharedArrayBuffer);
  const was = first.slice();
  for (const tile of tilesOf(SIZE, SIZE)) evaluator.tile(scope, tile);
  all(of);
  expect(first.every((v, i) => v === was[i])).toBe(true);
});

test('a helper is told where texels lie, and makes the same of them', () => {
  const memoryFor = shareMemory(() => 0)!;
  const { sheet, store } = stack(6);
  const [colour] = all({ sheet, store });
  const helper = new Helper();
  helper.handle({ type: 'memory', ...memoryFor(0) });
  const tiles = store
    .planeKeys()
    .flatMap((plane) =>
      [...store.tilesOf(plane)].map(([tile, { data }]) => [plane, tile, sentTexels(data!)] as [string, number, Uint16Array]),
    );
  helper.handle({ type: 'sync', sheets: [sheet], tiles });
  const out = new Uint16Array(SIZE * SIZE * 3);
  const jobs = [...tilesOf(SIZE, SIZE)].map((tile): ['base-colour', number] => ['base-colour', tile]);
  helper.handle({ type: 'evaluate', id: 1, sheetId: 's', jobs, hot: null, out: { 'base-colour': out } });
  expect(Buffer.from(out.buffer).equals(colour)).toBe(true);
});

test('where memory cannot be shared everything works with copies', () => {
  const { Memory } = WebAssembly;
  WebAssembly.Memory = class extends Memory {
    constructor(how: WebAssembly.MemoryDescriptor) {
      if (how.shared) throw new RangeError('could not allocate memory');
      super(how);
    }
  } as typeof Memory;
  try {
    expect(shareMemory(() => 0)).toBeNull();
    const of = stack(5);
    expect(sentTexels(of.store.get(planeKey('l0', 'base-colour'), 0)!.data!)).toBeInstanceOf(Uint16Array);
    expect(all(of)[0].some((v) => v !== 0)).toBe(true);
  } finally {
    WebAssembly.Memory = Memory;
  }
});

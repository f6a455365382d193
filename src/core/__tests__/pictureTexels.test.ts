/** Pictures that lie texel on texel are what they are; patches of a pyramid as one are what they were. */
import { chooseKernels } from '../compute';
import { newCoatLayer, newSheet } from '../document/factory';
import { planeKey } from '../document/planes';
import { GREYS } from '../kinds/grey';
import { placementSchema } from '../kinds/placement';
import { Evaluator } from '../strata/evaluator';
import { evaluateWhole16 } from '../strata/evaluate';
import { liesTexelOnTexel, pictureData, pictureStamp, pictureTexels, pictureTile } from '../strata/picture';
import { programOf } from '../strata/program';
import { seededRandom } from '../testing/models';
import { MipPyramid, partsOf, putRows, type MipPatch } from '../tile/mips';
import { TILE, TILE_TEXELS, tileIndex, tilesFromPicture, TileStore, WHOLE_TILE } from '../tile/tiles';

chooseKernels('wasm');

const info = (side: number) => ({ id: 'pic', name: 'Noise', width: side, height: side, encoding: 'linear' as const });
const PLAIN = placementSchema.parse({ by: 'uv' });

/** Noise with holes; what is there is there by a quarter at least. */
function noise(side: number) {
  const random = seededRandom(11);
  const data = Uint16Array.from({ length: side * side * 4 }, (_, i) =>
    i % 4 === 3 ? (random() < 0.3 ? 0 : 16384 + random() * 49151) : random() * 65535,
  );
  const store = new TileStore();
  for (const [tile, texels] of tilesFromPicture(data, side, side, 4))
    store.set(planeKey('pic', 'picture'), tile, { data: texels, hash: null });
  return { store, data };
}

describe('a picture that lies texel on texel', () => {
  test.each(['value', 'colour', 'normal'] as const)('gives what the way through taps reads: %s', (kind) => {
    const { store } = noise(TILE);
    const read = pictureData(store, info(TILE), pictureStamp(store, 'pic'));
    const sheet = { width: TILE, height: TILE, wrapU: true, wrapV: true };
    for (const take of kind === 'value' ? GREYS : (['luminance'] as const)) {
      const use = { picture: 'pic', take, neutral: 0 };
      expect(liesTexelOnTexel(info(TILE), use, PLAIN, sheet, false)).toBe(true);
      const there = pictureTile(read, use, PLAIN, kind, { sheet, surface: null, tile: 0 })!;
      const planes = kind === 'value' ? 2 : 4;
      const here = new Float32Array(TILE_TEXELS * planes);
      pictureTexels(store.data(planeKey('pic', 'picture'), 0)!, WHOLE_TILE, take, kind, here);
      let most = 0;
      // Where there is nothing, what it would be does not matter.
      const covered = (i: number) => here[(planes - 1) * TILE_TEXELS + (i % TILE_TEXELS)] > 0;
      for (let i = 0; i < here.length; i++) if (covered(i)) most = Math.max(most, Math.abs(here[i] - there[i]));
      expect(there.every((v, i) => i < (planes - 1) * TILE_TEXELS || v > 0 === here[i] > 0)).toBe(true);
      // Taps read codes of 16 bits that are weighted by alpha, a quarter at least, and directions are steep at the rim.
      expect(most).toBeLessThan(kind === 'normal' ? 1e-3 : 2e-4);
      const part = { x: 17, y: 40, width: 30, height: 9 };
      const some = new Float32Array(part.width * part.height * planes);
      pictureTexels(store.data(planeKey('pic', 'picture'), 0)!, part, take, kind, some);
      for (let p = 0; p < planes; p++)
        for (let i = 0; i < part.width * part.height; i++) {
          const at = (part.y + Math.floor(i / part.width)) * TILE + part.x + (i % part.width);
          expect(some[p * part.width * part.height + i]).toBe(here[p * TILE_TEXELS + at]);
        }
    }
  });

  test('is only that which is neither moved, turned, mirrored, repeated, made neutral nor of another size', () => {
    const use = { picture: 'pic', take: 'luminance' as const, neutral: 0 };
    const sheet = { width: 256, height: 256, wrapU: false, wrapV: false };
    const lies = (over: object, onModel = false) =>
      liesTexelOnTexel(info(256), use, placementSchema.parse({ by: 'uv', ...over }), sheet, onModel);
    expect([lies({}), lies({}, true), lies({ by: 'box' })]).toEqual([true, true, true]);
    for (const over of [{ offset: [0.5, 0] }, { turn: 90 }, { mirrorX: true }, { mirrorY: true }, { repeats: 2 }, { hide: 1 }])
      expect(lies(over)).toBe(false);
    expect(lies({ by: 'box' }, true)).toBe(false);
    expect(liesTexelOnTexel(info(128), use, PLAIN, sheet, false)).toBe(false);
    expect(liesTexelOnTexel(info(256), { ...use, neutral: 0.1 }, PLAIN, sheet, false)).toBe(false);
  });

  test('goes to the sheet exactly, and only the tiles of it that change are made anew', () => {
    const { store, data } = noise(256);
    for (let i = 3; i < data.length; i += 4) data[i] = 65535;
    for (const [tile, texels] of tilesFromPicture(data, 256, 256, 4))
      store.set(planeKey('pic', 'picture'), tile, { data: texels, hash: null });
    const coat = newCoatLayer('c', 'C', { 'base-colour': [0.5, 0.5, 0.5] });
    coat.cells['base-colour'] = {
      ...coat.cells['base-colour']!,
      placed: { picture: 'pic', take: 'luminance', neutral: 0 },
    };
    const sheet = newSheet('s', 'S', 256, 256);
    sheet.layers = [coat];
    sheet.pictures = [info(256)];
    const all = evaluateWhole16({ sheet, store }, 'base-colour');
    const channels = all.length / (256 * 256);
    let most = 0;
    for (let i = 0; i < 256 * 256; i++)
      for (let c = 0; c < 3; c++) most = Math.max(most, Math.abs(all[i * channels + c] - data[i * 4 + c]));
    expect(most).toBeLessThanOrEqual(1);
    const tiles = [0, 1, 256, 257].map((_, n) => tileIndex(n % 2, n >> 1));
    const signatures = () => {
      const evaluator = new Evaluator({ sheet, store });
      return tiles.map((tile) => evaluator.signatureOf(programOf(sheet, 'base-colour'), tile));
    };
    const before = signatures();
    const changed = store.data(planeKey('pic', 'picture'), tiles[2])!.slice();
    changed[0] ^= 1;
    store.set(planeKey('pic', 'picture'), tiles[2], { data: changed, hash: null });
    expect(signatures().map((s, n) => s === before[n])).toEqual([true, true, false, true]);
  });
});

test('a tile of it that is lost on the server counts as empty', () => {
  const { store } = noise(256);
  const coat = newCoatLayer('c', 'C', { roughness: [0.5] });
  coat.cells.roughness = { ...coat.cells.roughness!, placed: { picture: 'pic', take: 'red', neutral: 0 } };
  const sheet = newSheet('s', 'S', 256, 256);
  sheet.layers = [coat];
  sheet.pictures = [info(256)];
  const plane = planeKey('pic', 'picture');
  const without = new TileStore();
  for (const [tile, version] of store.tilesOf(plane)) if (tile !== tileIndex(1, 1)) without.set(plane, tile, version);
  store.set(plane, tileIndex(1, 1), { data: null, hash: 'f'.repeat(64) });
  expect(evaluateWhole16({ sheet, store }, 'roughness')).toEqual(evaluateWhole16({ sheet, store: without }, 'roughness'));
});

describe('patches as one', () => {
  test('those side by side are one; far from each other they carry no more than they are, whatever comes between', () => {
    const pyramid = new MipPyramid(1024, 1024, 'linear');
    const square = (x: number, y: number) => {
      const texels = Uint8Array.from({ length: 32 * 32 * 4 }, (_, i) => i + x + y);
      return pyramid.lay({ x, y, width: 32, height: 32 }, texels)!;
    };
    const corners = [square(0, 0), square(992, 992), square(32, 0), square(960, 992)];
    const merged = pyramid.merged(corners);
    expect(merged.map((p) => p.first)).toEqual([2, 2]);
    const bytes = (all: readonly MipPatch[]) => all.reduce((sum, p) => sum + p.data.length, 0);
    expect(bytes(merged)).toBeLessThanOrEqual(bytes(corners));
    const even = new MipPyramid(64, 64, 'linear');
    const evens = [
      even.layEven(7)!,
      even.lay(
        { x: 0, y: 0, width: 2, height: 2 },
        Uint8Array.from({ length: 16 }, (_, i) => i),
      )!,
    ];
    expect(even.merged(evens)).toBe(evens);
  });

  test('leave on the card what they leave one by one', () => {
    const [width, height] = [300, 200];
    const random = seededRandom(5);
    for (let round = 0; round < 20; round++) {
      const pyramid = new MipPyramid(width, height, round % 2 ? 'srgb' : 'linear');
      const card = pyramid.sizes.map((s) => new Uint8Array(s.width * s.height * 4));
      const upload = (patch: MipPatch) => {
        let bytes = 0;
        for (const { level, rect, texels } of partsOf(patch)) {
          putRows(texels, rect.width, rect, { width: pyramid.sizes[level].width, data: card[level] });
          bytes += texels.length;
        }
        expect(bytes).toBe(patch.data.length);
      };
      const patches: MipPatch[] = [];
      const first = new Uint8Array(width * height * 4);
      for (let n = 0; n < 5; n++) {
        const [x, y] = [2 * Math.floor(random() * 120), 2 * Math.floor(random() * 70)];
        const rect = { x, y, width: 2 + 2 * Math.floor(random() * 20), height: 2 + 2 * Math.floor(random() * 20) };
        const texels = Uint8Array.from({ length: rect.width * rect.height * 4 }, () => random() * 256);
        patches.push(pyramid.lay(rect, texels)!);
        for (let r = 0; r < rect.height; r++)
          first.set(texels.subarray(r * rect.width * 4, (r + 1) * rect.width * 4), ((y + r) * width + x) * 4);
      }
      const merged = pyramid.merged(patches);
      expect(merged.length).toBeLessThanOrEqual(patches.length);
      merged.forEach(upload);
      expect(Buffer.compare(card[0], first)).toBe(0);
      for (let n = 1; n < card.length; n++) expect(Buffer.compare(card[n], pyramid.level(n).data)).toBe(0);
    }
  });
});

/** Nothing that is not there is mixed in: pictures with alpha that are placed, paint that is resized, cut-outs that go out smaller. */
import { chooseKernels } from '../compute';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { planeKey } from '../document/planes';
import { reshapePlane } from '../document/reshape';
import { dispatchSchema } from '../deliver/options';
import { renderMap } from '../deliver/render';
import { placementSchema } from '../kinds/placement';
import { pictureData, pictureStamp, pictureTile } from '../strata/picture';
import { evaluateWhole16 } from '../strata/evaluate';
import { seededRandom } from '../testing/models';
import { resample, type ResampleFilter } from '../tile/resample';
import { TILE_TEXELS, tilesFromPicture, TileStore } from '../tile/tiles';

const NINE = Math.round(0.9 * 65535);

/** A picture of one colour where a disc is, clear black elsewhere; or of noise with alpha of its own. */
function discStore(side: number, at: (x: number, y: number) => [number, number, number, number]) {
  const store = new TileStore();
  const data = new Uint16Array(side * side * 4);
  for (let y = 0; y < side; y++) for (let x = 0; x < side; x++) data.set(at(x, y), (y * side + x) * 4);
  for (const [tile, texels] of tilesFromPicture(data, side, side, 4))
    store.set(planeKey('pic', 'picture'), tile, { data: texels, hash: null });
  return { store, data };
}
const disc = (side: number) => (x: number, y: number) =>
  Math.hypot(x - side / 2, y - side / 2) < side / 3
    ? ([NINE, NINE, NINE, 65535] as [number, number, number, number])
    : ([0, 0, 0, 0] as [number, number, number, number]);

describe.each(['wasm', 'twin'] as const)('a placed picture with alpha (%s)', (kernels) => {
  beforeAll(() => void chooseKernels(kernels));
  afterAll(() => void chooseKernels('wasm'));

  test.each([
    ['colour', 'base-colour', 0],
    ['value', 'roughness', 0],
    ['value, its repeats hidden', 'roughness', 1],
  ] as const)('of 0.9 over 0.9 leaves 0.9: %s', (_what, map, hide) => {
    const { store } = discStore(24, disc(24));
    const coat = newCoatLayer('c', 'C', { [map]: map === 'roughness' ? [0.5] : [0.5, 0.5, 0.5] });
    coat.cells[map] = { ...coat.cells[map]!, placed: { picture: 'pic', take: 'luminance', neutral: 0 } };
    coat.placement = placementSchema.parse({ by: 'uv', repeats: 3, hide });
    const ground = newCoatLayer('g', 'G', { 'base-colour': [0.9, 0.9, 0.9], roughness: [0.9] });
    const sheet = newSheet('s', 'S', 128, 128, { wrapU: true, wrapV: true });
    sheet.layers = [ground, coat];
    sheet.pictures = [{ id: 'pic', name: 'Disc', width: 24, height: 24, encoding: 'linear' }];
    const all = evaluateWhole16({ sheet, store }, map);
    // Two codes of 16 bits; where repeats are hidden, those of a table of 4σ.
    expect(all.reduce((most, v) => Math.max(most, Math.abs(v - NINE)), 0)).toBeLessThanOrEqual(hide ? 200 : 2);
  });

  test('is read as premultiplied pictures are: against an independent bilinear reading of noise', () => {
    const random = seededRandom(4);
    const side = 16;
    const { store, data } = discStore(side, () => {
      const alpha = random() < 0.3 ? 0 : Math.floor(random() * 65535);
      return [random() * 65535, random() * 65535, random() * 65535, alpha];
    });
    const info = { id: 'pic', name: 'Noise', width: side, height: side, encoding: 'linear' as const };
    const use = { picture: 'pic', take: 'luminance' as const, neutral: 0 };
    const sheet = { width: 128, height: 128, wrapU: true, wrapV: true };
    const place = { sheet, surface: null, tile: 0 };
    const read = pictureData(store, info, pictureStamp(store, 'pic'));
    const out = pictureTile(read, use, placementSchema.parse({ by: 'uv', repeats: 1 }), 'colour', place)!;
    for (let n = 0; n < 500; n++) {
      const [x, y] = [Math.floor(random() * 128), Math.floor(random() * 128)];
      const [u, v] = [((x + 0.5) * side) / 128 - 0.5, ((y + 0.5) * side) / 128 - 0.5];
      const [x0, y0] = [Math.floor(u), Math.floor(v)];
      const sums = [0, 0, 0, 0];
      for (const [dx, dy] of [
        [0, 0],
        [1, 0],
        [0, 1],
        [1, 1],
      ]) {
        const o = (((y0 + dy + side) % side) * side + ((x0 + dx + side) % side)) * 4;
        const w = (dx ? u - x0 : 1 - u + x0) * (dy ? v - y0 : 1 - v + y0);
        const a = data[o + 3] / 65535;
        for (let c = 0; c < 3; c++) sums[c] += (w * a * data[o + c]) / 65535;
        sums[3] += w * a;
      }
      const at = y * 128 + x;
      expect(Math.abs(out[3 * TILE_TEXELS + at] - sums[3])).toBeLessThan(3e-5);
      for (let c = 0; c < 3; c++)
        expect(Math.abs(out[c * TILE_TEXELS + at] * out[3 * TILE_TEXELS + at] - sums[c])).toBeLessThan(3e-5);
    }
  });

  test('of directions does not lean at its rim', () => {
    const { store } = discStore(24, (x, y) => {
      const [, , , a] = disc(24)(x, y);
      return a ? [32768, 32768, 65535, a] : [0, 0, 0, 0];
    });
    const info = { id: 'pic', name: 'Flat', width: 24, height: 24, encoding: 'linear' as const };
    const read = pictureData(store, info, pictureStamp(store, 'pic'));
    const place = { sheet: { width: 128, height: 128, wrapU: true, wrapV: true }, surface: null, tile: 0 };
    const use = { picture: 'pic', take: 'luminance' as const, neutral: 0 };
    const out = pictureTile(read, use, placementSchema.parse({ by: 'uv', repeats: 1 }), 'normal', place)!;
    let least = 1;
    for (let i = 0; i < TILE_TEXELS; i++) if (out[3 * TILE_TEXELS + i] > 1e-3) least = Math.min(least, out[2 * TILE_TEXELS + i]);
    expect(least).toBeGreaterThan(0.9999);
  });
});

describe('resized', () => {
  test.each([
    [64, 24],
    [24, 64],
    [64, 63],
  ])('paint of one colour and any coverage stays that colour: %i → %i', (from, to) => {
    const random = seededRandom(from);
    for (const map of ['base-colour', 'roughness'] as const) {
      const channels = map === 'roughness' ? 2 : 4;
      const pixels = new Uint16Array(from * from * channels);
      for (let i = 0; i < pixels.length; i += channels) {
        const a = random() < 0.4 ? 0 : random() < 0.5 ? 65535 : random() * 65535;
        if (a < 1) continue;
        pixels.fill(NINE, i, i + channels - 1);
        pixels[i + channels - 1] = a;
      }
      const out = reshapePlane(pixels, { width: from, height: from }, map, { kind: 'resize', width: to, height: to });
      let most = 0;
      for (let i = 0; i < out.length; i += channels)
        if (out[i + channels - 1] > 0) for (let c = 0; c < channels - 1; c++) most = Math.max(most, Math.abs(out[i + c] - NINE));
      expect(most).toBeLessThanOrEqual(2);
    }
  });

  test('paint on a canvas that wraps is filtered around its border', () => {
    const pixels = Uint16Array.from({ length: 32 * 8 * 2 }, (_, i) => (i % 2 ? 65535 : (i >> 1) % 32 < 16 ? 10000 : 50000));
    const size = { width: 32, height: 8, wrapU: true, wrapV: true };
    const out = reshapePlane(pixels, size, 'roughness', { kind: 'resize', width: 8, height: 2 });
    // The step at the border looks as the one in the middle does.
    expect(Math.abs(out[0] - 10000 - (50000 - out[8 * 2 - 2]))).toBeLessThanOrEqual(2);
    expect(Math.abs(out[0] - out[3 * 2])).toBeLessThanOrEqual(2);
    expect(out[0]).toBeGreaterThan(10100);
  });

  test.each(['lanczos', 'mitchell'] as const)('%s never leaves what lies around: no ring beside 0.25 | 0.9', (filter) => {
    for (const [from, to] of [
      [64, 21],
      [21, 64],
      [64, 32],
    ]) {
      const step = Float32Array.from({ length: from * 4 }, (_, i) => (i % from < from / 2 ? 0.25 : 0.9));
      const out = resample(step, from, 4, 1, to, 4, { filter });
      for (const v of out) expect(v >= 0.25 - 1e-6 && v <= 0.9 + 1e-6).toBe(true);
      for (let x = 1; x < to; x++) expect(out[x]).toBeGreaterThanOrEqual(out[x - 1] - 1e-6);
    }
  });

  test.each(['lanczos', 'mitchell'] as const)(
    '%s: colours stay within those around them whatever their alpha',
    (filter: ResampleFilter) => {
      const random = seededRandom(11);
      for (let n = 0; n < 40; n++) {
        const from = 8 + Math.floor(random() * 30);
        const to = 4 + Math.floor(random() * 50);
        const line = new Float32Array(from * 2);
        for (let i = 0; i < from; i++) {
          line[i * 2] = 0.2 + random() * 0.5;
          line[i * 2 + 1] = random() < 0.5 ? Number(random() < 0.5) : random();
          if (line[i * 2 + 1] === 0) line[i * 2] = 0;
        }
        const out = resample(line, from, 1, 2, to, 1, { filter, weighted: true });
        for (let i = 0; i < to; i++) {
          expect(out[i * 2 + 1] >= 0 && out[i * 2 + 1] <= 1).toBe(true);
          if (out[i * 2 + 1] > 0) expect(out[i * 2] >= 0.2 - 1e-6 && out[i * 2] <= 0.7 + 1e-6).toBe(true);
        }
      }
    },
  );
});

test('a cut-out goes out smaller without the colour of its holes', () => {
  const size = 128;
  const sheet = newSheet('s', 'S', size, size, { wrapU: true, wrapV: true });
  sheet.maps = [...sheet.maps, 'opacity'];
  sheet.layers = [
    newCoatLayer('g', 'G', { 'base-colour': [0, 0, 0], opacity: [0] }),
    newPaintedLayer('l', 'L', ['base-colour', 'opacity']),
  ];
  const store = new TileStore();
  const put = (map: 'base-colour' | 'opacity', channels: 2 | 4) => {
    const pixels = new Uint16Array(size * size * channels);
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++)
        if (Math.hypot(x - 64, y - 64) < 41) {
          const o = (y * size + x) * channels;
          pixels.fill(map === 'opacity' ? 65535 : NINE, o, o + channels - 1);
          pixels[o + channels - 1] = 65535;
        }
    for (const [tile, data] of tilesFromPicture(pixels, size, size, channels)) store.set(`l/${map}`, tile, { data, hash: null });
  };
  put('base-colour', 4);
  put('opacity', 2);
  const piece = newPiece('p', 'P', 'canvas', [sheet]);
  const settings = { ...dispatchSchema.parse({}), bits: 8 as const, divide: 8 };
  const colour = renderMap({ piece, store, model: null }, sheet, 'base-colour', settings);
  const opacity = renderMap({ piece, store, model: null }, sheet, 'opacity', settings);
  let rims = 0;
  for (let i = 0; i < opacity.data.length; i++) {
    if (opacity.data[i] < 3) continue;
    if (opacity.data[i] < 250) rims++;
    expect(Math.abs(colour.data[i * 3] - Math.round(0.9 * 255))).toBeLessThanOrEqual(1);
  }
  expect(rims).toBeGreaterThan(10);
});

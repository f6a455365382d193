/** Meters on sheets whose faults are known by their making, and kinds that only a test knows. */
import '../compute';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import type { Sheet } from '../document/schema';
import { METERS } from '../proof/meters';
import type { Meter } from '../proof/meters/meter';
import { MOST_PLACES } from '../proof/meters/meter';
import { largestPatches } from '../proof/places';
import { prove } from '../proof/prove';
import { cubeModel } from '../testing/models';
import { tilesFromPicture, TileStore } from '../tile/tiles';

const [W, H] = [200, 150];

/** A canvas with one painted layer: opaque, but where `hole` says so. */
function canvas(hole: (x: number, y: number) => boolean, over: Partial<Sheet> = {}, alpha = 0) {
  const sheet = newSheet('s', 'Canvas', W, H, over);
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  const store = new TileStore();
  const pixels = new Uint16Array(W * H * 4);
  for (let i = 0; i < W * H; i++) pixels.set([30000, 20000, 10000, hole(i % W, (i / W) | 0) ? alpha : 65535], i * 4);
  for (const [tile, data] of tilesFromPicture(pixels, W, H, 4)) store.set('l/base-colour', tile, { data, hash: null });
  return { piece: newPiece('p', 'P', 'canvas', [sheet]), store, model: null };
}
const empty = (subject: ReturnType<typeof canvas>) => [...prove(subject)].find((f) => f.meter.id === 'empty-texels')!;
const inRect = (x0: number, y0: number, x1: number, y1: number) => (x: number, y: number) =>
  x >= x0 && x < x1 && y >= y0 && y < y1;

describe('empty texels', () => {
  test('two holes: their share, their picture, their places, the larger first', () => {
    const [small, large] = [inRect(3, 5, 13, 9), inRect(120, 100, 160, 140)];
    const found = empty(canvas((x, y) => small(x, y) || large(x, y)));
    expect(found.figure).toBeCloseTo((100 * (40 + 1600)) / (W * H), 10);
    expect(found.passed).toBe(false);
    expect(found.places).toEqual([
      { x0: 120, y0: 100, x1: 160, y1: 140, texels: 1600, part: null },
      { x0: 3, y0: 5, x1: 13, y1: 9, texels: 40, part: null },
    ]);
    const { data } = found.picture;
    for (let i = 0; i < W * H; i++) expect(data[i]).toBe(small(i % W, (i / W) | 0) || large(i % W, (i / W) | 0) ? 255 : 0);
  });

  test('a coat below, or a covered layer: nothing is empty; a hidden coat covers nothing', () => {
    const subject = canvas(inRect(0, 0, 10, 10));
    const [sheet] = subject.piece.sheets;
    const coat = newCoatLayer('c', 'Ground', { 'base-colour': [0.5, 0.5, 0.5] });
    sheet.layers = [coat, ...sheet.layers];
    expect(empty(subject)).toMatchObject({ figure: 0, passed: true, places: [] });
    const hidden = canvas(inRect(0, 0, 10, 10));
    hidden.piece.sheets[0].layers.unshift({ ...coat, visible: false });
    expect(empty(hidden).places[0].texels).toBe(100);
  });

  test('thin paint counts from a step of 8 bits on', () => {
    expect(empty(canvas(inRect(0, 0, 10, 10), {}, 256)).places[0].texels).toBe(100);
    expect(empty(canvas(inRect(0, 0, 10, 10), {}, 258)).figure).toBe(0);
  });

  test('on a model only the texels of its islands count, and the place names the part', () => {
    const sheet = newSheet('s', 'Sheet', 256, 256, { materialIndex: 0 });
    sheet.layers = [newPaintedLayer('l', 'Hand')];
    const piece = newPiece('p', 'P', 'model', [sheet], { model: { blob: '', uvSet: 0 } });
    const model = cubeModel();
    const found = empty({ piece, store: new TileStore(), model: model as never });
    expect(found.figure).toBe(100);
    const texels = found.places.reduce((n, p) => n + p.texels, 0);
    expect(texels).toBe((found.picture.data as Uint8Array).filter((v) => v === 255).length);
    // As much as the triangles cover of the square, gutters not counted.
    const [uv] = model.uvs;
    let area = 0;
    for (let f = 0; f < model.indices.length; f += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => model.indices[f + k] * 2);
      area += Math.abs((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[c] - uv[a]) * (uv[b + 1] - uv[a + 1])) / 2;
    }
    expect(texels / (256 * 256)).toBeCloseTo(area, 2);
    for (const place of found.places) expect(model.parts).toContain(place.part);
  });
});

describe('patches', () => {
  const marked = (marks: Uint8Array, wrapU = false, wrapV = false) => ({ width: 8, height: 4, marks, wrapU, wrapV });
  const at = (...places: [number, number][]) => {
    const marks = new Uint8Array(32);
    for (const [x, y] of places) marks[y * 8 + x] = 255;
    return marks;
  };
  test('touch at sides, not at corners', () => {
    expect(largestPatches(marked(at([0, 0], [1, 1], [2, 1])), null).map((p) => p.texels)).toEqual([2, 1]);
  });
  test('go over a border where the sheet wraps', () => {
    const border = at([0, 1], [7, 1], [3, 0], [3, 3]);
    expect(largestPatches(marked(border), null).map((p) => p.texels)).toEqual([1, 1, 1, 1]);
    expect(largestPatches(marked(border, true), null).map((p) => p.texels)).toEqual([2, 1, 1]);
    expect(largestPatches(marked(border, true, true), null).map((p) => p.texels)).toEqual([2, 2]);
  });
  test('only the largest are told', () => {
    const marks = new Uint8Array(64 * 64).map((_, i) => (i % 2 === 0 && ((i / 64) | 0) % 2 === 0 ? 255 : 0));
    expect(largestPatches({ width: 64, height: 64, marks, wrapU: false, wrapV: false }, null)).toHaveLength(MOST_PLACES);
  });
});

test('a meter that only this test knows is run like the others, with its limit or that of the caller', () => {
  const toy: Meter = {
    ...{ id: 'toy', label: 'Toy', hint: 'Counts layers.', unit: 'layers', limit: 0 },
    maps: () => ['base-colour', 'height'],
    measure: ({ source: { sheet } }) => ({
      figure: sheet.layers.length,
      picture: { width: 1, height: 1, channels: 1, bits: 8, data: new Uint8Array(1) },
      places: [],
    }),
  };
  const subject = canvas(() => false);
  const findings = [...prove(subject, {}, [...METERS, toy])].filter((f) => f.meter === toy);
  expect(findings.map(({ map, figure, passed }) => [map.id, figure, passed])).toEqual([
    ['base-colour', 1, false],
    ['height', 1, false],
  ]);
  expect([...prove(subject, { toy: 1 }, [toy])].every((f) => f.passed)).toBe(true);
});

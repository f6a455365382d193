import { applyEdit, setLayerEdit } from '../document/edits';
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
import { LIMITS, pieceSchema, stepSchema, type Layer, type Sheet } from '../document/schema';
import { planeKey } from '../document/planes';
import { reshapePlane, sourceOf } from '../document/reshape';
import { tileIndex, TileStore } from '../tile/tiles';
import { evaluateWhole16 } from '../strata/evaluate';
import { PLAIN } from '../kinds/placement';
import { seededRandom } from '../testing/models';
import { scribble } from '../testing/stacks';
import { copyLayers, duplicateLayers, pasteLayers } from '../document/work/copy';
import { addPictures, fillMask } from '../document/work/fill';
import { groupLayers, ungroupLayers } from '../document/work/group';
import { mergeLayers, type MergeHow } from '../document/work/merge';
import { reshapeSheet } from '../document/work/reshapeSheet';
import { WorkError, type Work } from '../document/work/work';
import { mergedPaint } from '../strata/merge';

let serial = 0;
const newId = () => `new${serial++}`;

function bench(...layers: Layer[]) {
  const sheet: Sheet = {
    ...newSheet('s', 'Sheet', 64, 48),
    layers,
    masks: [newMask('m', 'Mask', 0)],
  };
  const store = new TileStore();
  const random = seededRandom(5);
  for (const l of layers)
    if (l.kind === 'painted')
      for (const [map, n] of [
        ['base-colour', 4],
        ['height', 2],
      ] as const)
        scribble(random, store, planeKey(l.id, map), n, 64, 48);
  scribble(random, store, planeKey('m', 'mask'), 2, 64, 48);
  return { sheet, store, piece: newPiece('p', 'P', 'canvas', [sheet]) };
}

const merged = ({ sheet, store }: ReturnType<typeof bench>, how: MergeHow, ids: readonly string[]): Work =>
  mergeLayers(sheet, how, ids, newId, (layers, id) => mergedPaint(sheet, store, layers, id));

/** The sheet after a work; the document must be sound. */
function after({ piece, store }: ReturnType<typeof bench>, work: Work): Sheet {
  const next = applyEdit(piece, work.edit);
  expect(pieceSchema.safeParse(next).error?.issues ?? []).toEqual([]);
  store.apply(work.changes);
  return next.sheets[0];
}
const shows = (sheet: Sheet, store: TileStore) => evaluateWhole16({ sheet, store }, 'base-colour');
/** Greatest difference in 16-bit steps. */
const apart = (a: Uint16Array, b: Uint16Array) => a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0);

describe('merging', () => {
  test('a normal layer merged down shows the same, to a step or two', () => {
    const b = bench(newCoatLayer('g', 'G', { 'base-colour': [0.3, 0.5, 0.7] }), newPaintedLayer('x', 'X'), {
      ...newPaintedLayer('y', 'Y'),
      opacity: 0.6,
      mask: { id: 'm', on: true },
    });
    const before = shows(b.sheet, b.store);
    const sheet = after(b, merged(b, 'down', ['y']));
    expect(sheet.layers.map((l) => l.name)).toEqual(['G', 'X']);
    expect(apart(shows(sheet, b.store), before)).toBeLessThanOrEqual(3);
  });

  test('flattening a stack of groups and adjustments shows the same; a merged copy leaves the stack as it is', () => {
    const inside = (l: Layer): Layer => ({ ...l, parent: 'q' });
    const layers = () => [
      newCoatLayer('g', 'G', { 'base-colour': [0.3, 0.5, 0.7] }),
      inside(newPaintedLayer('x', 'X')),
      inside(newAdjustLayer('i', 'I', { type: 'invert' }, ['base-colour'])),
      { ...newGroup('q', 'Q'), opacity: 0.8 },
      { ...newPaintedLayer('y', 'Y'), blend: 'multiply' as const },
    ];
    const flat = bench(...layers());
    const before = shows(flat.sheet, flat.store);
    const sheet = after(flat, merged(flat, 'flatten', []));
    expect(sheet.layers.length).toBe(1);
    expect(apart(shows(sheet, flat.store), before)).toBeLessThanOrEqual(2);
    const copy = bench(...layers());
    const with1 = after(copy, merged(copy, 'visible', []));
    expect(with1.layers.length).toBe(6);
    expect(apart(shows(with1, copy.store), before)).toBeLessThanOrEqual(2);
  });

  test('what is locked, has nothing below, or lies in different groups is refused in one sentence', () => {
    const b = bench(
      { ...newPaintedLayer('x', 'X'), lock: 'paint' },
      newPaintedLayer('y', 'Y'),
      { ...newPaintedLayer('z', 'Z'), parent: 'q' },
      newGroup('q', 'Q'),
    );
    for (const [how, ids] of [
      ['down', ['y']],
      ['down', ['z']],
      ['selected', ['y', 'z']],
    ] as const)
      expect(() => merged(b, how, ids)).toThrow(WorkError);
  });
});

test('grouping and opening up again gives the first order', () => {
  const b = bench(newPaintedLayer('a', 'A'), newPaintedLayer('b', 'B'), newPaintedLayer('c', 'C'));
  const grouped = applyEdit(b.piece, groupLayers(b.sheet, newGroup('q', 'Q'), ['a', 'b']));
  expect(grouped.sheets[0].layers.map((l) => `${l.parent ?? ''}/${l.id}`)).toEqual(['q/a', 'q/b', '/q', '/c']);
  expect(applyEdit(grouped, ungroupLayers(grouped.sheets[0], 'q')).sheets[0].layers.map((l) => l.id)).toEqual(['a', 'b', 'c']);
});

test('a duplicated group has its own paint, and echoes inside it follow their copies', () => {
  const echo = { ...newEchoLayer('e', 'E', 'x', 'base-colour', ['height']), parent: 'q' };
  const b = bench({ ...newPaintedLayer('x', 'X'), parent: 'q' }, echo, newGroup('q', 'Q'));
  const sheet = after(b, duplicateLayers(b.sheet, b.store, ['q'], newId));
  const [x2, e2, q2] = sheet.layers.slice(3);
  expect([x2.parent, e2.parent, e2.echo!.of, q2.name]).toEqual([q2.id, q2.id, x2.id, 'Q 2']);
  expect([...b.store.tilesOf(planeKey(x2.id, 'base-colour')).keys()]).toEqual([
    ...b.store.tilesOf(planeKey('x', 'base-colour')).keys(),
  ]);
});

test('a clip pasted into a sheet of another size is fitted, with its mask; in its own sheet the mask stays one', async () => {
  const b = bench({ ...newPaintedLayer('x', 'X'), mask: { id: 'm', on: true } });
  const clip = await copyLayers('p', b.sheet, b.store, ['x'], async (v) => (v.hash ??= newId()));
  const versions = new Map(
    [...b.store.planeKeys()].flatMap((k) => [...b.store.tilesOf(k).values()].map((v) => [v.hash!, v] as const)),
  );
  const here = after(b, pasteLayers(b.sheet, clip, { parent: null, above: 'x' }, versions, newId));
  expect(here.masks.length).toBe(1);
  const other = { sheet: newSheet('o', 'Other', 128, 96), store: new TileStore() };
  const there = after(
    { ...other, piece: newPiece('q', 'Q', 'canvas', [other.sheet]) },
    pasteLayers(other.sheet, clip, { parent: null, above: null }, versions, newId),
  );
  expect(there.masks.length).toBe(1);
  expect(there.layers[0].mask!.id).toBe(there.masks[0].id);
  expect(other.store.tilesOf(planeKey(there.layers[0].id, 'base-colour')).size).toBe(1);
});

test('a recipe goes along with its layer: painted steps, pictures, and the layers and masks that its steps name', async () => {
  const named = newPaintedLayer('n', 'Named');
  const b = bench(named, {
    ...newCoatLayer('x', 'X', { 'base-colour': [1, 0, 0] }, ['base-colour', 'height']),
    mask: { id: 'r', on: true },
  });
  const random = seededRandom(8);
  const step = (id: string, source: object) => stepSchema.parse({ id, source });
  const recipe = newMask('r', 'Recipe', 0, {
    steps: [
      step('stroke', { type: 'paint' }),
      step('layer', { type: 'layer', of: 'n', map: 'height', take: 'value' }),
      step('mask', { type: 'mask', of: 'm' }),
      step('picture', { type: 'picture', use: { picture: 'pic' }, placement: PLAIN }),
    ],
  });
  const sheet: Sheet = {
    ...b.sheet,
    masks: [...b.sheet.masks, recipe],
    pictures: [{ id: 'pic', name: 'Pic', width: 32, height: 16, encoding: 'linear' }],
  };
  scribble(random, b.store, planeKey('stroke', 'mask'), 2, 64, 48);
  scribble(random, b.store, planeKey('pic', 'picture'), 4, 32, 16);
  const source = { ...b, sheet, piece: newPiece('p', 'P', 'canvas', [sheet]) };
  const clip = await copyLayers('p', sheet, b.store, ['n', 'x'], async (v) => (v.hash ??= newId()));
  const versions = new Map(
    [...b.store.planeKeys()].flatMap((k) => [...b.store.tilesOf(k).values()].map((v) => [v.hash!, v] as const)),
  );
  const other = { sheet: newSheet('o', 'Other', 64, 48), store: new TileStore() };
  const there = after(
    { ...other, piece: newPiece('q', 'Q', 'canvas', [other.sheet]) },
    pasteLayers(other.sheet, clip, { parent: null, above: null }, versions, newId),
  );
  // It shows what it showed, and nothing in it names what stayed behind.
  expect(shows(there, other.store)).toEqual(shows(source.sheet, b.store));
  const text = JSON.stringify(there);
  expect(['n', 'x', 'm', 'r', 'pic', 'stroke'].filter((old) => text.includes(`:"${old}"`))).toEqual([]);
  expect(there.pictures).toHaveLength(1);
  expect(there.masks.map((m) => m.name).sort()).toEqual(['Mask', 'Recipe']);
});

test('a picture of 16,384 texels a side is taken at 4,096, in proportion; one of a single texel stays', () => {
  const b = bench(newCoatLayer('x', 'X', {}, ['base-colour']));
  const picture = (width: number, height: number) => ({
    width,
    height,
    channels: 1 as const,
    bits: 16 as const,
    data: new Uint16Array(width * height).fill(40000),
  });
  const many = [
    { id: 'wide', name: 'Wide', encoding: 'linear' as const, picture: picture(16384, 8) },
    { id: 'dot', name: 'Dot', encoding: 'linear' as const, picture: picture(1, 1) },
  ];
  const then = setLayerEdit(b.sheet, b.sheet.layers[0], { note: 'pictured' });
  const sheet = after(b, addPictures(b.sheet, many, then, 'Pictures'));
  expect(sheet.pictures.map(({ width, height }) => [width, height])).toEqual([
    [4096, 2],
    [1, 1],
  ]);
  expect(sheet.layers[0].note).toBe('pictured');
  const first = b.store.get(planeKey('wide', 'picture'), tileIndex(31, 0))!.data!;
  expect([...first.subarray(0, 4)]).toEqual([40000, 40000, 40000, 65535]);
  const full: Sheet = {
    ...b.sheet,
    pictures: Array.from({ length: LIMITS.maxPictures }, (_, n) => ({ ...sheet.pictures[1], id: `p${n}` })),
  };
  expect(() => addPictures(full, many, then, 'Pictures')).toThrow(WorkError);
});

describe('reshaping', () => {
  test('four quarter turns, two mirrorings and extending then cropping bring every texel back', () => {
    const random = seededRandom(8);
    for (const map of ['base-colour', 'height', 'normal'] as const) {
      const channels = map === 'height' ? 2 : 4;
      const pixels = Uint16Array.from({ length: 12 * 7 * channels }, () => random() * 65536);
      const turn = (p: Uint16Array, n: number): Uint16Array =>
        n === 0
          ? p
          : turn(
              reshapePlane(p, n % 2 ? { width: 7, height: 12 } : { width: 12, height: 7 }, map, { kind: 'turn', quarters: 1 }),
              n - 1,
            );
      expect(turn(pixels, 4)).toEqual(pixels);
      for (const axis of ['x', 'y'] as const) {
        const mirror = (p: Uint16Array) => reshapePlane(p, { width: 12, height: 7 }, map, { kind: 'mirror', axis });
        expect(mirror(mirror(pixels))).toEqual(pixels);
      }
      const wide = reshapePlane(pixels, { width: 12, height: 7 }, map, { kind: 'frame', x: -3, y: -2, width: 20, height: 20 });
      expect(reshapePlane(wide, { width: 20, height: 20 }, map, { kind: 'frame', x: 3, y: 2, width: 12, height: 7 })).toEqual(
        pixels,
      );
    }
  });

  test('a quarter clockwise brings the top left to the top right', () => {
    expect(sourceOf(6, 0, { width: 12, height: 7 }, { kind: 'turn', quarters: 1 })).toEqual([0, 0]);
  });

  test('resizing keeps what shows, about; a size out of range and a crop on a model are refused', () => {
    const b = bench(newCoatLayer('g', 'G', { 'base-colour': [0.5, 0.5, 0.5] }), newPaintedLayer('x', 'X'));
    const sheet = after(b, reshapeSheet(b.sheet, b.store, { kind: 'resize', width: 32, height: 24 }));
    expect([sheet.width, sheet.height]).toEqual([32, 24]);
    expect(() => reshapeSheet(b.sheet, b.store, { kind: 'resize', width: 4, height: 24 })).toThrow('whole number from 16');
    const onModel = { ...b.sheet, materialIndex: 0 };
    expect(() => reshapeSheet(onModel, b.store, { kind: 'mirror', axis: 'x' })).toThrow('only be resized');
  });
});

test('filling a mask drops its paint and sets its ground', () => {
  const b = bench(newPaintedLayer('x', 'X'));
  const sheet = after(b, fillMask(b.sheet, b.store, b.sheet.masks[0], 1));
  expect(sheet.masks[0].ground).toBe(1);
  expect(b.store.tilesOf(planeKey('m', 'mask')).size).toBe(0);
});

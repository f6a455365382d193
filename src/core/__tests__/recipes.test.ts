/** Masks as recipes, coats by rule, placed pictures, mixing by height, shading by distance: what they mean. */
import { readPieceFile, writePieceFile } from '../piece/pieceFile';
import { newAdjustLayer, newCoatLayer, newEchoLayer, newMask, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { guessMaps, setName } from '../document/pictureNames';
import {
  DOCUMENT_VERSION,
  parsePiece,
  pieceSchema,
  stepSchema,
  type Layer,
  type Mask,
  type Sheet,
  type Step,
} from '../document/schema';
import type { StepSource } from '../kinds/steps';
import { planeKey } from '../document/planes';
import { whyUnmakeable } from '../document/tree';
import { miniatureOf } from '../piece/miniature';
import { TILE, TILE_TEXELS, tileIndex, tilesFromPicture, tilesOf, TileStore } from '../tile/tiles';
import { evaluateWhole16, valueAt } from '../strata/evaluate';
import { Evaluator } from '../strata/evaluator';
import type { Filter } from '../kinds/filters';
import { programOfMask } from '../strata/program';
import { placementSchema } from '../kinds/placement';
import { SOURCES, type Made } from '../kinds/sources';
import { seededRandom } from '../testing/models';
import { scribble } from '../testing/stacks';

const SIZE = 128;
const step = (id: string, source: StepSource, over: Partial<Step> = {}): Step => stepSchema.parse({ id, source, ...over });
const constant = (value: number): StepSource => ({ type: 'constant', value });
const sheetWith = (layers: Layer[], masks: Mask[] = [], over: Partial<Sheet> = {}): Sheet =>
  newSheet('s', 'Sheet', SIZE, SIZE, { layers, masks, ...over });

/** A mask's value at a texel. */
function maskAt(sheet: Sheet, store: TileStore, maskId: string, x: number, y: number, layerId: string | null = null): number {
  const use = programOfMask(sheet, maskId, layerId)!;
  const value = new Evaluator({ sheet, store }).tile(use.scope, tileIndex((x / TILE) | 0, (y / TILE) | 0));
  return value.data ? value.data[(y % TILE) * TILE + (x % TILE)] : value.uniform[0];
}

describe('recipes', () => {
  test.each([
    ['multiply', 0.4 * 0.5],
    ['add', 0.9],
    ['subtract', 0],
    ['screen', 0.7],
    ['lighten', 0.5],
    ['darken', 0.4],
    ['difference', 0.1],
  ] as const)('0.4 and then 0.5 joined by %s', (blend, expected) => {
    const mask = newMask('m', 'M', 0, { steps: [step('a', constant(0.4)), step('b', constant(0.5), { blend })] });
    expect(maskAt(sheetWith([], [mask]), new TileStore(), 'm', 3, 3)).toBeCloseTo(expected, 5);
  });

  test('amount weighs a step, "not" turns it round, a step that is off is not there, adjustments come before joining', () => {
    const of = (...steps: Step[]) => maskAt(sheetWith([], [newMask('m', 'M', 0, { steps })]), new TileStore(), 'm', 0, 0);
    expect(of(step('a', constant(1)), step('b', constant(0.5), { blend: 'multiply', amount: 0.5 }))).toBeCloseTo(0.75, 5);
    expect(of(step('a', constant(0.2), { invert: true }))).toBeCloseTo(0.8, 5);
    expect(of(step('a', constant(0.2)), step('b', constant(0.9), { on: false }))).toBeCloseTo(0.2, 5);
    const levels: Filter = { type: 'levels', black: 0.2, white: 0.6, gamma: 1, outBlack: 0, outWhite: 1 };
    expect(of(step('a', constant(0.8)), step('b', constant(0.4), { blend: 'multiply', filters: [levels] }))).toBeCloseTo(0.4, 4);
  });

  test('a mask as a whole can be turned round, and hides what it hides from its layer', () => {
    const mask = newMask('m', 'M', 0, { invert: true, steps: [step('a', constant(0.25))] });
    const coat: Layer = { ...newCoatLayer('c', 'C', { roughness: [1] }), mask: { id: 'm', on: true } };
    const sheet = sheetWith([coat], [mask]);
    expect(valueAt({ sheet, store: new TileStore() }, 'roughness', 5, 5)[0]).toBeCloseTo(0.6 + 0.75 * 0.4, 4);
  });

  test('paint in a later step goes over what is there, only where it was painted', () => {
    const store = new TileStore();
    const data = new Uint16Array(TILE_TEXELS * 2);
    data.set([65535, 65535], 0);
    store.set(planeKey('p', 'mask'), 0, { data, hash: null });
    const mask = newMask('m', 'M', 0, { steps: [step('a', constant(0.3)), step('p', { type: 'paint' })] });
    const sheet = sheetWith([], [mask]);
    expect(maskAt(sheet, store, 'm', 0, 0)).toBeCloseTo(1, 5);
    expect(maskAt(sheet, store, 'm', 1, 0)).toBeCloseTo(0.3, 5);
  });

  test('"below" is what lies under the layer that the mask is on, and nothing above it', () => {
    const below = newCoatLayer('a', 'A', { height: [0.7] });
    const above = newCoatLayer('z', 'Z', { height: [0.2] });
    const mask = newMask('m', 'M', 0, { steps: [step('s1', { type: 'below', map: 'height', by: 'luminance' })] });
    const on: Layer = { ...newCoatLayer('c', 'C', { roughness: [1] }), mask: { id: 'm', on: true } };
    const sheet = sheetWith([below, on, above], [mask]);
    expect(maskAt(sheet, new TileStore(), 'm', 9, 9, 'c')).toBeCloseTo(0.7, 4);
    expect(maskAt(sheetWith([on, below, above], [mask]), new TileStore(), 'm', 9, 9, 'c')).toBeCloseTo(0.5, 4);
  });

  test('another layer’s alpha, its value, and a linked mask', () => {
    const store = new TileStore();
    const painted = newPaintedLayer('p', 'P', ['roughness']);
    scribble(seededRandom(4), store, planeKey('p', 'roughness'), 2, SIZE, SIZE);
    const stored = store.get(planeKey('p', 'roughness'), 0)!.data!;
    const at = stored.findIndex((v, i) => i % 2 === 1 && v > 20000) >> 1;
    const [x, y] = [at % TILE, Math.floor(at / TILE)];
    const of = (take: 'alpha' | 'value'): StepSource => ({ type: 'layer', of: 'p', map: 'roughness', take, by: 'luminance' });
    const alpha = newMask('alpha', 'Alpha', 0, { steps: [step('s1', of('alpha'))] });
    const value = newMask('value', 'Value', 0, { steps: [step('s2', of('value'))] });
    const linked = newMask('linked', 'Linked', 0, { steps: [step('s3', { type: 'mask', of: 'alpha' }, { invert: true })] });
    const sheet = sheetWith([painted], [alpha, value, linked]);
    const [v, a] = [stored[at * 2] / 65535, stored[at * 2 + 1] / 65535];
    expect(maskAt(sheet, store, 'alpha', x, y)).toBeCloseTo(a, 4);
    expect(maskAt(sheet, store, 'value', x, y)).toBeCloseTo(v * a, 4);
    expect(maskAt(sheet, store, 'linked', x, y)).toBeCloseTo(1 - a, 4);
  });

  test('what would be made from itself is found and named; the evaluator ends all the same', () => {
    const mask = newMask('m', 'Ring', 0, { steps: [step('s1', { type: 'mask', of: 'm' })] });
    expect(whyUnmakeable([], [mask])).toContain('"Ring" would be made from itself');
    const own = newMask('o', 'Own', 0, {
      steps: [step('s2', { type: 'layer', of: 'c', map: 'height', take: 'alpha', by: 'luminance' })],
    });
    const coat: Layer = { ...newCoatLayer('c', 'Coat', { height: [1] }), mask: { id: 'o', on: true } };
    expect(whyUnmakeable([coat], [own])).toContain('"Coat" would be made from itself');
    const piece = newPiece('p', 'P', 'canvas', [sheetWith([coat], [own])]);
    expect(pieceSchema.safeParse(piece).error?.issues[0].message).toContain('would be made from itself');
    expect(valueAt({ sheet: piece.sheets[0], store: new TileStore() }, 'height', 0, 0)[0]).toBeGreaterThan(0);
    // "Below" never makes a ring: it looks only down.
    const down = newMask('d', 'Down', 0, { steps: [step('s3', { type: 'below', map: 'height', by: 'mean' })] });
    expect(whyUnmakeable([newCoatLayer('a', 'A', { height: [1] }), { ...coat, mask: { id: 'd', on: true } }], [down])).toBeNull();
  });
});

describe('mixing by height', () => {
  const mixed = (own: number, below: number, p: Partial<Extract<StepSource, { type: 'contact' }>> = {}) => {
    const source: StepSource = { type: 'contact', offset: 0, contrast: 0.8, line: 0, ...p };
    const mask = newMask('m', 'M', 0, { steps: [step('s1', source)] });
    const coat: Layer = { ...newCoatLayer('c', 'C', { height: [own], roughness: [1] }), mask: { id: 'm', on: true } };
    return maskAt(sheetWith([newCoatLayer('a', 'A', { height: [below] }), coat], [mask]), new TileStore(), 'm', 0, 0, 'c');
  };

  test('it shows where its own height is above what is below, and not where it is under it', () => {
    expect(mixed(0.7, 0.5)).toBe(1);
    expect(mixed(0.4, 0.6)).toBe(0);
    expect(mixed(0.5, 0.5)).toBeCloseTo(0.5, 2);
  });

  test('the offset lifts it, contrast hardens the contact, a line shows only the contact', () => {
    expect(mixed(0.4, 0.5, { offset: 0.2 })).toBeGreaterThan(0.9);
    const soft = mixed(0.52, 0.5, { contrast: 0 });
    const hard = mixed(0.52, 0.5, { contrast: 1 });
    expect(soft).toBeLessThan(hard);
    expect(mixed(0.5, 0.5, { line: 0.1, contrast: 1 })).toBeCloseTo(1, 3);
    expect(mixed(0.8, 0.5, { line: 0.1, contrast: 1 })).toBeCloseTo(0, 3);
  });
});

describe('coats by rule', () => {
  const made: Made = { ...SOURCES.clouds.start };
  test('a cell goes from its low end to its value as the source goes from 0 to 1; others stay even', () => {
    const coat = newCoatLayer('c', 'C', { roughness: [0.9], metallic: [0.25], height: [0.6] });
    coat.source = made;
    coat.cells.roughness = { ...coat.cells.roughness!, low: [0.3] };
    const sheet = sheetWith([coat]);
    const rough = evaluateWhole16({ sheet, store: new TileStore() }, 'roughness');
    const plain = evaluateWhole16({ sheet, store: new TileStore() }, 'metallic');
    const [low, high] = rough.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [65535, 0]);
    expect(low / 65535).toBeGreaterThanOrEqual(0.3 - 1e-4);
    expect(high / 65535).toBeLessThanOrEqual(0.9 + 1e-4);
    expect(high - low).toBeGreaterThan(8000);
    expect(new Set(plain).size).toBe(1);
  });

  test('a ramp with one stop is that colour all over', () => {
    const coat = newCoatLayer('c', 'C', { 'base-colour': [1, 1, 1] });
    coat.source = made;
    coat.cells['base-colour']!.ramp = [{ at: 0.4, colour: [0.2, 0.4, 0.6] }];
    const at = valueAt({ sheet: sheetWith([coat]), store: new TileStore() }, 'base-colour', 40, 70);
    [0.2, 0.4, 0.6].forEach((v, k) => expect(at[k]).toBeCloseTo(v, 4));
  });

  test('an echo takes colour into height by the number that it is told, and height into a normal by kernel and strength', () => {
    const coat = newCoatLayer('c', 'C', { 'base-colour': [0.9, 0.3, 0.1] });
    const echo = (by: 'red' | 'green' | 'maximum' | 'mean') => {
      const layer = newEchoLayer('e', 'E', 'c', 'base-colour', ['roughness']);
      layer.echo!.by = by;
      return valueAt({ sheet: sheetWith([coat, layer]), store: new TileStore() }, 'roughness', 1, 1)[0];
    };
    expect(echo('red')).toBeCloseTo(0.9, 4);
    expect(echo('green')).toBeCloseTo(0.3, 4);
    expect(echo('maximum')).toBeCloseTo(0.9, 4);
    expect(echo('mean')).toBeCloseTo(1.3 / 3, 4);
    // A ramp across the sheet: slope heightSpan · width texels over the width.
    const ramp = newCoatLayer('h', 'H', { height: [1] });
    ramp.source = { ...SOURCES.gradient.start, from: [1, 0.5, 0], to: [0, 0.5, 0], smooth: false } as Made;
    ramp.cells.height = { ...ramp.cells.height!, low: [0] };
    const relief = newEchoLayer('r', 'R', 'h', 'height', ['normal']);
    for (const kernel of [3, 9] as const) {
      relief.echo!.relief = { strength: 2, kernel };
      const sheet = sheetWith([ramp, relief], [], { maps: ['base-colour', 'height', 'normal'], heightSpan: 0.25 });
      const n = valueAt({ sheet, store: new TileStore() }, 'normal', 64, 64).map((v) => v * 2 - 1);
      expect(-n[0] / n[2]).toBeCloseTo(2 * 0.25, 2);
      expect(n[1]).toBeCloseTo(0, 3);
    }
  });
});

describe('shading inside edges', () => {
  const disc = (filter: Filter) => {
    const store = new TileStore();
    const pixels = new Uint16Array(SIZE * SIZE * 2);
    for (let y = 0; y < SIZE; y++)
      for (let x = 0; x < SIZE; x++) if (Math.hypot(x - 63.5, y - 63.5) < 40) pixels.set([65535, 65535], (y * SIZE + x) * 2);
    for (const [tile, data] of tilesFromPicture(pixels, SIZE, SIZE, 2))
      store.set(planeKey('p', 'roughness'), tile, { data, hash: null });
    const of: StepSource = { type: 'layer', of: 'p', map: 'roughness', take: 'alpha', by: 'luminance' };
    const mask = newMask('m', 'M', 0, { steps: [step('s1', of, { filters: [filter] })] });
    const sheet = sheetWith([newPaintedLayer('p', 'P', ['roughness'])], [mask]);
    return (x: number) => maskAt(sheet, store, 'm', x, 63);
  };

  test('a shadow fades from the edge inwards over its width; outside there is nothing', () => {
    const at = disc({ type: 'rim', shape: 'shadow', width: 20, soften: 0 });
    expect(at(64 + 45)).toBe(0);
    expect(at(64 + 38)).toBeGreaterThan(0.95);
    expect(at(64 + 29)).toBeCloseTo(0.5, 1);
    expect(at(64)).toBeCloseTo(0, 3);
  });

  test('a bevel rises from 0 at the edge to 1 at its width, a line is only along the edge', () => {
    const bevel = disc({ type: 'rim', shape: 'bevel', width: 20, soften: 0 });
    expect(bevel(64 + 39)).toBeLessThan(0.35);
    expect(bevel(64 + 15)).toBeCloseTo(1, 2);
    const line = disc({ type: 'rim', shape: 'outline', width: 4, soften: 0.2 });
    expect(line(64 + 38)).toBeGreaterThan(0.9);
    expect(line(64 + 20)).toBe(0);
  });

  test('growing by n texels moves the outline by n texels, shrinking back again', () => {
    const grown = disc({ type: 'grow', by: 10, soften: 0 });
    expect(grown(64 + 48)).toBe(1);
    expect(grown(64 + 52)).toBe(0);
    const shrunk = disc({ type: 'grow', by: -10, soften: 0 });
    expect(shrunk(64 + 32)).toBe(0);
    expect(shrunk(64 + 27)).toBe(1);
  });
});

describe('placed pictures', () => {
  /** A 4 × 2 picture of distinct greys with alpha. */
  function piece(over: { hide?: number; repeats?: number; neutral?: number } = {}) {
    const store = new TileStore();
    const pixels = new Uint16Array(4 * 2 * 4);
    for (let i = 0; i < 8; i++) pixels.set([i * 8000, i * 4000, 65535 - i * 8000, i === 7 ? 32768 : 65535], i * 4);
    for (const [tile, data] of tilesFromPicture(pixels, 4, 2, 4))
      store.set(planeKey('pic', 'picture'), tile, { data, hash: null });
    const coat = newCoatLayer('c', 'C', { roughness: [0.5] });
    coat.cells.roughness = { ...coat.cells.roughness!, placed: { picture: 'pic', take: 'red', neutral: over.neutral ?? 0 } };
    coat.placement = placementSchema.parse({ by: 'uv', repeats: over.repeats ?? 1, hide: over.hide ?? 0 });
    const sheet = sheetWith([coat], [], {
      pictures: [{ id: 'pic', name: 'Greys', width: 4, height: 2, encoding: 'linear' }],
    });
    return { piece: newPiece('p', 'P', 'canvas', [sheet]), sheet, store };
  }

  test('a picture lies once over the sheet, texel centres on texel centres, and repeats as often as it is told', () => {
    const { sheet, store } = piece();
    // The middle of the picture's second texel of the first row.
    expect(valueAt({ sheet, store }, 'roughness', 47, 31)[0]).toBeCloseTo(8000 / 65535, 2);
    const twice = piece({ repeats: 2 });
    expect(valueAt({ sheet: twice.sheet, store: twice.store }, 'roughness', 23, 15)[0]).toBeCloseTo(8000 / 65535, 2);
    expect(valueAt({ sheet: twice.sheet, store: twice.store }, 'roughness', 23 + 64, 15 + 64)[0]).toBeCloseTo(8000 / 65535, 2);
  });

  test('made neutral its mean is the middle grey', () => {
    const { sheet, store } = piece({ neutral: 1 });
    const all = evaluateWhole16({ sheet, store }, 'roughness');
    expect(all.reduce((a, b) => a + b, 0) / all.length / 65535).toBeCloseTo(0.5, 1);
  });

  test('the piece file holds pictures in their own size; a picture that is used but not there is refused', () => {
    const { piece: p, store } = piece();
    const back = readPieceFile(writePieceFile({ piece: p, store, modelGlb: null, thumbnailPng: null }));
    expect(back.piece).toEqual(p);
    expect(back.store.get(planeKey('pic', 'picture'), 0)!.data).toEqual(store.get(planeKey('pic', 'picture'), 0)!.data);
    const lost = structuredClone(p);
    lost.sheets[0].pictures = [];
    expect(parsePiece(lost)).toMatchObject({ ok: false, message: expect.stringContaining('"pic" is asked for') });
  });

  test('a 1 × 1 picture is its one colour, whatever the placement', () => {
    const { sheet, store } = piece();
    const one = { ...sheet, pictures: [{ ...sheet.pictures[0], width: 1, height: 1 }] };
    const data = new Uint16Array(TILE_TEXELS * 4);
    data.set([20000, 0, 0, 65535]);
    store.set(planeKey('pic', 'picture'), 0, { data, hash: null });
    for (const hide of [0, 1]) {
      const layers = one.layers.map((l) => ({ ...l, placement: { ...l.placement!, hide, repeats: 3.3, turn: 20 } }));
      expect(valueAt({ sheet: { ...one, layers }, store }, 'roughness', 77, 12)[0]).toBeCloseTo(20000 / 65535, 3);
    }
  });

  test('file names say what a picture is for', () => {
    const maps = ['base-colour', 'height', 'roughness', 'metallic', 'normal', 'occlusion'] as const;
    const of = (name: string) => guessMaps(name, maps).map((g) => `${g.map}${g.take === 'luminance' ? '' : `:${g.take}`}`);
    expect(of('harbour_wall_BaseColor.png')).toEqual(['base-colour']);
    expect(of('wall-albedo.tif')).toEqual(['base-colour']);
    expect(of('wall_rough_2k.jpg')).toEqual(['roughness']);
    expect(of('Wall Normal.png')).toEqual(['normal']);
    expect(of('wall_AO.png')).toEqual(['occlusion']);
    expect(of('wall_orm.png')).toEqual(['occlusion:red', 'roughness:green', 'metallic:blue']);
    expect(of('emission.png')).toEqual([]);
    expect(of('gulls at noon.jpg')).toEqual([]);
    expect(setName(['quay_wall_color.png', 'quay_wall_rough.png'])).toBe('Quay wall');
    expect(setName(['kelp_albedo.png'])).toBe('Kelp');
  });
});

describe('documents', () => {
  test('a document of version 3 gets a painted step for each of its masks, under the mask’s own id', () => {
    const now = newPiece('p', 'P', 'canvas', [sheetWith([], [newMask('m', 'M', 1)])]);
    const old = structuredClone(now) as unknown as { version: number; sheets: { masks: object[]; pictures?: object }[] };
    old.version = 3;
    old.sheets[0].masks = [{ id: 'm', name: 'M', ground: 1, invert: false }];
    delete old.sheets[0].pictures;
    const read = parsePiece(old);
    expect(read.ok && read.value).toEqual({ ...now, version: DOCUMENT_VERSION });
  });

  test('the miniature of a sheet has the same layers over 128 texels, and follows what is painted', () => {
    const store = new TileStore();
    const layer = newPaintedLayer('p', 'P', ['roughness']);
    const sheet = newSheet('s', 'Sheet', 512, 256, {
      layers: [layer, newAdjustLayer('b', 'B', { type: 'blur', sigma: 8 }, ['roughness'])],
    });
    const mini = miniatureOf(sheet, store);
    expect([mini.sheet.width, mini.sheet.height]).toEqual([128, 64]);
    expect(mini.sheet.layers[1].filter).toEqual({ type: 'blur', sigma: 2 });
    expect(valueAt(mini, 'roughness', 64, 32)[0]).toBeCloseTo(0.6, 4);
    for (const tile of tilesOf(512, 256)) {
      const data = new Uint16Array(TILE_TEXELS * 2).fill(65535);
      store.set(planeKey('p', 'roughness'), tile, { data, hash: null });
    }
    expect(valueAt(miniatureOf(sheet, store), 'roughness', 64, 32)[0]).toBeCloseTo(1, 4);
  });
});

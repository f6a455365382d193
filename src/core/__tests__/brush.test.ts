import { brushSchema, type Brush } from '../hand/brush';
import type { FlatSample, ModelSample } from '../hand/sample';
import { FALLOFF_STEPS } from '../../kernels/dabs';
import { Coverage, falloffTable } from '../hand/coverage';
import { dabFlat, type FlatDab, type FlatLimits } from '../hand/dabFlat';
import { Imprint } from '../hand/imprint';
import { StrokePath } from '../hand/path';
import { parseRecording, RecordingError, replay } from '../hand/replay';
import { Stroke } from '../hand/stroke';
import { newPaintedLayer, newPiece, newSheet } from '../document/factory';
import type { Sheet } from '../document/schema';
import type { Model } from '../mesh/model';
import { PieceSurfaces } from '../strata/pieceSurfaces';
import { invertChanges, tileIndex, TileStore, type TileVersion } from '../tile/tiles';
import { cubeModel, quadModel, seededRandom, texelNear } from '../testing/models';

const flat = (x: number, y: number, over: Partial<FlatSample> = {}): FlatSample => ({
  pane: 'flat',
  x,
  y,
  texelsPerPixel: 1,
  pressure: 1,
  tiltX: 0,
  tiltY: 0,
  time: 0,
  ...over,
});
/** A ray from a point towards another. */
const ray = (from: number[], to: number[], pressure = 1): ModelSample => {
  const d = to.map((v, k) => v - from[k]);
  const l = Math.hypot(...d);
  return {
    pane: 'model',
    origin: from as [number, number, number],
    direction: d.map((v) => v / l) as [number, number, number],
    pixelSpread: 0.001,
    pressure,
    tiltX: 0,
    tiltY: 0,
    time: 0,
  };
};
const brush = (over: Partial<Brush> & { pressureSize?: boolean; pressureOpacity?: boolean } = {}): Brush =>
  brushSchema.parse({ smoothing: 0, writes: { roughness: { on: true, value: [1], amount: 1 } }, ...over });

function canvas(over: Partial<Sheet> = {}) {
  const sheet = newSheet('s', 'Sheet', 256, 256, over);
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  return { sheet, layerId: 'l', store: new TileStore(), surface: null };
}
function onModel(model: Model, size = 256) {
  const sheet = newSheet('s', 'Sheet', size, size, { materialIndex: 0 });
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  const surfaces = new PieceSurfaces(model, 0);
  return { sheet, layerId: 'l', store: new TileStore(), surface: surfaces.forSheet(sheet), surfaces };
}
function paint(context: ConstructorParameters<typeof Stroke>[0], settings: Brush, samples: (FlatSample | ModelSample)[]) {
  const stroke = new Stroke(context, settings);
  stroke.add(samples);
  stroke.end();
  stroke.flush();
  return stroke;
}
/** Coverage 0..1 of a texel of the roughness plane. */
function cover(store: TileStore, [x, y]: [number, number]): number {
  const data = store.data('l/roughness', tileIndex(x >> 7, y >> 7));
  return data ? data[((y & 127) * 128 + (x & 127)) * 2 + 1] / 65535 : 0;
}

describe('the falloff', () => {
  test('falls from one to zero and is flat up to the hardness', () => {
    const t = falloffTable(0.5);
    expect([t[0], t[FALLOFF_STEPS]]).toEqual([1, 0]);
    expect(t[Math.floor(0.24 * FALLOFF_STEPS)]).toBe(1);
    for (let i = 1; i <= FALLOFF_STEPS; i++) expect(t[i]).toBeLessThanOrEqual(t[i - 1]);
  });
});

/** A dab alone, laid onto what is covered. */
function lay(coverage: Coverage, dab: FlatDab & { flow: number; cap: number }, falloff: Float32Array, limits: FlatLimits): void {
  const imprint = new Imprint(coverage.width, coverage.height);
  dabFlat(imprint, dab, falloff, limits);
  coverage.lay(imprint, dab.flow, dab.cap);
}

describe('a dab in the flat sheet', () => {
  test('equals the formula at every texel, from a plain loop', () => {
    const coverage = new Coverage(200, 200);
    const falloff = falloffTable(0.3);
    const dab = { x: 90.3, y: 120.8, radiusTexels: 23.4, flow: 0.7, cap: 0.9 };
    lay(coverage, dab, falloff, { wrapU: false, wrapV: false });
    for (let y = 0; y < 200; y++)
      for (let x = 0; x < 200; x++) {
        const d2 = (x + 0.5 - dab.x) ** 2 + (y + 0.5 - dab.y) ** 2;
        const r2 = dab.radiusTexels ** 2;
        const expected = d2 < r2 ? 0.9 * 0.7 * falloff[Math.floor((d2 / r2) * FALLOFF_STEPS)] : 0;
        expect(coverage.tile(x >> 7, y >> 7).values[(y & 127) * 128 + (x & 127)]).toBeCloseTo(expected, 3);
      }
  });

  test('on a wrapping canvas a dab is the same wherever it lies, the border included', () => {
    const falloff = falloffTable(0);
    const read = (c: Coverage, x: number, y: number) => c.tile(x >> 7, y >> 7).values[(y & 127) * 128 + (x & 127)];
    const middle = new Coverage(200, 150);
    lay(middle, { x: 100, y: 75, radiusTexels: 40, flow: 1, cap: 1 }, falloff, { wrapU: true, wrapV: true });
    const corner = new Coverage(200, 150);
    lay(corner, { x: 200, y: 0, radiusTexels: 40, flow: 1, cap: 1 }, falloff, { wrapU: true, wrapV: true });
    for (let y = 0; y < 150; y++)
      for (let x = 0; x < 200; x++) expect(read(corner, (x + 100) % 200, (y + 75) % 150)).toBe(read(middle, x, y));
  });

  test('without wrap the far border stays clean', () => {
    const c = new Coverage(200, 200);
    lay(c, { x: 2, y: 100, radiusTexels: 20, flow: 1, cap: 1 }, falloffTable(1), { wrapU: false, wrapV: true });
    expect(c.tile(1, 0).values.every((v) => v === 0)).toBe(true);
  });

  test('a dab wider than the canvas covers each texel once', () => {
    const c = new Coverage(32, 32);
    lay(c, { x: 16, y: 16, radiusTexels: 300, flow: 0.5, cap: 1 }, falloffTable(1), { wrapU: true, wrapV: true });
    for (let y = 0; y < 32; y++) for (let x = 0; x < 32; x++) expect(c.tile(0, 0).values[y * 128 + x]).toBeCloseTo(0.5, 5);
  });
});

describe('the path', () => {
  test('goes through the first and the last sample and never leaves their hull', () => {
    const path = new StrokePath(0.8);
    const random = seededRandom(4);
    const samples = Array.from({ length: 12 }, () => flat(random() * 100, random() * 100));
    const points = [...samples.flatMap((s) => path.add(s)), ...path.end()] as FlatSample[];
    expect(points[0]).toMatchObject({ x: samples[0].x, y: samples[0].y });
    expect(points.at(-1)).toMatchObject({ x: samples.at(-1)!.x, y: samples.at(-1)!.y });
    for (const p of points) expect(Math.min(p.x, p.y)).toBeGreaterThanOrEqual(0);
    for (const p of points) expect(Math.max(p.x, p.y)).toBeLessThanOrEqual(100);
  });

  test('a straight line stays straight, whatever the smoothing', () => {
    for (const smoothing of [0, 0.5, 1]) {
      const path = new StrokePath(smoothing);
      const points = [flat(0, 10), flat(30, 10), flat(80, 10)].flatMap((s) => path.add(s)) as FlatSample[];
      for (const p of points) expect(p.y).toBeCloseTo(10, 9);
    }
  });
});

describe('a stroke', () => {
  test('stays within its opacity however often it crosses itself, and builds up by flow', () => {
    const c = canvas();
    const zigzag = Array.from({ length: 40 }, (_, i) => flat(i % 2 ? 60 : 100, 100));
    paint(c, brush({ size: 40, opacity: 0.4, flow: 0.5, hardness: 1 }), zigzag);
    expect(cover(c.store, [80, 100])).toBeCloseTo(0.4, 2);
    const once = canvas();
    paint(once, brush({ size: 40, flow: 0.3, hardness: 1 }), [flat(80, 100)]);
    expect(cover(once.store, [80, 100])).toBeCloseTo(0.3, 3);
  });

  test('dabs stand at even distances, whatever the pointer rate', () => {
    const dabs = (n: number) =>
      paint(
        canvas(),
        brush({ size: 20, spacing: 0.5 }),
        Array.from({ length: n }, (_, i) => flat(20 + (200 * i) / (n - 1), 50)),
      ).dabCount;
    expect(dabs(2)).toBe(21);
    for (const n of [3, 7, 50, 211]) expect(Math.abs(dabs(n) - 21)).toBeLessThanOrEqual(1);
  });

  test('flushing after every sample gives the same bytes as flushing once at the end', () => {
    const random = seededRandom(8);
    const samples = Array.from({ length: 30 }, () => flat(random() * 256, random() * 256, { pressure: random() }));
    const whole = canvas({ wrapU: true, wrapV: true });
    paint(whole, brush({ size: 30, hardness: 0.2, pressureOpacity: true }), samples);
    const step = canvas({ wrapU: true, wrapV: true });
    const stroke = new Stroke(step, brush({ size: 30, hardness: 0.2, pressureOpacity: true }));
    for (const s of samples) {
      stroke.add([s]);
      stroke.flush();
    }
    stroke.end();
    stroke.flush();
    for (const [tile, version] of whole.store.tilesOf('l/roughness'))
      expect(step.store.data('l/roughness', tile)).toEqual(version.data);
  });

  test('pressure makes the tip smaller and the stroke fainter when it is asked to', () => {
    const c = canvas();
    paint(c, brush({ size: 60, hardness: 1, pressureSize: true, pressureOpacity: true, flow: 1 }), [
      flat(128, 128, { pressure: 0.5 }),
    ]);
    expect(cover(c.store, [128, 128])).toBeCloseTo(0.5, 2);
    expect(cover(c.store, [128 + 20, 128])).toBe(0);
  });

  test('one stroke writes several maps, each with its amount; erasing takes away from them', () => {
    const c = canvas();
    const writes: Brush['writes'] = {
      'base-colour': { on: true, value: [1, 0.5, 0], amount: 1 },
      height: { on: true, value: [0.62], amount: 0.5 },
      metallic: { on: false, value: [1], amount: 1 },
    };
    paint(c, brush({ size: 40, flow: 1, hardness: 1, writes }), [flat(64, 64)]);
    const at = (64 * 128 + 64) * 4;
    expect([...c.store.data('l/base-colour', 0)!.slice(at, at + 4)]).toEqual([65535, 32768, 0, 65535]);
    const h = (64 * 128 + 64) * 2;
    expect([...c.store.data('l/height', 0)!.slice(h, h + 2)]).toEqual([Math.round(0.62 * 65535), Math.round(0.5 * 65535)]);
    expect(c.store.get('l/metallic', 0)).toBeNull();
    paint(c, brush({ mode: 'erase', size: 40, flow: 1, hardness: 1, opacity: 0.25, writes }), [flat(64, 64)]);
    expect(c.store.data('l/base-colour', 0)![at + 3]).toBe(Math.round(0.75 * 65535));
  });

  test('its changes undo to the very tiles that were there; cancelling does the same', () => {
    const c = canvas();
    paint(c, brush({ size: 30 }), [flat(50, 50), flat(200, 200)]);
    const before = new Map(c.store.tilesOf('l/roughness')) as Map<number, TileVersion>;
    const bytes = new Map([...before].map(([k, v]) => [k, v.data!.slice()]));
    const stroke = paint(c, brush({ size: 90 }), [flat(128, 10), flat(128, 250)]);
    c.store.apply(invertChanges(stroke.changes()));
    expect(new Map(c.store.tilesOf('l/roughness'))).toEqual(before);
    for (const [k, v] of before) expect(v.data).toEqual(bytes.get(k));
    const cancelled = new Stroke(c, brush({ size: 90 }));
    cancelled.add([flat(128, 10), flat(128, 250)]);
    cancelled.flush();
    cancelled.cancel();
    expect(new Map(c.store.tilesOf('l/roughness'))).toEqual(before);
  });
});

describe('on the model', () => {
  const tip = (over: Partial<Brush> = {}) => brush({ size: 300, sizeUnit: 'model', hardness: 0, flow: 1, ...over });

  test('a dab on an edge is continuous across the UV seam: equal places have equal coverage', () => {
    const c = onModel(cubeModel());
    // The edge between the front (+z, quad 0) and the right side (+x, quad 2).
    paint(c, tip(), [ray([2, 0, 2], [0.5, 0, 0.5])]);
    for (const y of [-0.1, -0.05, 0, 0.06, 0.11]) {
      const front = texelNear(c.surfaces, c.sheet, 0, [0.498, y, 0.5]);
      const side = texelNear(c.surfaces, c.sheet, 2, [0.5, y, 0.498]);
      expect(cover(c.store, front)).toBeGreaterThan(0.05);
      expect(Math.abs(cover(c.store, front) - cover(c.store, side))).toBeLessThan(0.03);
    }
  });

  test('coverage depends on the distance in space alone', () => {
    const c = onModel(cubeModel());
    paint(c, tip(), [ray([0, 0, 3], [0.1, 0.05, 0.5])]);
    const falloff = falloffTable(0);
    const { map } = c.surface!;
    for (const tile of map.tiles.values())
      for (let i = 0; i < tile.face.length; i += 7) {
        if (tile.face[i] >> 1 !== 0) continue;
        const d2 = (tile.position[i * 3] - 0.1) ** 2 + (tile.position[i * 3 + 1] - 0.05) ** 2;
        const expected = d2 < 0.15 ** 2 ? falloff[Math.floor((d2 / 0.15 ** 2) * FALLOFF_STEPS)] : 0;
        expect(Math.abs(cover(c.store, [tile.x * 128 + (i % 128), tile.y * 128 + Math.floor(i / 128)]) - expected)).toBeLessThan(
          0.01,
        );
      }
  });

  test('the gutter is painted with its island', () => {
    const c = onModel(cubeModel());
    paint(c, tip(), [ray([3, 0, 0], [0.5, 0, 0.45])]);
    const edge = Math.floor((2 / 3 + 0.03) * 256);
    const row = Math.floor(0.165 * 256);
    expect(cover(c.store, [edge - 1, row])).toBeGreaterThan(0.3);
    expect(cover(c.store, [edge - 2, row])).toBeGreaterThan(0.3);
  });

  /** A sheet of paper: two sides 2 mm apart, joined at the rim. */
  const thin = () => {
    const t = 0.001;
    const front: [number, number, number][] = [
      [-0.5, -0.5, t],
      [0.5, -0.5, t],
      [0.5, 0.5, t],
      [-0.5, 0.5, t],
    ];
    const back: [number, number, number][] = [
      [0.5, -0.5, -t],
      [-0.5, -0.5, -t],
      [-0.5, 0.5, -t],
      [0.5, 0.5, -t],
    ];
    const rim: [number, number, number][] = [
      [0.5, -0.5, t],
      [0.5, -0.5, -t],
      [0.5, 0.5, -t],
      [0.5, 0.5, t],
    ];
    return quadModel([
      { corners: front, uv: [0.02, 0.1, 0.42, 0.5] },
      { corners: back, uv: [0.55, 0.1, 0.95, 0.5] },
      { corners: rim, uv: [0.47, 0.1, 0.5, 0.5] },
    ]);
  };

  test.each(['connected', 'all'] as const)('paint does not leak through a thin sheet, at its rim neither (reach %s)', (reach) => {
    const c = onModel(thin());
    paint(c, tip({ reach }), [ray([0, 0, 2], [0, 0, 0]), ray([0, 0, 2], [0.49, 0, 0])]);
    expect(cover(c.store, texelNear(c.surfaces, c.sheet, 0, [0, 0, 0]))).toBeGreaterThan(0.9);
    for (const x of [0, 0.2, 0.4, 0.48]) expect(cover(c.store, texelNear(c.surfaces, c.sheet, 1, [x, 0, 0]))).toBe(0);
  });

  test('a neighbour across a gap is left alone, unless everything within reach is asked for', () => {
    const plate = (x: number): [number, number, number][] => [
      [x, 0, 0],
      [x + 0.5, 0, 0],
      [x + 0.5, 1, 0],
      [x, 1, 0],
    ];
    const model = quadModel([
      { corners: plate(0), uv: [0.02, 0.1, 0.45, 0.9] },
      { corners: plate(0.51), uv: [0.55, 0.1, 0.98, 0.9] },
    ]);
    for (const [reach, expected] of [
      ['connected', 0],
      ['all', 1],
    ] as const) {
      const c = onModel(model);
      paint(c, tip({ reach, hardness: 1 }), [ray([0.45, 0.5, 2], [0.45, 0.5, 0])]);
      expect(cover(c.store, texelNear(c.surfaces, c.sheet, 0, [0.45, 0.5, 0]))).toBeGreaterThan(0.99);
      expect(cover(c.store, texelNear(c.surfaces, c.sheet, 1, [0.54, 0.5, 0]))).toBeCloseTo(expected, 2);
    }
  });

  test('where two parts share texels, painting either one reaches them', () => {
    const plate = (x: number): [number, number, number][] => [
      [x, 0, 0],
      [x + 1, 0, 0],
      [x + 1, 1, 0],
      [x, 1, 0],
    ];
    const shared: [number, number, number, number] = [0.1, 0.1, 0.9, 0.9];
    const c = onModel(
      quadModel([
        { corners: plate(0), uv: shared },
        { corners: plate(3), uv: shared },
      ]),
    );
    paint(c, tip(), [ray([3.5, 0.5, 2], [3.5, 0.5, 0])]);
    expect(cover(c.store, [128, 128])).toBeGreaterThan(0.9);
  });

  test('hidden parts are neither hit nor painted', () => {
    const plate = (z: number): [number, number, number][] => [
      [0, 0, z],
      [1, 0, z],
      [1, 1, z],
      [0, 1, z],
    ];
    const model = quadModel(
      [
        { corners: plate(1), uv: [0.02, 0.1, 0.45, 0.9] },
        { corners: plate(0), uv: [0.55, 0.1, 0.98, 0.9], part: 1 },
      ],
      ['Front', 'Back'],
    );
    const c = onModel(model);
    c.surfaces.query.hide(['Front']);
    paint(c, tip(), [ray([0.5, 0.5, 3], [0.5, 0.5, 0])]);
    expect(cover(c.store, texelNear(c.surfaces, c.sheet, 1, [0.5, 0.5, 0]))).toBeGreaterThan(0.9);
    expect(cover(c.store, texelNear(c.surfaces, c.sheet, 0, [0.5, 0.5, 1]))).toBe(0);
  });

  test('a stroke from one side of the cube to the next has no gap at the edge', () => {
    const c = onModel(cubeModel());
    const samples = Array.from({ length: 25 }, (_, i) => ray([2, 0, 2], [-0.1 + i * 0.05, 0, 0.5 - Math.max(0, i - 12) * 0.06]));
    paint(c, tip({ size: 100, hardness: 0.8 }), samples);
    for (const x of [0.2, 0.35, 0.45, 0.495])
      expect(cover(c.store, texelNear(c.surfaces, c.sheet, 0, [x, 0, 0.5]))).toBeGreaterThan(0.9);
    for (const z of [0.495, 0.45, 0.4])
      expect(cover(c.store, texelNear(c.surfaces, c.sheet, 2, [0.5, 0, z]))).toBeGreaterThan(0.9);
  });

  test('in the flat pane the same surface means the island under the tip, with its gutter', () => {
    const c = onModel(cubeModel());
    const x = Math.floor(0.3 * 256) - 2;
    paint(c, brush({ size: 60, hardness: 1, flow: 1 }), [flat(x, 40)]);
    expect(cover(c.store, [x - 10, 40])).toBeGreaterThan(0.9);
    expect(cover(c.store, [Math.floor((1 / 3 + 0.03) * 256) + 4, 40])).toBe(0);
    const all = onModel(cubeModel());
    paint(all, brush({ size: 60, hardness: 1, flow: 1, reach: 'all' }), [flat(x, 40)]);
    expect(cover(all.store, [Math.floor((1 / 3 + 0.03) * 256) + 4, 40])).toBeGreaterThan(0.9);
  });
});

describe('recorded strokes', () => {
  const sheet = newSheet('s', 'Metal', 256, 256);
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  const piece = newPiece('p', 'Piece', 'canvas', [sheet]);
  const recording = (over: object = {}) =>
    parseRecording({
      version: 1,
      strokes: [{ sheet: 'Metal', brush: brush({ size: 20 }), samples: [flat(10, 10), flat(90, 60)], ...over }],
    });

  test('the same recording gives the same bytes', () => {
    const [a, b] = [new TileStore(), new TileStore()];
    replay(piece, a, null, recording());
    replay(piece, b, null, recording());
    expect(a.tilesOf('l/roughness').size).toBe(1);
    expect(a.data('l/roughness', 0)).toEqual(b.data('l/roughness', 0));
  });

  test.each([
    ['an unknown sheet', { sheet: 'Nowhere' }, /Nowhere/],
    ['an unknown layer', { layer: 'Nobody' }, /Nobody/],
    ['a model stroke on a canvas', { samples: [ray([0, 0, 1], [0, 0, 0])] }, /canvas/],
    ['a way of many millions of pixels', { samples: [flat(-9e6, 1), flat(9e6, 1)] }, /2 million pixels/],
    ['two panes in one stroke', { samples: [flat(1, 1), ray([0, 0, 1], [0, 0, 0])] }, /panes/],
  ])('%s is refused and changes nothing', (_what, over, says) => {
    const store = new TileStore();
    expect(() => replay(piece, store, null, recording(over))).toThrow(says);
    expect(store.planeKeys()).toEqual([]);
  });

  test.each([
    {},
    { version: 2, strokes: [] },
    { version: 1, strokes: [{ brush: {}, samples: [] }] },
    { version: 1, strokes: [{ brush: { size: NaN }, samples: [flat(0, 0)] }] },
    { version: 1, strokes: [{ brush: {}, samples: [flat(0, 0), flat(1e308, 0)] }] },
    { version: 1, strokes: [{ brush: {}, samples: [{ ...flat(0, 0), texelsPerPixel: 1e-300 }] }] },
  ])('a damaged recording is refused: %j', (input) => expect(() => parseRecording(input)).toThrow(RecordingError));
});

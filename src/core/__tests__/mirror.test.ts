/** Mirrored strokes: against strokes painted by hand on the other side, and never twice. */
import '../compute';
import { brushSchema } from '../hand/brush';
import type { FlatSample, ModelSample, Sample } from '../hand/sample';
import { imagesOf, isMirrored, mirrorSchema, turnedBy, type Mirror } from '../hand/mirror';
import { Stroke } from '../hand/stroke';
import { newPaintedLayer, newSheet } from '../document/factory';
import type { Model } from '../mesh/model';
import { PieceSurfaces } from '../strata/pieceSurfaces';
import { tileIndex, TileStore } from '../tile/tiles';
import { boxModel, cubeModel, quadModel, texelNear } from '../testing/models';

const pen = { pressure: 1, tiltX: 0, tiltY: 0, time: 0 };
const flat = (x: number, y: number): FlatSample => ({ pane: 'flat', x, y, texelsPerPixel: 1, ...pen });
const ray = (origin: number[], to: number[], right?: number[]): ModelSample => {
  const d = to.map((v, k) => v - origin[k]);
  const direction = d.map((v) => v / Math.hypot(...d));
  return { pane: 'model', origin, direction, right, pixelSpread: 0.001, ...pen } as ModelSample;
};
const mirrorOf = (over: object): Mirror => mirrorSchema.parse(over);

function painted(model: Model | null, strokes: Sample[][], brush: object) {
  const sheet = newSheet('s', 'Sheet', 256, 256, model ? { materialIndex: 0 } : { wrapU: true, wrapV: true });
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  const surfaces = model && new PieceSurfaces(model, 0);
  const surface = surfaces?.forSheet(sheet) ?? null;
  const store = new TileStore();
  const settings = brushSchema.parse({
    ...{ smoothing: 0, hardness: 0.5, flow: 0.6, sizeUnit: model ? 'model' : 'screen', vary: [] },
    ...{ writes: { roughness: { on: true, value: [1], amount: 1 } } },
    ...brush,
  });
  for (const samples of strokes) {
    const stroke = new Stroke({ sheet, layerId: 'l', store, surface }, settings);
    for (const sample of samples) stroke.add([sample]);
    stroke.end();
    stroke.flush();
  }
  const cover = (x: number, y: number) => {
    const data = store.data('l/roughness', tileIndex(x >> 7, y >> 7));
    return data ? data[((y & 127) * 128 + (x & 127)) * 2 + 1] / 65535 : 0;
  };
  const at = (quad: number, point: number[]) => cover(...texelNear(surfaces!, sheet, quad, point));
  return { cover, at, texels: () => Array.from({ length: 65536 }, (_, i) => cover(i & 255, i >> 8)) };
}

describe('images', () => {
  test('two to the number of planes, times the turns, each once, the dab itself left out', () => {
    const count = (over: object) => imagesOf(mirrorOf(over)).length;
    expect([count({ axes: ['x'] }), count({ axes: ['x', 'y'] }), count({ axes: ['x', 'y', 'z'] })]).toEqual([1, 3, 7]);
    expect([count({ radial: 6 }), count({ axes: ['x', 'x'] }), count({})]).toEqual([5, 1, 0]);
    // Half a turn around y is what x and z together do already.
    expect(count({ axes: ['x', 'z'], radial: 2 })).toBe(3);
    expect([isMirrored(mirrorOf({})), isMirrored(mirrorOf({ radial: 2 }))]).toEqual([false, true]);
  });

  test('lengths and angles stay', () => {
    for (const m of imagesOf(mirrorOf({ axes: ['y'], radial: 5, around: 'z' }))) {
      const [a, b] = [turnedBy(m, [1, 2, 3]), turnedBy(m, [-2, 0.5, 1])];
      expect(a[0] * b[0] + a[1] * b[1] + a[2] * b[2]).toBeCloseTo(1 * -2 + 2 * 0.5 + 3, 9);
    }
  });

  test('more images than a hand can want are refused', () =>
    expect(mirrorSchema.safeParse({ axes: ['x', 'y', 'z'], radial: 12 }).error?.issues[0].message).toMatch(/64 images/));
});

describe('on a model', () => {
  const tip = { shape: 'square', roundness: 0.5, angle: 30 };
  const way = (side: number): ModelSample[] =>
    Array.from({ length: 8 }, (_, n) =>
      ray([side * 3, 0.1, 0.2], [side * 0.5, -0.2 + n * 0.05, -0.15 + n * 0.04], [0, 0, -side]),
    );

  test.each([
    ['round', { size: 150 }],
    ['a turned bar', { size: 200, tip }],
  ])('a stroke across x equals the one painted by hand on the other side, whose UVs are others (%s)', (_what, brush) => {
    const mirrored = painted(cubeModel(), [way(1)], { ...brush, mirror: mirrorOf({ axes: ['x'] }) }).texels();
    // By hand with the mirrored tip: its angle goes the other way as its screen's right does.
    const hands = [way(1), way(-1)];
    const right = painted(cubeModel(), [hands[0]], brush).texels();
    const left = painted(cubeModel(), [hands[1]], { ...brush, ...('tip' in brush && { tip: { ...tip, angle: -30 } }) }).texels();
    const worst = mirrored.reduce((most, v, i) => Math.max(most, Math.abs(v - Math.max(right[i], left[i]))), 0);
    expect(mirrored.filter((v) => v > 0.3).length).toBeGreaterThan(1.9 * right.filter((v) => v > 0.3).length);
    expect(worst).toBeLessThan(1 / 255);
  });

  test('where its images meet, a dab is painted once', () => {
    const p = painted(cubeModel(), [[ray([0, 0, 3], [0, 0, 0.5])]], {
      ...{ size: 300, hardness: 1, flow: 0.4 },
      mirror: mirrorOf({ axes: ['x', 'y'], radial: 4, around: 'z' }),
    });
    for (const point of [
      [0, 0, 0.5],
      [0.05, 0.03, 0.5],
      [-0.08, 0.02, 0.5],
    ])
      expect(p.at(0, point)).toBeCloseTo(0.4, 3);
  });

  test('around an axis every side of a post gets the stroke', () => {
    const post = painted(boxModel(0.2, 1, 0.2), [[ray([0, 0.2, 3], [0, 0.2, 0.1])]], {
      ...{ size: 80, hardness: 1, flow: 1 },
      mirror: mirrorOf({ radial: 4, around: 'y' }),
    });
    for (const [quad, point] of [
      [0, [0, 0.2, 0.1]],
      [1, [0, 0.2, -0.1]],
      [2, [0.1, 0.2, 0]],
      [3, [-0.1, 0.2, 0]],
    ] as const)
      expect(post.at(quad, [...point])).toBeGreaterThan(0.99);
    expect(post.at(0, [0, -0.2, 0.1])).toBe(0);
  });

  test('where the other side has no surface within reach nothing is painted', () => {
    const corners: [number, number, number][] = [
      [0.1, 0, 0],
      [1, 0, 0],
      [1, 1, 0],
      [0.1, 1, 0],
    ];
    const model = quadModel([{ corners, uv: [0.1, 0.1, 0.9, 0.9] }]);
    const mirror = mirrorOf({ axes: ['x'], at: [0, 0, 0] });
    const sample = [ray([0.6, 0.5, 2], [0.6, 0.5, 0])];
    expect(painted(model, [sample], { size: 200, mirror }).texels()).toEqual(painted(model, [sample], { size: 200 }).texels());
  });

  test('what is painted in the flat sheet of a model has its image on the other side as well', () => {
    const p = painted(cubeModel(), [[flat(0.165 * 256, 0.165 * 256)]], {
      ...{ size: 30, sizeUnit: 'screen', hardness: 1, flow: 1 },
      mirror: mirrorOf({ axes: ['z'] }),
    });
    expect(p.at(0, [0, 0, 0.5])).toBeGreaterThan(0.99);
    expect(p.at(1, [0, 0, -0.5])).toBeGreaterThan(0.99);
    expect(p.at(2, [0.5, 0, 0])).toBe(0);
  });
});

describe('on a canvas', () => {
  const brush = { size: 24, tip: { shape: 'square', roundness: 0.4, angle: 20 } };
  const way = [flat(40, 60), flat(90, 75), flat(100, 20)];

  test('across x and y the four quarters are alike', () => {
    const { cover } = painted(null, [way], { ...brush, mirror: mirrorOf({ axes: ['x', 'y'] }) });
    let worst = 0;
    let covered = 0;
    for (let y = 0; y < 128; y++)
      for (let x = 0; x < 128; x++) {
        const here = cover(x, y);
        if (here > 0) covered++;
        for (const other of [cover(255 - x, y), cover(x, 255 - y), cover(255 - x, 255 - y)])
          worst = Math.max(worst, Math.abs(other - here));
      }
    expect(covered).toBeGreaterThan(500);
    expect(worst).toBeLessThan(1 / 255);
  });

  test('a quarter of a turn at a time, four times', () => {
    const { cover } = painted(null, [way], { ...brush, mirror: mirrorOf({ radial: 4, around: 'x' }) });
    let worst = 0;
    for (let y = 0; y < 256; y++)
      for (let x = 0; x < 256; x++) worst = Math.max(worst, Math.abs(cover(x, y) - cover(255 - y, x)));
    expect(worst).toBeLessThan(1 / 255);
    expect(cover(40, 60)).toBeGreaterThan(0.5);
  });
});

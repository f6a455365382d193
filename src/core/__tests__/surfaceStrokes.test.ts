/** Strokes on models that are hard: mirrored UVs, thin and smoothly shaded parts, gutters beyond a seam, vertices that nearly meet. */
import '../compute';
import { brushSchema, type Brush } from '../hand/brush';
import type { ModelSample } from '../hand/sample';
import { FALLOFF_STEPS } from '../../kernels/dabs';
import { falloffTable } from '../hand/coverage';
import { Stroke } from '../hand/stroke';
import { newPaintedLayer, newSheet } from '../document/factory';
import type { Model } from '../mesh/model';
import { buildIslands, buildTopology } from '../mesh/topology';
import { PieceSurfaces } from '../strata/pieceSurfaces';
import { TILE, tileIndex, TileStore } from '../tile/tiles';
import { boxModel, quadModel, smoothed, texelNear } from '../testing/models';

type Point = [number, number, number];

/** A ray straight down the axis that is given, onto a point. */
function onto(point: Point, from: Point): ModelSample {
  const d = point.map((v, k) => v - from[k]);
  const direction = d.map((v) => v / Math.hypot(...d)) as Point;
  return { pane: 'model', origin: from, direction, pixelSpread: 0.001, pressure: 1, tiltX: 0, tiltY: 0, time: 0 };
}

function painted(model: Model, settings: Partial<Brush>, samples: ModelSample[], size = 256) {
  const sheet = newSheet('s', 'Sheet', size, size, { materialIndex: 0 });
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  const surfaces = new PieceSurfaces(model, 0);
  const store = new TileStore();
  const surface = surfaces.forSheet(sheet)!;
  const brush = brushSchema.parse({
    ...{ smoothing: 0, flow: 1, hardness: 0, sizeUnit: 'model' },
    ...settings,
    writes: { roughness: { on: true, value: [1], amount: 1 } },
  });
  const stroke = new Stroke({ sheet, layerId: 'l', store, surface }, brush);
  for (const sample of samples) stroke.add([sample]);
  stroke.end();
  stroke.flush();
  const cover = (x: number, y: number) => {
    const data = store.data('l/roughness', tileIndex(x >> 7, y >> 7));
    return data ? data[((y & 127) * TILE + (x & 127)) * 2 + 1] / 65535 : 0;
  };
  /** Every texel that belongs to a face, with its own place. */
  const texels = function* () {
    for (const tile of surface.map.tiles.values())
      for (let i = 0; i < tile.face.length; i++)
        if (tile.face[i] >= 0) {
          const at = [...tile.position.subarray(i * 3, i * 3 + 3)] as Point;
          yield { x: tile.x * TILE + (i % TILE), y: tile.y * TILE + ((i / TILE) | 0), face: tile.face[i], at };
        }
  };
  const at = (quad: number, point: Point) => cover(...texelNear(surfaces, sheet, quad, point));
  return { surface, surfaces, sheet, cover, texels, at };
}

describe('mirrored UVs', () => {
  const plate = (x: number): Point[] => [
    [x, 0, 0],
    [x + 1, 0, 0],
    [x + 1, 1, 0],
    [x, 1, 0],
  ];
  /** Two quads that meet at x = 1, folded onto each other in the sheet: the fold is at u = 0.5. */
  const folded = () =>
    quadModel([
      { corners: plate(0), uv: [0.1, 0.1, 0.5, 0.5] },
      { corners: plate(1), uv: [0.5, 0.1, 0.1, 0.5] },
    ]);
  const size = 400;

  test.each(['connected', 'all'] as const)('a texel of two faces is raised once a dab (%s)', (reach) => {
    const p = painted(folded(), { size, reach, flow: 0.4, hardness: 1 }, [onto([1, 0.5, 0], [1, 0.5, 3])]);
    const row = Math.round(0.3 * 256);
    for (const x of [126, 124, 110]) expect(p.cover(x, row)).toBeCloseTo(0.4, 3);
  });

  test('a dab on one side reaches its texels with the nearer of the two places', () => {
    const falloff = falloffTable(0);
    const p = painted(folded(), { size }, [onto([1.1, 0.5, 0], [1.1, 0.5, 3])]);
    for (const { x, y, at } of p.texels()) {
      // The map knows the first quad's place; the second's is mirrored at the fold.
      const d2 = Math.min(...[at[0], 2 - at[0]].map((px) => (px - 1.1) ** 2 + (at[1] - 0.5) ** 2 + at[2] ** 2)) / 0.2 ** 2;
      if (at[0] > 1) continue;
      const expected = d2 < 1 ? falloff[Math.floor(d2 * FALLOFF_STEPS)] : 0;
      expect(Math.abs(p.cover(x, y) - expected)).toBeLessThan(0.01);
    }
  });

  test('a fold is a border of its island: a gutter is painted beyond it', () => {
    const p = painted(folded(), { size, hardness: 1 }, [onto([1, 0.5, 0], [1, 0.5, 3])]);
    const row = Math.round(0.3 * 256);
    for (let x = 128; x < 128 + p.surface.map.gutterTexels; x++) expect(p.cover(x, row)).toBeGreaterThan(0.9);
  });

  test('an edge between faces that lie side by side is none', () => {
    const side = quadModel([
      { corners: plate(0), uv: [0.1, 0.1, 0.5, 0.5] },
      { corners: plate(1), uv: [0.5, 0.1, 0.9, 0.5] },
    ]);
    const borders = (model: Model) =>
      buildIslands(model, buildTopology(model), model.uvs[0]).border.reduce((sum: number, b) => sum + b, 0);
    // Around two quads: six; folded, the edge in the middle counts for both.
    expect([borders(side), borders(folded())]).toEqual([6, 8]);
  });
});

describe('thin parts with smooth normals', () => {
  const cases: [string, Model, Point, number][] = [
    ['a blade of 2 mm, in its middle', smoothed(boxModel(0.04, 1, 0.002)), [0, 0, 0.001], 60],
    ['a blade of 2 mm, near its edge', smoothed(boxModel(0.04, 1, 0.002)), [0.015, 0.1, 0.001], 30],
    ['a plate of 0.5 mm, 5 mm from its rim', smoothed(boxModel(0.2, 0.2, 0.0005)), [0.095, 0, 0.00025], 40],
  ];
  test.each(cases.flatMap((c) => (['connected', 'all'] as const).map((reach) => [c[0], reach, c[1], c[2], c[3]] as const)))(
    '%s: the far side stays clean bit for bit (%s)',
    (_what, reach, model, point, size) => {
      const p = painted(model, { size, reach }, [onto(point, [point[0], point[1], 1])]);
      expect(p.at(0, point)).toBeGreaterThan(0.9);
      let back = 0;
      for (const { x, y, face } of p.texels()) if (face >> 1 === 1) back = Math.max(back, p.cover(x, y));
      expect(back).toBe(0);
    },
  );

  test('a single sheet is painted from behind as well', () => {
    const corners: Point[] = [
      [0, 0, 0],
      [1, 0, 0],
      [1, 1, 0],
      [0, 1, 0],
    ];
    const p = painted(quadModel([{ corners, uv: [0.1, 0.1, 0.9, 0.9] }]), { size: 300 }, [onto([0.5, 0.5, 0], [0.5, 0.5, -2])]);
    expect(p.at(0, [0.5, 0.5, 0])).toBeGreaterThan(0.9);
  });

  test('around a round rod paint fades without a hard line', () => {
    const sides = 24;
    const ring = (n: number): Point => [0.1 * Math.cos((2 * Math.PI * n) / sides), 0.1 * Math.sin((2 * Math.PI * n) / sides), 0];
    const rod = quadModel(
      Array.from({ length: sides }, (_, n) => {
        const [a, b] = [ring(n), ring(n + 1)];
        const up = ([x, y]: Point): Point => [x, y, 1];
        return { corners: [a, b, up(b), up(a)], uv: [0.02 + 0.04 * n, 0.1, 0.02 + 0.04 * (n + 1), 0.9] };
      }),
    );
    const p = painted(smoothed(rod), { size: 800, hardness: 1, reach: 'all' }, [onto([0.1, 0, 0.5], [2, 0, 0.5])], 512);
    const row = Array.from({ length: 490 }, (_, x) => p.cover(11 + x, 256));
    expect(Math.max(...row)).toBeGreaterThan(0.99);
    expect(Math.min(...row)).toBe(0);
    for (let x = 1; x < row.length; x++) expect(Math.abs(row[x] - row[x - 1])).toBeLessThan(0.3);
  });
});

describe('gutters beyond a seam', () => {
  test('a connected stroke covers gutter texels as one that reaches everything does', () => {
    // Two plates in one plane, in islands of their own: the ball reaches the other one’s gutter, but not its face.
    const plate = (x: number): Point[] => [
      [x, 0, 0],
      [x + 1, 0, 0],
      [x + 1, 1, 0],
      [x, 1, 0],
    ];
    const plates = quadModel([
      { corners: plate(0), uv: [0.05, 0.1, 0.45, 0.5] },
      { corners: plate(1), uv: [0.55, 0.1, 0.95, 0.5] },
    ]);
    const settings = { size: 40, hardness: 1 };
    const sample = onto([0.975, 0.5, 0], [0.975, 0.5, 3]);
    const [connected, all] = (['connected', 'all'] as const).map((reach) =>
      painted(plates, { ...settings, reach }, [sample], 1024),
    );
    let gutter = 0;
    let other = 0;
    for (const { x, y, face } of all.texels()) {
      if (connected.cover(x, y) !== all.cover(x, y)) other++;
      if (face >> 1 === 1 && all.cover(x, y) > 0.5) gutter++;
    }
    expect({ other, gutter: gutter > 10 }).toEqual({ other: 0, gutter: true });
  });
});

describe('welding', () => {
  const at = (x: number): Point[] => [
    [x, 0, 0],
    [x + 1, 0, 0],
    [x + 1, 1, 0],
    [x, 1, 0],
  ];
  const components = (gap: number) => {
    const model = quadModel([
      { corners: at(-1), uv: [0, 0, 0.4, 0.4] },
      { corners: at(gap), uv: [0.5, 0, 0.9, 0.4] },
    ]);
    return buildTopology(model).componentCount;
  };

  test('vertices nearer than a millionth of the diagonal are one, wherever they lie; others are not', () => {
    // The diagonal is √5: 2.2e-6. Wherever a grid would have its lines, some of these lie on both sides of one.
    for (let n = 0; n < 40; n++) expect(components(2e-6 - n * 1e-7)).toBe(1);
    for (const far of [4e-6, 1e-5, 1e-3]) expect(components(far)).toBe(2);
  });
});

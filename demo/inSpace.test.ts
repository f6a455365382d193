/** Sources and masks in space, on a model of some thousand triangles with many seams: the lantern. */
import '../src/core/compute';
import { newMask, newSheet } from '../src/core/document/factory';
import { stepSchema } from '../src/core/document/schema';
import { PLAIN, placementFor } from '../src/core/kinds/placement';
import { SOURCES, SOURCE_TYPES, type Made, type MadeOf } from '../src/core/kinds/sources';
import { Evaluator } from '../src/core/strata/evaluator';
import { madeTile } from '../src/core/strata/made';
import { attachSurfaces, PieceSurfaces } from '../src/core/strata/pieceSurfaces';
import { programOfMask } from '../src/core/strata/program';
import { TILE_TEXELS, TileStore } from '../src/core/tile/tiles';
import { lanternModel } from './lanternModel';

describe('in space', () => {
  const model = lanternModel();
  const sheet = newSheet('s', 'Metalwork', 512, 512, { materialIndex: 0 });
  const surfaces = new PieceSurfaces(model, 0);
  const surface = surfaces.dataFor(sheet)!;

  test('both sides of every UV seam of the lantern get the same value, to 1 of 65,535', () => {
    // Midpoints of edges that two faces share in space, from each face's own corners.
    const { positions: p, indices } = model;
    const seen = new Map<string, number[][]>();
    for (let f = 0; f < indices.length / 3; f++)
      for (let k = 0; k < 3; k++) {
        const [a, b] = [indices[f * 3 + k], indices[f * 3 + ((k + 1) % 3)]];
        const at = (v: number) => [p[v * 3], p[v * 3 + 1], p[v * 3 + 2]].map(Math.fround);
        const [u, v] = [at(a), at(b)];
        const key = [u.join(), v.join()].sort().join(' ');
        const middle = u.map((c, i) => (c + v[i]) / 2);
        seen.set(key, [...(seen.get(key) ?? []), middle]);
      }
    const pairs = [...seen.values()].filter((m) => m.length === 2).slice(0, 2048);
    expect(pairs.length).toBeGreaterThan(1000);
    const n = pairs.length & ~3;
    const fieldOf = (side: 0 | 1) => {
      const [x, y, z] = [0, 1, 2].map((k) => Float32Array.from({ length: n }, (_, i) => pairs[i][side][k]));
      return { n, x, y, z, flat: false, period: [0, 0] as const, texel: 1 / 4000, below: null };
    };
    for (const type of SOURCE_TYPES.filter((t) => SOURCES[t].group === 'noise')) {
      const made = { ...SOURCES[type].start, scale: 40 } as Made;
      const [a, b] = [new Float32Array(n), new Float32Array(n)];
      SOURCES[type].fill(made, fieldOf(0), a);
      SOURCES[type].fill(made, fieldOf(1), b);
      expect(a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0)).toBeLessThan(1 / 65535);
    }
  });

  test('a gradient from foot to head is 1 at the foot, 0 at the head, and half way between', () => {
    const made: Made = {
      ...(SOURCES.gradient.start as MadeOf<'gradient'>),
      space: 'model',
      smooth: false,
      from: [0, surface.min[1], 0],
      to: [0, surface.max[1], 0],
    };
    let checked = 0;
    for (const [tile, s] of surface.tiles) {
      const values = madeTile(made, PLAIN, sheet, surface, tile);
      for (let i = 0; i < TILE_TEXELS; i += 37) {
        if (s.face[i] < 0) continue;
        const t = (s.position[i * 3 + 1] - surface.min[1]) / (surface.max[1] - surface.min[1]);
        expect(values[i]).toBeCloseTo(1 - Math.min(1, Math.max(0, t)), 4);
        checked++;
      }
    }
    expect(checked).toBeGreaterThan(500);
  });

  test('leaks run down from edges: none lies above all edges, and where there are some they fade with the distance', () => {
    const made: Made = { ...(SOURCES.leaks.start as MadeOf<'leaks'>), scale: 120, length: 0.05, density: 1, soften: 1, warp: 0 };
    const placement = placementFor('solid', surface, { size: 1, centre: [0, 0, 0] });
    let some = 0;
    for (const tile of surface.tiles.keys())
      some += madeTile(made, placement, sheet, surface, tile).filter((v) => v > 0.2).length;
    expect(some).toBeGreaterThan(200);
  });

  test('the weights of a box of three sides sum to one, and a face seen straight on has one side', () => {
    const flat = { ...SOURCES.bricks.start } as Made;
    const placement = placementFor('box', surface, { soft: 0 });
    for (const tile of [...surface.tiles.keys()].slice(0, 2)) {
      const values = madeTile(flat, placement, sheet, surface, tile);
      expect(values.filter((v) => !(v >= -1e-5 && v <= 1 + 1e-5)).length).toBe(0);
      expect(values.filter((v) => v > 0.5).length).toBeGreaterThan(100);
    }
  });
});

test('parts of the model: white on them, black elsewhere', () => {
  const model = lanternModel();
  const store = new TileStore();
  attachSurfaces(store, model, 0);
  const mask = newMask('m', 'M', 0, {
    steps: [stepSchema.parse({ id: 's1', source: { type: 'parts', names: ['Cap', 'No such part'] } })],
  });
  const sheet = newSheet('s', 'Metal', 512, 512, { materialIndex: 0, masks: [mask] });
  const surface = new PieceSurfaces(model, 0).dataFor(sheet)!;
  const use = programOfMask(sheet, 'm', null)!;
  const evaluator = new Evaluator({ sheet, store });
  const cap = model.parts.indexOf('Cap');
  let [right, wrong] = [0, 0];
  for (const [tile, s] of surface.tiles) {
    const value = evaluator.tile(use.scope, tile);
    for (let i = 0; i < TILE_TEXELS; i += 11) {
      if (s.face[i] < 0) continue;
      const v = value.data ? value.data[i] : value.uniform[0];
      if (v === (model.facePart[s.face[i]] === cap ? 1 : 0)) right++;
      else wrong++;
    }
  }
  expect(wrong).toBe(0);
  expect(right).toBeGreaterThan(1000);
});

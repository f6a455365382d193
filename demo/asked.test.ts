/** What is not seen is not worked out: rules in space give the same bits, and are asked for fewer places. */
import { newSheet } from '../src/core/document/factory';
import type { Sheet } from '../src/core/document/schema';
import { kernels } from '../src/core/kernels';
import { placementFor, type Placement } from '../src/core/kinds/placement';
import { Evaluator } from '../src/core/strata/evaluator';
import { attachSurfaces, PieceSurfaces } from '../src/core/strata/pieceSurfaces';
import { programOf } from '../src/core/strata/program';
import { TileCache } from '../src/core/strata/tileCache';
import { cubeModel } from '../src/core/testing/models';
import { TileStore, WHOLE_TILE } from '../src/core/tile/tiles';
import { coat, levels, made, mask, masked, rule, step } from './rules';

const SIZE = 256;
const model = cubeModel();
const store = new TileStore();
attachSurfaces(store, model, 0);
const base = newSheet('s', 'S', SIZE, SIZE, { materialIndex: 0 });
const surface = new PieceSurfaces(model, 0).dataFor(base)!;
const solid: Placement = placementFor('solid', surface, { size: 1, centre: [0, 0, 0] });
const upwards = made('gradient', { space: 'model', from: [0, 0.1, 0], to: [0, 0.3, 0], smooth: false });

const recipes = {
  multiply: [
    step('a', rule(upwards)),
    step('b', rule(made('clouds', { seed: 4, scale: 30, warp: 0.5 }), solid), 'multiply', [levels(0.3, 0.7)]),
    step('c', rule(made('cells', { seed: 5, scale: 20, show: 'edges' }), solid)),
  ],
  subtract: [
    step('a', rule(upwards)),
    step('b', rule(made('smudges', { seed: 4, scale: 12 }), solid), 'subtract', [], { amount: 0.7 }),
    step('c', rule(made('leaks', { seed: 5, scale: 40, length: 0.6, density: 1 }), solid), 'subtract', [], { invert: true }),
  ],
  'nothing there': [
    step('a', rule(upwards)),
    step('b', rule(made('spots', { seed: 4, scale: 0.02, density: 0 }), solid), 'multiply', [], { invert: true }),
  ],
};

function sheetOf(name: keyof typeof recipes): Sheet {
  const bronze = made('streaks', { seed: 8, scale: 60, warp: 0.3 });
  const look = { 'base-colour': ['#202020', '#a08050'] as [string, string], roughness: [0.2, 0.7] as [number, number] };
  return {
    ...base,
    masks: [mask('m', 'M', recipes[name])],
    layers: [
      coat('g', 'Ground', { 'base-colour': '#808080', roughness: 0.5 }),
      masked(coat('c', 'Coat', look, bronze, solid), 'm'),
    ],
  };
}

/** All tiles of two maps, and how many places noise was asked at. */
function drawn(sheet: Sheet, hot: string | null, half: boolean, cache = new TileCache()) {
  const noise = jest.spyOn(kernels(), 'noiseFractal');
  const evaluator = new Evaluator({ sheet, store, cache, hot });
  const out: number[] = [];
  const rects = half
    ? [
        { ...WHOLE_TILE, height: 48 },
        { ...WHOLE_TILE, y: 48, height: WHOLE_TILE.height - 48 },
      ]
    : [WHOLE_TILE];
  try {
    for (const map of ['base-colour', 'roughness'] as const)
      for (const tile of surface.tiles.keys())
        for (const rect of rects)
          evaluator.rect(programOf(sheet, map)!, tile, rect, (even, planes) => {
            const n = rect.width * rect.height;
            const values = planes ?? even!.flatMap((v) => new Array<number>(n).fill(v));
            for (let i = 0; i < n; i++) if (surface.tiles.get(tile)!.face[rect.y * 128 + i] >= 0) out.push(values[i]);
          });
    return { out, places: noise.mock.calls.reduce((sum, [values]) => sum + values.length, 0) };
  } finally {
    noise.mockRestore();
  }
}

test.each(Object.keys(recipes) as (keyof typeof recipes)[])(
  '%s: the same bits, whether all is worked out or what is seen',
  (name) => {
    const sheet = sheetOf(name);
    const all = drawn(sheet, 'c', false);
    const some = drawn(sheet, null, false);
    expect(new Set(all.out).size).toBeGreaterThan(1000);
    expect(some.out).toEqual(all.out);
    expect(some.places).toBeLessThan(all.places * 0.8);
    expect(drawn(sheet, null, true).out.toSorted()).toEqual(all.out.toSorted());
  },
);

test('what is worked out already is used, and the layer at work is worked out whole, so that its mask can change', () => {
  const cache = new TileCache();
  const first = sheetOf('multiply');
  drawn(first, 'c', false, cache);
  // Another mask for the same rules: nothing but the mask's own rules is asked for.
  const [a, b] = first.masks[0].steps;
  const changed = { ...first, masks: [{ ...first.masks[0], steps: [a, { ...b, filters: [levels(0.4, 0.6)] }] }] };
  expect(drawn(changed, 'c', false, cache).places).toBe(0);
  expect(drawn({ ...changed, name: 'Again' }, null, false, cache).out).toEqual(drawn(changed, null, false).out);
});

/** Fences: whatever strokes, outside of one every byte stays; soft edges are distances; what is hidden is not painted. */
import type { Fence } from '../document/schema';
import { fenceSchema } from '../document/schema';
import { TOOL_TYPES } from '../hand/tools';
import { FenceLimit } from '../hand/fence';
import type { Sample } from '../hand/sample';
import { surfaceData } from '../mesh/surface';
import { copyOfStore, giveSurfaces } from '../strata/surfaceUnder';
import { brushFor, canvasEasel, fillWith, flatSample, modelEasel, strokeOn, texelsOf, type Easel } from '../testing/hand';
import { cubeModel, seededRandom } from '../testing/models';
import { pixelOf, sampleAt, viewAround } from '../testing/views';
import { tileIndex } from '../tile/tiles';

const WRITES = {
  'base-colour': { on: true, value: [1, 0, 0], amount: 1 },
  height: { on: true, value: [0.9], amount: 1 },
};
const step = (source: object, over: object = {}) => ({ id: 'x', source, ...over });
const fenceOf = (over: object): Fence => fenceSchema.parse(over);

/** A model whose strata know of it, as the engine has it. */
function cubeEasel(side: number): Easel {
  const cube = cubeModel();
  const easel = modelEasel(cube, side);
  const { map, islands } = easel.surface!;
  const data = surfaceData(map, cube, islands);
  giveSurfaces(easel.store, () => data);
  return easel;
}

function limitOf(easel: Easel, fence: Fence): Float32Array {
  const { sheet, surface, store } = easel;
  const limit = new FenceLimit(fence, { sheet, layerId: 'l', surface, store: () => copyOfStore(store) });
  const out = new Float32Array(sheet.width * sheet.height);
  for (let y = 0; y < sheet.height; y++)
    for (let x = 0; x < sheet.width; x++)
      out[y * sheet.width + x] = limit.tile(tileIndex(x >> 7, y >> 7))?.[(y & 127) * 128 + (x & 127)] ?? 1;
  return out;
}

/** Uneven paint everywhere, so that whatever touches it shows. */
function paintAll(easel: Easel): void {
  const random = seededRandom(7);
  fillWith(easel, 'base-colour', () => [random(), random(), random(), 0.5 + random() / 2]);
  fillWith(easel, 'height', () => [random(), 0.5 + random() / 2]);
}

const AREAS = {
  rectangle: { type: 'shape', figure: 'rectangle' },
  ellipse: { type: 'shape', figure: 'ellipse', soft: 12 },
  line: { type: 'shape', figure: 'line', width: 9 },
  gradient: { type: 'gradient' },
  sheet: { type: 'fill', of: 'sheet' },
  material: { type: 'fill', of: 'material' },
  part: { type: 'fill', of: 'part' },
  island: { type: 'fill', of: 'island' },
  face: { type: 'fill', of: 'face' },
  same: { type: 'same', map: 'base-colour', tolerance: 1 },
  frame: { type: 'frame', width: 6 },
};

describe('outside of a fence the same bytes', () => {
  const cases: [string, object][] = [
    ...TOOL_TYPES.map((mode): [string, object] => [`the tool ${mode}`, { mode }]),
    ...Object.entries(AREAS).map(([name, area]): [string, object] => [`the area ${name}`, { area }]),
    ['erasing a shape', { mode: 'erase', area: AREAS.rectangle }],
    ['the view brush', { reach: 'seen' }],
  ];

  test.each(cases)('%s, on a canvas that wraps', (_, over) => {
    const easel = canvasEasel(128, true);
    paintAll(easel);
    const fence = fenceOf({ steps: [step({ type: 'range', map: 'base-colour', by: 'red', from: 0.3, to: 0.6, soft: 0 })] });
    const limit = limitOf(easel, fence);
    const before = [texelsOf(easel, 'base-colour'), texelsOf(easel, 'height')];
    const source = { at: flatSample(30, 90) };
    const samples = [flatSample(20, 20), flatSample(100, 80), flatSample(140, 110)];
    strokeOn(easel, brushFor({ writes: WRITES, fence, size: 60, sizeUnit: 'texel', source, ...over }), samples);
    const after = [texelsOf(easel, 'base-colour'), texelsOf(easel, 'height')];
    let [outside, changed] = [0, 0];
    limit.forEach((v, t) => {
      const same = [4, 2].every((channels, m) =>
        Array.from({ length: channels }, (_, k) => before[m][t * channels + k] === after[m][t * channels + k]).every(Boolean),
      );
      if (v === 0 && !same) outside++;
      if (v > 0 && !same) changed++;
    });
    expect(outside).toBe(0);
    if (!('reach' in over))
      expect(changed).toBeGreaterThan('area' in over && (over.area as { type: string }).type === 'frame' ? -1 : 20);
  });

  test.each(cases)('%s, on a model', (_, over) => {
    const easel = cubeEasel(256);
    paintAll(easel);
    const view = viewAround(cubeModel(), [0.4, 0.5, 1], 500, 500);
    const at = (place: number[]): Sample => sampleAt(view, ...pixelOf(view, place));
    // The right side only, softened.
    const fence = fenceOf({ steps: [step({ type: 'islands', ids: [2] })], soften: 5 });
    const limit = limitOf(easel, fence);
    const before = [texelsOf(easel, 'base-colour'), texelsOf(easel, 'height')];
    const samples = [at([0.1, 0.1, 0.5]), at([0.5, 0.1, 0.3]), at([0.5, 0.2, -0.3])];
    const first = 'area' in over ? [at([0.5, 0, 0]), ...samples] : samples;
    const brush = { writes: WRITES, fence, size: 300, sizeUnit: 'model', view, source: { at: at([0.1, 0.3, 0.5]) }, ...over };
    strokeOn(easel, brushFor(brush), first);
    const after = [texelsOf(easel, 'base-colour'), texelsOf(easel, 'height')];
    let [outside, changed] = [0, 0];
    limit.forEach((v, t) => {
      const same = [4, 2].every((channels, m) =>
        Array.from({ length: channels }, (_, k) => before[m][t * channels + k] === after[m][t * channels + k]).every(Boolean),
      );
      if (v === 0 && !same) outside++;
      if (v > 0 && !same) changed++;
    });
    expect(outside).toBe(0);
    expect(changed).toBeGreaterThan(20);
  });
});

describe('what a fence lets through', () => {
  test('soft edges are distances from the outside, up to how far they are softened', () => {
    const easel = canvasEasel(128);
    // A disc of paint is let through.
    fillWith(easel, 'height', (x, y) => [Math.hypot(x + 0.5 - 64, y + 0.5 - 64) < 40 ? 0.9 : 0.5, 1]);
    const range = { type: 'range', map: 'height', from: 0.8, to: 1, soft: 0 };
    const hard = limitOf(easel, fenceOf({ steps: [step(range)] }));
    const soft = limitOf(easel, fenceOf({ steps: [step(range)], soften: 8 }));
    const outside: [number, number][] = [];
    hard.forEach((v, t) => {
      const at: [number, number] = [t % 128, Math.floor(t / 128)];
      // Those near its rim: the others are farther from everything within.
      if (v === 0 && Math.hypot(at[0] - 63.5, at[1] - 63.5) < 43) outside.push(at);
    });
    let wrong = 0;
    soft.forEach((v, t) => {
      const [x, y] = [t % 128, Math.floor(t / 128)];
      let d = v === 0 ? 0 : Infinity;
      if (d > 0) for (const [ox, oy] of outside) d = Math.min(d, Math.hypot(ox - x, oy - y));
      if (Math.abs(v - (d === 0 ? 0 : Math.min(1, (d - 0.5) / 8))) > 1e-5) wrong++;
    });
    expect(wrong).toBe(0);
    expect(hard.every((v, t) => v > 0 || soft[t] === 0)).toBe(true);
  });

  test('across a seam the distance goes on over the surface: the far side counts, the rest of the sheet does not', () => {
    const easel = cubeEasel(256);
    const front = limitOf(easel, fenceOf({ steps: [step({ type: 'islands', ids: [0] })], soften: 4 }));
    const two = limitOf(easel, fenceOf({ steps: [step({ type: 'islands', ids: [0, 2] })], soften: 4 }));
    const { map } = easel.surface!;
    const c = map.cornersTexels;
    // The front's right edge meets the right side. With both let through it is no edge.
    const right = Math.max(c[0], c[2], c[4]);
    const middle = (c[1] + c[5]) / 2;
    const at = (x: number) => Math.floor(middle) * 256 + Math.floor(x);
    expect(front[at(right - 0.6)]).toBeLessThan(0.4);
    expect(front[at(right - 8)]).toBe(1);
    expect(two[at(right - 0.6)]).toBe(1);
    const left = Math.min(c[0], c[2], c[4]);
    expect(two[at(left + 0.6)]).toBeLessThan(0.4);
  });

  test('colours like one, layers, their alpha, rules and inversion are steps of a fence', () => {
    const easel = canvasEasel(128);
    fillWith(easel, 'base-colour', (x) => (x < 64 ? [0.8, 0.2, 0.1, 1] : [0.1, 0.2, 0.8, x < 96 ? 1 : 0]));
    const share = (over: object) => limitOf(easel, fenceOf(over)).reduce((a, b) => a + b, 0) / 128 / 128;
    const red = step({ type: 'colour', map: 'base-colour', colour: [0.8, 0.2, 0.1], tolerance: 0.05, soft: 0 });
    expect(share({ steps: [red] })).toBeCloseTo(0.5, 4);
    expect(share({ steps: [red], invert: true })).toBeCloseTo(0.5, 4);
    const painted = step({ type: 'layer', of: 'l', map: 'base-colour', take: 'alpha' });
    expect(share({ steps: [painted] })).toBeCloseTo(0.75, 4);
    expect(share({ steps: [painted, { ...red, blend: 'subtract' }] })).toBeCloseTo(0.25, 4);
    expect(share({ steps: [step({ type: 'constant', value: 0 })] })).toBe(0);
    expect(share({ steps: [step({ type: 'layer', of: 'gone', map: 'base-colour', take: 'alpha' })] })).toBe(0);
  });

  test('it is made of what was there when the stroke began: painting does not move it', () => {
    const easel = canvasEasel(128);
    fillWith(easel, 'base-colour', (x) => (x < 64 ? [0, 0, 1, 1] : [0, 1, 0, 1]));
    const fence = fenceOf({ steps: [step({ type: 'colour', map: 'base-colour', colour: [0, 0, 1], tolerance: 0.05, soft: 0 })] });
    const brush = brushFor({ writes: WRITES, fence, size: 40, sizeUnit: 'texel' });
    strokeOn(easel, brush, [flatSample(30, 30), flatSample(90, 30), flatSample(30, 40)], 1, true);
    const p = texelsOf(easel, 'base-colour');
    expect([p[(30 * 128 + 30) * 4], p[(30 * 128 + 70) * 4]]).toEqual([65535, 0]);
  });

  test('a stroke of which it leaves nothing says so, and touches no tile', () => {
    const easel = canvasEasel(128);
    const fence = fenceOf({ steps: [step({ type: 'constant', value: 0 })] });
    const stroke = strokeOn(easel, brushFor({ writes: WRITES, fence }), [flatSample(30, 30), flatSample(60, 30)]);
    expect(stroke.fencedOut).toBe(true);
    expect(stroke.changes()).toEqual([]);
    const free = strokeOn(easel, brushFor({ writes: WRITES }), [flatSample(30, 30)]);
    expect(free.fencedOut).toBe(false);
    // A stroke that meets nothing was not fenced out.
    expect(strokeOn(easel, brushFor({ writes: WRITES, fence }), [flatSample(-300, -300)]).fencedOut).toBe(false);
  });

  test('a fence has no paint of its own', () => {
    const read = fenceSchema.safeParse({ steps: [step({ type: 'paint' })] });
    expect(read.success ? '' : read.error.issues[0].message).toBe('a fence has no paint of its own: make it of a mask');
  });
});

test('what is hidden is not painted, in the flat sheet either', () => {
  const easel = cubeEasel(256);
  const { query } = easel.surface!;
  query.hidden.fill(1, 4, 6);
  paintAll(easel);
  const before = texelsOf(easel, 'base-colour');
  strokeOn(easel, brushFor({ writes: WRITES, area: { type: 'fill', of: 'sheet' } }), [flatSample(5, 5)]);
  const after = texelsOf(easel, 'base-colour');
  const { map } = easel.surface!;
  let [hidden, shown] = [0, 0];
  for (const tile of map.tiles.values())
    for (let i = 0; i < tile.face.length; i++) {
      if (tile.face[i] < 0) continue;
      const t = ((tile.y * 128 + (i >> 7)) * 256 + tile.x * 128 + (i & 127)) * 4;
      const same = [0, 1, 2, 3].every((k) => before[t + k] === after[t + k]);
      if (query.hidden[tile.face[i]] && !same) hidden++;
      if (!query.hidden[tile.face[i]] && same) shown++;
    }
  expect([hidden, shown]).toEqual([0, 0]);
});

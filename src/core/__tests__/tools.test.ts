/** Tools: what they do to texels, what they may look at, and the limit that all of their coverage passes. */
import { composite, SEPARABLE_BLENDS } from '../colour/blend';
import { brushSchema, type Brush } from '../hand/brush';
import type { FlatSample, ModelSample } from '../hand/sample';
import { Stroke } from '../hand/stroke';
import type { StrokeContext } from '../hand/context';
import { TOOL_TYPES, TOOLS } from '../hand/tools';
import type { ToolContext, ToolDef } from '../hand/tools/tool';
import { newCoatLayer, newPaintedLayer, newSheet } from '../document/factory';
import type { Sheet } from '../document/schema';
import { Evaluator } from '../strata/evaluator';
import { PieceSurfaces } from '../strata/pieceSurfaces';
import { programOf } from '../strata/program';
import { TILE, TILE_TEXELS, tileIndex, TileStore, type TileIndex } from '../tile/tiles';
import { cubeModel } from '../testing/models';

const pen = { pressure: 1, tiltX: 0, tiltY: 0, time: 0 };
const flat = (x: number, y: number): FlatSample => ({ pane: 'flat', x, y, texelsPerPixel: 1, ...pen });
const towards = (x: number, y: number): ModelSample => {
  const d = [x, y, -2];
  const l = Math.hypot(...d);
  return { pane: 'model', origin: [0, 0, 2], direction: [d[0] / l, d[1] / l, d[2] / l], pixelSpread: 0.001, ...pen };
};
const brush = (over: Partial<Brush> = {}): Brush =>
  brushSchema.parse({
    smoothing: 0,
    hardness: 1,
    flow: 1,
    size: 60,
    writes: { roughness: { on: true, value: [1], amount: 1 }, 'base-colour': { on: true, value: [0.8, 0.2, 0.1], amount: 1 } },
    ...over,
  });

function canvas(over: Partial<Sheet> = {}): StrokeContext {
  const sheet = newSheet('s', 'Sheet', 256, 256, over);
  sheet.layers = [
    newCoatLayer('under', 'Under', { 'base-colour': [0.25, 0.5, 0.75] }, sheet.maps),
    newPaintedLayer('l', 'Hand', sheet.maps),
    newCoatLayer('over', 'Over', { roughness: [0.125] }, sheet.maps),
  ];
  return { sheet, layerId: 'l', store: new TileStore(), surface: null };
}

function stroke(context: StrokeContext, settings: Brush, samples: (FlatSample | ModelSample)[]): Stroke {
  const done = new Stroke(context, settings);
  done.add(samples);
  done.end();
  done.flush();
  return done;
}

/** Stored coverage of roughness on every texel of the layer, 0 … 65,535. */
function covers(store: TileStore, plane = 'l/roughness'): Map<TileIndex, Uint16Array> {
  return new Map(
    [...store.tilesOf(plane)].map(([t, v]) => [t, Uint16Array.from({ length: TILE_TEXELS }, (_, i) => v.data![i * 2 + 1])]),
  );
}

const limitBy = (of: (i: number, tile: TileIndex) => number) => (tile: TileIndex) =>
  Float32Array.from({ length: TILE_TEXELS }, (_, i) => of(i, tile));

describe('the limit', () => {
  const cube = () => {
    const sheet = newSheet('s', 'Sheet', 256, 256, { materialIndex: 0 });
    sheet.layers = [newPaintedLayer('l', 'Hand', sheet.maps)];
    return { sheet, layerId: 'l', store: new TileStore(), surface: new PieceSurfaces(cubeModel(), 0).forSheet(sheet) };
  };
  const ways = {
    'in the flat sheet': () => ({ context: canvas(), settings: brush(), samples: [flat(100, 100), flat(160, 130)] }),
    'on the model': () => ({
      context: cube(),
      settings: brush({ size: 300, sizeUnit: 'model', reach: 'all' }),
      samples: [towards(-0.2, 0), towards(0.25, 0.1)],
    }),
  };

  test.each(Object.keys(ways) as (keyof typeof ways)[])('weighs every texel of a stroke %s', (way) => {
    const free = ways[way]();
    stroke(free.context, free.settings, free.samples);
    const whole = covers(free.context.store);
    expect(whole.size).toBeGreaterThan(0);
    const weight = (i: number, tile: number) => [0, 0.25, 0.5, 1][(i + tile) % 4];
    const limited = ways[way]();
    stroke({ ...limited.context, limit: limitBy(weight) }, limited.settings, limited.samples);
    const part = covers(limited.context.store);
    let seen = 0;
    for (const [tile, all] of whole)
      for (let i = 0; i < TILE_TEXELS; i++) {
        const expected = Math.floor((all[i] / 65535) * weight(i, tile) * 65535 + 0.5);
        expect(Math.abs((part.get(tile)?.[i] ?? 0) - expected)).toBeLessThanOrEqual(1);
        if (expected > 0) seen++;
      }
    expect(seen).toBeGreaterThan(500);
  });

  test('weighs what is laid down, not each dab: many dabs do not push through it', () => {
    const context = { ...canvas(), limit: limitBy(() => 0.5) };
    stroke(
      context,
      brush({ spacing: 0.02 }),
      Array.from({ length: 30 }, (_, i) => flat(100 + i / 10, 100)),
    );
    const most = Math.max(...[...covers(context.store).values()].map((c) => c.reduce((a, b) => Math.max(a, b))));
    expect(most).toBe(32768);
  });

  test('holds back an eraser just as well', () => {
    const context = canvas();
    stroke(context, brush({ size: 120 }), [flat(100, 100)]);
    const before = covers(context.store);
    stroke({ ...context, limit: limitBy((i) => (i % TILE < 64 ? 0 : 1)) }, brush({ mode: 'erase', size: 60 }), [flat(64, 100)]);
    const after = covers(context.store).get(tileIndex(0, 0))!;
    const at = (x: number) => 100 * TILE + x;
    expect(after[at(60)]).toBe(before.get(tileIndex(0, 0))![at(60)]);
    expect(after[at(68)]).toBe(0);
  });
});

describe('what a tool sees', () => {
  /** Paint, by a tool that looks around when the stroke ends. */
  const looking = (look: (context: ToolContext) => void): ToolDef => ({
    ...TOOLS.paint,
    begin: (context) => ({ ...TOOLS.paint.begin(context), end: () => (look(context), false) }),
  });
  const at = (value: { uniform: readonly number[] | null; data: Float32Array | null }, i: number, plane: number) =>
    value.uniform ? value.uniform[plane] : value.data![plane * TILE_TEXELS + i];

  test('is the layer alone, all below it, or everything, as it was when the stroke began', () => {
    const context = canvas();
    stroke(context, brush({ size: 200 }), [flat(40, 40)]);
    const everything = new Evaluator({ sheet: context.sheet, store: context.store.clone() });
    const here = 40 * TILE + 40;
    const seen: Record<string, number[]> = {};
    const spy = looking((tool) => {
      for (const what of ['layer', 'below', 'all'] as const) {
        const value = tool.visible(what, 'base-colour', tileIndex(0, 0));
        seen[what] = [0, 1, 2].map((p) => at(value, here, p));
      }
      seen.roughness = [at(tool.visible('all', 'roughness', tileIndex(0, 0)), here, 0)];
      seen.under = [at(tool.visible('below', 'roughness', tileIndex(0, 0)), here, 0)];
    });
    const other = brush({ writes: { 'base-colour': { on: true, value: [0, 1, 0], amount: 1 } } });
    const second = new Stroke(context, other, spy);
    second.add([flat(40, 40)]);
    second.flush();
    second.end();
    for (const [c, v] of [0.8, 0.2, 0.1].entries()) expect(seen.layer[c]).toBeCloseTo(v, 3);
    expect(seen.below).toEqual([0.25, 0.5, 0.75]);
    const all = everything.tile(programOf(context.sheet, 'base-colour'), tileIndex(0, 0));
    expect(seen.all).toEqual([0, 1, 2].map((p) => at(all, here, p)));
    // What lies over the layer hides it; below it nothing says anything on roughness but the sheet's ground.
    expect(seen.roughness).toEqual([0.125]);
    expect(seen.under).toEqual([0.6000000238418579].map((v) => expect.closeTo(v, 5)));
  });

  test('does not change while the stroke goes on', () => {
    const context = canvas();
    const here = 40 * TILE + 40;
    let first = -1;
    let last = -1;
    const spy: ToolDef = {
      ...TOOLS.paint,
      begin: (tool) => ({
        flush: (patch) => {
          TOOLS.paint.begin(tool).flush(patch);
          const value = at(tool.visible('layer', 'roughness', tileIndex(0, 0)), here, 1);
          if (first < 0) first = value;
          last = value;
        },
      }),
    };
    const running = new Stroke(context, brush(), spy);
    for (let n = 0; n < 5; n++) {
      running.add([flat(40 + n, 40)]);
      running.flush();
    }
    expect(context.store.get('l/roughness', tileIndex(0, 0))!.data![here * 2 + 1]).toBe(65535);
    expect([first, last]).toEqual([0, 0]);
  });
});

describe('dodge and burn', () => {
  const write = { 'base-colour': { on: true, value: [0, 0, 0], amount: 1 } };
  const settings = (over: Brush['settings']) => brush({ mode: 'dodge', size: 40, writes: write, settings: over });
  const texel = ({ store }: StrokeContext, x: number, y: number) => {
    const data = store.get('l/base-colour', tileIndex(x >> 7, y >> 7))?.data;
    const o = ((y & 127) * TILE + (x & 127)) * 4;
    return data ? [0, 1, 2, 3].map((k) => data[o + k] / 65535) : null;
  };
  const painted = (value: number[]) => {
    const context = canvas();
    stroke(context, brush({ size: 160, writes: { 'base-colour': { on: true, value, amount: 1 } } }), [flat(100, 100)]);
    return context;
  };

  test('goes a share of the way to white or black, and leaves the cover as it is', () => {
    const lighter = painted([0.8, 0.4, 0.2]);
    stroke(lighter, settings({ way: 'lighter', strength: 0.5 }), [flat(100, 100)]);
    for (const [k, v] of [0.9, 0.7, 0.6, 1].entries()) expect(texel(lighter, 100, 100)![k]).toBeCloseTo(v, 4);
    const darker = painted([0.8, 0.4, 0.2]);
    stroke(darker, settings({ way: 'darker', strength: 0.25 }), [flat(100, 100)]);
    for (const [k, v] of [0.6, 0.3, 0.15, 1].entries()) expect(texel(darker, 100, 100)![k]).toBeCloseTo(v, 4);
    // Beside the tip nothing changes.
    for (const [k, v] of [0.8, 0.4, 0.2, 1].entries()) expect(texel(darker, 130, 130)![k]).toBeCloseTo(v, 4);
  });

  test('means shadows or lights more: the shares of the three ranges make up the whole', () => {
    const by = (range: string) => {
      const context = painted([0.25, 0.25, 0.25]);
      stroke(context, settings({ way: 'lighter', range, strength: 0.4 }), [flat(100, 100)]);
      return texel(context, 100, 100)![0] - 0.25;
    };
    expect(by('shadows')).toBeGreaterThan(by('middle'));
    expect(by('middle')).toBeGreaterThan(by('lights'));
    expect(by('shadows') + by('middle') + by('lights')).toBeCloseTo(by('all'), 3);
  });

  test('makes no tiles where a mask has no paint, whatever is meant', () => {
    const context = canvas();
    const onMask = settings({ of: 'all' });
    stroke({ ...context, layerId: 'm' }, { ...onMask, writes: { mask: { on: true, value: [1], amount: 1 } } }, [flat(100, 100)]);
    expect(context.store.planeKeys()).toEqual([]);
  });

  test('does nothing where the layer has no paint, unless what is seen is meant: then it paints the changed colour', () => {
    const empty = canvas();
    stroke(empty, settings({ of: 'layer', strength: 0.5 }), [flat(100, 100)]);
    expect(empty.store.planeKeys()).toEqual([]);
    stroke(empty, settings({ of: 'all', strength: 0.5 }), [flat(100, 100)]);
    for (const [k, v] of [0.625, 0.75, 0.875, 1].entries()) expect(texel(empty, 100, 100)![k]).toBeCloseTo(v, 4);
  });
});

test('every tool has words and settings that its controls know', () => {
  for (const type of TOOL_TYPES) {
    const { label, hint, controls, start } = TOOLS[type];
    expect(TOOLS[type].type).toBe(type);
    expect(label).toMatch(/^[A-Z]/);
    expect(hint).toMatch(/\.$/);
    expect(controls.map((c) => c.key).toSorted()).toEqual(Object.keys(start).toSorted());
  }
});

test('a recording from before tools had settings is still a brush', () => {
  expect(brushSchema.parse({ mode: 'erase' })).toMatchObject({ mode: 'erase', settings: {} });
  expect(brushSchema.safeParse({ mode: 'comb' }).success).toBe(false);
});

describe('painting with a blend mode', () => {
  /** What lies there, stored; then one full dab at an amount over it. */
  const over = (blend: string, under: number[] | null, amount: number): number[] => {
    const context = canvas();
    if (under) {
      const data = new Uint16Array(TILE_TEXELS * 4);
      for (let i = 0; i < TILE_TEXELS; i++) data.set(under, i * 4);
      context.store.set('l/base-colour', 0, { data, hash: null });
    }
    const writes = { 'base-colour': { on: true, value: [0.8, 0.2, 0.55], amount } };
    stroke(context, brush({ writes, settings: { blend } }), [flat(60, 60)]);
    const at = (60 * TILE + 60) * 4;
    return [...context.store.data('l/base-colour', 0)!.slice(at, at + 4)].map((v) => v / 65535);
  };
  const UNDER = [13107, 45874, 30000, 39321];

  test.each(SEPARABLE_BLENDS)('%s blends with the layer’s own paint as layers do', (blend) => {
    const was = UNDER.map((v) => v / 65535);
    const [r, g, b, a] = composite(blend, was.slice(0, 3), was[3], [0.8, 0.2, 0.55], 0.7);
    over(blend, UNDER, 0.7).forEach((v, c) => expect(Math.abs(v - [r, g, b, a][c])).toBeLessThanOrEqual(1.01 / 65535));
    // Where there is nothing to blend with it is laid down as it is.
    over(blend, null, 0.7).forEach((v, c) => expect(v).toBeCloseTo([0.8, 0.2, 0.55, 0.7][c], 4));
  });

  test('behind, paint shows only through what does not cover', () => {
    const [ab, as] = [UNDER[3] / 65535, 0.7];
    const ao = as + ab * (1 - as);
    const expected = UNDER.slice(0, 3).map((v, c) => ((v / 65535) * ab + [0.8, 0.2, 0.55][c] * as * (1 - ab)) / ao);
    over('behind', UNDER, 0.7).forEach((v, c) => expect(v).toBeCloseTo([...expected, ao][c], 4));
    const solid = [100, 200, 300, 65535];
    expect(over('behind', solid, 1).map((v) => Math.round(v * 65535))).toEqual(solid);
  });

  test('one that nobody knows paints plainly', () => expect(over('moonlight', UNDER, 0.7)).toEqual(over('normal', UNDER, 0.7)));
});

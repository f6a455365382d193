/** A kind that is added to a registry by one line is validated, evaluated and delivered like those that ship. */
import '../compute';
import { renderDispatch } from '../deliver/dispatch';
import { dispatchSchema } from '../deliver/options';
import { offersOf } from '../deliver/outputs';
import { planDispatch } from '../deliver/plan';
import { newAdjustLayer, newCoatLayer, newMask, newPiece, newSheet } from '../document/factory';
import { parsePiece, pieceSchema, type Sheet } from '../document/schema';
import { areaSchema } from '../hand/areas';
import { bakeSettingsSchema } from '../kinds/bakes';
import { filterSchema } from '../kinds/filters';
import { madeSchema } from '../kinds/sources';
import { stepSourceSchema } from '../kinds/steps';
import type { MapId } from '../kinds/maps';
import { prove } from '../proof/prove';
import { valueAt } from '../strata/evaluate';
import { baked } from '../testing/baked';
import { brushFor, canvasEasel, flatSample, strokeOn, texel } from '../testing/hand';
import { cubeModel } from '../testing/models';
import '../testing/toys';
import { TileStore } from '../tile/tiles';

const TOY_MAP = 'toy-map' as MapId;
const toy = (type: string, level: unknown = 0.5) => ({ type, level }) as never;

/** A sheet whose roughness is 1 under a mask of the toy step, spread by the toy source, and made smaller by the toy adjustment. */
function sheetOfToys(): Sheet {
  const maps: MapId[] = ['base-colour', 'roughness', TOY_MAP];
  const sheet = newSheet('s', 'Sheet', 128, 128, { maps });
  const coat = newCoatLayer('coat', 'Coat', { roughness: [1] }, maps);
  coat.source = toy('toy-source', 0.25);
  coat.cells.roughness = { ...coat.cells.roughness!, low: [0] };
  coat.mask = { id: 'm', on: true };
  sheet.masks = [newMask('m', 'Mask', 0, { steps: [{ ...STEP, source: toy('toy-step', 0.5) }] })];
  sheet.layers = [
    newCoatLayer('ground', 'Ground', { roughness: [0.8] }, maps),
    coat,
    newAdjustLayer('a', 'Smaller', toy('toy-filter', 0.5), ['roughness']),
  ];
  return sheet;
}
const STEP = { id: 'st', on: true, blend: 'normal' as const, amount: 1, invert: false, filters: [] };

describe('a toy is validated', () => {
  test.each([
    ['source', madeSchema, 'toy-source'],
    ['adjustment', filterSchema, 'toy-filter'],
    ['step', stepSourceSchema, 'toy-step'],
    ['bake', bakeSettingsSchema, 'toy-bake'],
    ['area', areaSchema, 'toy-area'],
  ])('%s: sound settings pass, others do not', (_, schema, type) => {
    expect(schema.parse(toy(type))).toEqual({ type, level: 0.5 });
    expect(schema.safeParse(toy(type, 2)).error?.issues[0].path).toEqual(['level']);
    expect(schema.safeParse(toy('toy-nothing')).error?.issues[0].message).toContain('"toy-nothing"');
  });

  test('a document with toys of every kind is sound, and one with a spoilt toy is told where', () => {
    const piece = newPiece('p', 'Toys', 'canvas', [sheetOfToys()]);
    expect(parsePiece(JSON.parse(JSON.stringify(piece)))).toEqual({ ok: true, value: piece });
    const spoilt = JSON.parse(JSON.stringify(piece)) as typeof piece;
    (spoilt.sheets[0].layers[1].source as { level?: number }).level = 7;
    expect(pieceSchema.safeParse(spoilt).error?.issues[0].path).toEqual(['sheets', 0, 'layers', 1, 'source', 'level']);
  });
});

describe('a toy is evaluated', () => {
  test('source, step, adjustment and map', () => {
    const source = { sheet: sheetOfToys(), store: new TileStore() };
    // Half of 0.25 over 0.8, then half of that.
    expect(valueAt(source, 'roughness', 5, 5)[0]).toBeCloseTo((0.8 * 0.5 + 0.25 * 0.5) / 2, 4);
    expect(valueAt(source, TOY_MAP, 5, 5)).toEqual([0.125]);
  });

  test('bake', () => {
    let texels = 0;
    baked(cubeModel(), { type: 'toy-bake' as never, level: 0.75 }).each(([v]) => {
      texels++;
      expect(v).toBeCloseTo(0.75, 4);
    });
    expect(texels).toBeGreaterThan(100);
  });

  test('area', () => {
    const easel = canvasEasel(256);
    const writes = { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 } };
    strokeOn(easel, brushFor({ writes, area: toy('toy-area', 0.5) }), [flatSample(5, 5)]);
    expect(texel(easel, 'base-colour', 100, 100)[3]).toBeCloseTo(0.5, 4);
    expect(texel(easel, 'base-colour', 200, 100)[3] ?? 0).toBe(0);
  });

  test('tool', () => {
    const easel = canvasEasel(128);
    const writes = { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 } };
    strokeOn(easel, brushFor({ writes, mode: 'toy-tool' as never, settings: { level: 1 } }), [
      flatSample(64, 64),
      flatSample(70, 64),
    ]);
    expect([...texel(easel, 'base-colour', 66, 64)]).toEqual([1, 1, 1, 1]);
  });

  test('meter and outputs', async () => {
    const piece = newPiece('p', 'Toys', 'canvas', [sheetOfToys()]);
    const context = { piece, store: new TileStore(), model: null };
    expect([...prove(context)].find((f) => f.meter.id === 'toy-meter')).toMatchObject({ figure: 3, passed: false });
    expect(offersOf(piece, 'sheet').map((o) => o.id)).toContain(TOY_MAP);
    expect(offersOf(piece, 'piece').map((o) => o.id)).toContain('toy-output');
    const options = dispatchSchema.parse({ maps: [TOY_MAP, 'toy-output'] });
    const plan = planDispatch(piece, options);
    expect(plan.ok && plan.files.map((f) => f.name)).toEqual(['toys_sheet_toy-map.png', 'toys.txt']);
    const files = new Map<string, Uint8Array>();
    for await (const [name, bytes] of renderDispatch(context, options)) files.set(name, bytes);
    expect(new TextDecoder().decode(files.get('toys.txt'))).toBe('Toys');
  });
});

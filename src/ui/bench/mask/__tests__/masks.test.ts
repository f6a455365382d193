/** What is done to masks and their steps: one edit each, and what cannot be is said in a sentence. */
import { newMask } from '@/core/document/factory';
import { LIMITS, stepSchema } from '@/core/document/schema';
import type { StepSource } from '@/core/kinds/steps';
import { SOURCES } from '@/core/kinds/sources';
import {
  addMask,
  cycleMaskMode,
  deleteMask,
  fillMask,
  invertMask,
  linkMask,
  mixByHeight,
  shadeEdges,
  switchTarget,
} from '../commands';
import { maskBy, SHAPE_MASKS } from '../byShape';
import { applyRecipe, deleteRecipe, savedRecipes, saveRecipe } from '../recipes';
import { addStep, moveStep, paintTarget, pickInto, previewStep, removeStep, setStep } from '../steps';
import { chooseLayers, currentMask, currentSheet, useBench } from '../../store';
import { fakeStorage, openTestBench, type TestBench } from '../../testing/bench';

const NOISE: StepSource = { type: 'made', made: SOURCES.clouds.start, placement: null };

let bench: TestBench;
beforeEach(() => {
  fakeStorage();
  bench = openTestBench();
  chooseLayers(['wear']);
});
const mask = () => currentMask()!;
const types = () => mask().steps.map((s) => s.source.type);

describe('masks', () => {
  test('a new one is on its layer, is painted next, and paints the other way than its ground', () => {
    chooseLayers(['hand']);
    addMask(1);
    expect(mask()).toMatchObject({ name: 'Mask of Hand', ground: 1 });
    expect(useBench.getState()).toMatchObject({ target: 'mask', maskValue: 0 });
    expect(bench.kinds()).toEqual(['edit']);
    chooseLayers(['ground']);
    addMask(0);
    expect(useBench.getState().maskValue).toBe(1);
  });

  test('one mask on two layers goes from both', () => {
    linkMask(bench.layer('Hand'), 'm');
    expect(bench.layer('Hand').mask).toEqual({ id: 'm', on: true });
    deleteMask(mask());
    expect([bench.layer('Hand').mask, bench.layer('Wear').mask]).toEqual([null, null]);
    expect(currentSheet().masks).toEqual([]);
    expect(bench.kinds()).toEqual(['edit', 'edit']);
  });

  test('turned round, filled, looked at in turn, painted or not', () => {
    invertMask();
    expect(mask().invert).toBe(true);
    fillMask(0);
    expect(bench.sent.at(-1)).toMatchObject({ type: 'layers', what: { do: 'fill-mask', maskId: 'm', value: 0 } });
    const modes = [0, 1, 2, 3].map(() => {
      cycleMaskMode();
      return useBench.getState().maskMode;
    });
    expect(modes).toEqual(['over', 'alone', 'black', null]);
    switchTarget();
    expect(useBench.getState().target).toBe('mask');
    switchTarget();
    expect(useBench.getState().target).toBe('layer');
  });

  test('a layer that has none says so', () => {
    chooseLayers(['hand']);
    for (const [act, says] of [
      [() => invertMask(), /no mask to invert/],
      [cycleMaskMode, /no mask to look at/],
      [switchTarget, /has no mask: add one/],
    ] as const) {
      act();
      expect(bench.notice()).toMatch(says);
    }
    fillMask(1);
    expect(bench.sent).toEqual([]);
  });
});

describe('steps', () => {
  test('the first simply is, those after weigh it, what is painted goes over it and is painted next', () => {
    addStep(mask(), NOISE, 'noise');
    addStep(mask(), { type: 'contact', offset: 0, contrast: 0.5, line: 0 }, 'contact');
    const blends = () => mask().steps.map((s) => s.blend);
    expect(blends().at(-1)).toBe('multiply');
    addStep(mask(), { type: 'paint' }, 'by hand');
    expect(blends().at(-1)).toBe('normal');
    expect(useBench.getState()).toMatchObject({ target: 'mask', maskValue: 1, openStep: mask().steps.at(-1)!.id });
    expect(paintTarget(mask(), null)!.id).toBe(mask().steps.at(-1)!.id);
  });

  test('changed, looked at in passing, moved, taken out', () => {
    addStep(mask(), NOISE, 'noise');
    addStep(mask(), { type: 'contact', offset: 0, contrast: 0.5, line: 0 }, 'contact');
    const [first, second] = mask()
      .steps.slice(-2)
      .map((s) => s.id);
    setStep(mask(), second, { amount: 0.25 }, 'amount');
    expect(mask().steps.find((s) => s.id === second)!.amount).toBe(0.25);
    const before = JSON.stringify(mask());
    previewStep(mask(), second, { amount: 0.75 });
    expect(JSON.stringify(mask())).toBe(before);
    expect(bench.sent.at(-1)).toMatchObject({ type: 'preview' });
    const order = () => mask().steps.map((s) => s.id);
    const start = order();
    moveStep(mask(), second, -1);
    expect(order().indexOf(second)).toBe(start.indexOf(second) - 1);
    moveStep(mask(), second, 1);
    expect(order()).toEqual(start);
    // Not beyond the end.
    const { length } = bench.sent;
    moveStep(mask(), second, 1);
    expect(bench.sent).toHaveLength(length);
    removeStep(mask(), first);
    expect(order()).not.toContain(first);
  });

  test('no more than a mask has room for', () => {
    const step = stepSchema.parse({ id: 'x', source: NOISE });
    const full = { ...mask(), steps: Array.from({ length: LIMITS.maxSteps }, (_, n) => ({ ...step, id: `x${n}` })) };
    addStep(full, NOISE, 'noise');
    expect(bench.notice()).toBe(`A mask has up to ${LIMITS.maxSteps} steps.`);
    expect(bench.sent).toEqual([]);
  });

  test('a mask that asks for the layer that it is on is refused', () => {
    addStep(mask(), { type: 'layer', of: 'wear', map: 'base-colour', take: 'alpha', by: 'luminance' }, 'itself');
    expect(bench.notice()).toMatch(/^That cannot be: /);
    expect(bench.sent).toEqual([]);
  });
});

describe('picking on the model', () => {
  const place = { pane: 'flat' as const, x: 1, y: 2 };
  const hit = (sheetId = 's') => ({ sheetId, x: 0, y: 0, values: {}, on: { face: 7, island: 3, part: 'Lid' } });
  const pick = async (answer: unknown) => {
    bench.answers.push(() => answer);
    await pickInto(place);
  };

  test('parts, islands and faces go in, and out again', async () => {
    for (const [source, key, value] of [
      [{ type: 'parts', names: [] }, 'names', 'Lid'],
      [{ type: 'islands', ids: [] }, 'ids', 3],
      [{ type: 'faces', ids: [] }, 'ids', 7],
    ] as [StepSource, string, unknown][]) {
      addStep(mask(), source, source.type);
      const { id } = mask().steps.at(-1)!;
      useBench.setState({ picking: id });
      const list = () => (mask().steps.find((s) => s.id === id)!.source as unknown as Record<string, unknown[]>)[key];
      const before = list().length;
      await pick(hit());
      expect(list()).toContain(value);
      await pick(hit());
      expect(list()).toHaveLength(before);
    }
  });

  test('ids go in by their colour, and out again; where no id is there is a sentence', async () => {
    addStep(mask(), { type: 'ids', colours: [], tolerance: 0.03 }, 'ids');
    const { id } = mask().steps.at(-1)!;
    useBench.setState({ picking: id });
    const colours = () => (mask().steps.find((s) => s.id === id)!.source as unknown as { colours: number[][] }).colours;
    await pick({ ...hit(), picture: [0.2, 0.4, 0.6] });
    await pick({ ...hit(), picture: [0.6, 0.4, 0.2] });
    expect(colours()).toEqual([
      [0.2, 0.4, 0.6],
      [0.6, 0.4, 0.2],
    ]);
    await pick({ ...hit(), picture: [0.2, 0.4, 0.6] });
    expect(colours()).toEqual([[0.6, 0.4, 0.2]]);
    await pick({ ...hit(), picture: null });
    expect(bench.notice()).toMatch(/no id under the pointer/);
  });

  test('beside the model, on another sheet, and without a step that picks: nothing', async () => {
    addStep(mask(), { type: 'parts', names: [] }, 'parts');
    useBench.setState({ picking: mask().steps.at(-1)!.id });
    const { length } = bench.sent;
    await pick(null);
    expect(bench.notice()).toMatch(/no surface under the pointer/);
    await pick(hit('another'));
    expect(bench.notice()).toMatch(/belongs to another sheet/);
    useBench.setState({ picking: 'gone' });
    await pickInto(place);
    expect(useBench.getState().picking).toBeNull();
    expect(bench.sent).toHaveLength(length);
  });
});

describe('made in one click', () => {
  test('mixed by height: a mask of contact, or a step more on the one that is there', () => {
    chooseLayers(['hand']);
    mixByHeight();
    expect(mask()).toMatchObject({ name: 'Contact of Hand', ground: 0 });
    expect(types()).toEqual(['contact']);
    mixByHeight();
    expect(types()).toEqual(['contact', 'contact']);
    expect(mask().steps[1].blend).toBe('multiply');
  });

  test('a shadow at the edges multiplies, a bevel goes into height, both above the layer', () => {
    chooseLayers(['hand']);
    shadeEdges('shadow');
    expect(bench.layer('Edge shadow')).toMatchObject({ kind: 'coat', blend: 'multiply', opacity: 0.7 });
    expect(bench.names().indexOf('Edge shadow')).toBe(bench.names().indexOf('Hand') + 1);
    chooseLayers(['hand']);
    shadeEdges('bevel');
    expect(bench.layer('Bevel').cells.height).toMatchObject({ on: true });
    expect(currentMask()!.steps[0].source).toMatchObject({ type: 'layer', of: 'hand', take: 'alpha' });
  });

  test.each([
    ['a new mask', () => addMask(1)],
    ['mixed by height', () => mixByHeight()],
    ['a shadow at the edges', () => shadeEdges('shadow')],
    ['by shape', () => maskBy(SHAPE_MASKS[0].source, SHAPE_MASKS[0].label, bench.layer('Hand'))],
  ])('%s: a sheet that holds no more masks says so, and nothing is sent', (_, make) => {
    chooseLayers(['hand']);
    const full = Array.from({ length: LIMITS.maxMasks }, (__, n) => newMask(`full${n}`, `Mask ${n}`, 0));
    useBench.setState((s) => ({
      document: { ...s.document!, sheets: s.document!.sheets.map((x) => ({ ...x, masks: full })) },
    }));
    make();
    expect(bench.notice()).toMatch(/holds up to/);
    expect(bench.sent).toEqual([]);
  });

  test('without height on the sheet neither', () => {
    useBench.setState((s) => ({
      document: { ...s.document!, sheets: s.document!.sheets.map((x) => ({ ...x, maps: ['base-colour'] })) },
    }));
    mixByHeight();
    expect(bench.notice()).toMatch(/no height to mix by/);
    shadeEdges('bevel');
    expect(bench.notice()).toMatch(/A bevel goes into height/);
    expect(bench.sent).toEqual([]);
  });
});

describe('recipes', () => {
  test('are kept without what belongs to one sheet only, and any mask can take them', () => {
    addStep(mask(), NOISE, 'noise');
    addStep(mask(), { type: 'layer', of: 'hand', map: 'base-colour', take: 'alpha', by: 'luminance' }, 'hand');
    saveRecipe(mask(), 'Worn');
    expect(bench.notice()).toMatch(/"Worn" is saved without (one step|\d steps) that belong/);
    const [recipe] = savedRecipes();
    expect(recipe.steps.map((s) => s.source.type)).toContain('made');
    expect(recipe.steps.map((s) => s.source.type)).not.toContain('layer');
    chooseLayers(['hand']);
    addMask(1);
    applyRecipe(mask(), recipe);
    expect(types()).toEqual(recipe.steps.map((s) => s.source.type));
    // Steps of two masks are not the same steps.
    expect(mask().steps[0].id).not.toBe(recipe.steps[0].id);
    saveRecipe(mask(), 'Worn');
    expect(savedRecipes()).toHaveLength(1);
    deleteRecipe('Worn');
    expect(savedRecipes()).toEqual([]);
  });

  test('nonsense in the store is no recipes, and a full store is said', () => {
    const store = fakeStorage();
    store.set('brindle-recipes', '[{"name":"x","steps":[{"id":4}]}]');
    expect(savedRecipes()).toEqual([]);
    fakeStorage(3);
    saveRecipe(mask(), 'Worn');
    expect(bench.notice()).toMatch(/store is full/);
  });
});

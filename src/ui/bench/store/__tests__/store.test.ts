/** The page's mirror of a piece: what is chosen stays there, answers that are too late do nothing, the hand is kept. */
import { newEchoLayer, newGroup, newPaintedLayer, newSheet } from '@/core/document/factory';
import { setLayerEdit } from '@/core/document/edits';
import {
  bench,
  chooseLayers,
  currentLayer,
  currentSheet,
  edit,
  isNewest,
  preview,
  redo,
  selectSheet,
  startJob,
  undo,
  useBench,
  work,
} from '..';
import { loadHand, rememberColour, saveHand, setBrush, setWell } from '../hand';
import { mendSelection } from '../selection';
import { fakeStorage, openTestBench, testSheet } from '../../testing/bench';

beforeEach(() => void fakeStorage());

test('an edit shows at once, goes to the engine with a number, and older answers are not the newest', () => {
  const { sent, layer } = openTestBench();
  edit(setLayerEdit(currentSheet(), layer('Hand'), { opacity: 0.5 }), 'Opacity');
  edit(setLayerEdit(currentSheet(), layer('Hand'), { opacity: 0.4 }), 'Opacity');
  expect(layer('Hand').opacity).toBe(0.4);
  const [first, second] = sent.map((r) => (r as { serial: number }).serial);
  expect(second).toBe(first + 1);
  expect([isNewest(first), isNewest(second)]).toEqual([false, true]);
  undo();
  redo();
  work({ do: 'duplicate', sheetId: 's', ids: ['hand'] });
  expect(sent.map((r) => r.type)).toEqual(['edit', 'edit', 'undo', 'redo', 'layers']);
  expect(isNewest(second)).toBe(false);
});

test('what would be made from itself is refused in a sentence, and the passing edit is taken back', () => {
  const sheet = testSheet();
  const echo = { ...newEchoLayer('echo', 'Echo', 'hand', 'base-colour', ['height']), parent: 'group' };
  sheet.layers.splice(4, 0, echo);
  const { sent, layer, notice } = openTestBench(sheet);
  const before = useBench.getState().document;
  preview(setLayerEdit(currentSheet(), layer('Rust'), { opacity: 0.1 }));
  edit(setLayerEdit(currentSheet(), layer('Echo'), { echo: { ...echo.echo!, of: 'group' } }), 'Echo of its own group');
  expect(notice()).toMatch(/^That cannot be: /);
  expect(useBench.getState().document).toBe(before);
  expect(sent).toMatchObject([{ type: 'preview' }, { type: 'preview', edit: null }]);
});

describe('what is chosen', () => {
  test('the last one is at work, groups around it open, and a mask that it has not is not painted', () => {
    openTestBench();
    useBench.setState({ collapsed: ['group'], target: 'mask', openStep: 'x', maskMode: 'over' });
    chooseLayers(['wear', 'rust']);
    expect(currentLayer()!.id).toBe('rust');
    expect(useBench.getState()).toMatchObject({
      chosen: ['wear', 'rust'],
      collapsed: [],
      target: 'layer',
      openStep: null,
      maskMode: null,
    });
    chooseLayers(['nobody']);
    expect(useBench.getState().chosen).toEqual(['wear', 'rust']);
  });

  test('what is gone is not chosen any more, nor shown alone; work goes on at the topmost painted layer', () => {
    const { layer } = openTestBench();
    chooseLayers(['hand', 'soot']);
    useBench.setState({ solo: ['soot', 'hand'] });
    edit({ type: 'remove-layer', sheetId: 's', index: 4, layer: layer('Soot') }, 'Delete Soot');
    expect(useBench.getState()).toMatchObject({ solo: ['hand'], selected: { s: 'wear' }, chosen: ['wear'] });
  });

  test('a map that is not there any more is not viewed, and a sheet that is gone is left', () => {
    const other = newSheet('t', 'Other', 64, 64, { maps: ['base-colour', 'metallic'] });
    other.layers = [newGroup('g', 'G', other.maps), newPaintedLayer('h', 'H', other.maps)];
    const { sent } = openTestBench(testSheet(), other);
    useBench.setState({ view: 'height', handles: null });
    selectSheet('t');
    expect(sent).toMatchObject([{ type: 'focus', sheetId: 't' }]);
    mendSelection();
    expect(useBench.getState()).toMatchObject({ view: 'lit', chosen: ['h'], sheetId: 't' });
    useBench.setState((s) => ({ document: { ...s.document!, sheets: [testSheet()] } }));
    mendSelection();
    expect(useBench.getState().sheetId).toBe('s');
  });
});

describe('the hand is the artist’s', () => {
  test('it is kept in the browser, and comes back; nonsense there is a fresh hand', () => {
    const store = fakeStorage();
    openTestBench();
    setBrush({ size: 77, hardness: 0.2 });
    setWell('#123456');
    rememberColour();
    rememberColour();
    saveHand();
    expect(loadHand()).toMatchObject({ brush: { size: 77, hardness: 0.2 }, wells: ['#123456', '#e8d9b8'], recent: ['#123456'] });
    store.set('brindle-hand', '{"brush":{"size":-4}}');
    expect(loadHand()).toEqual({});
    store.set('brindle-hand', '{{');
    expect(loadHand()).toEqual({});
  });

  test('twelve colours of late, the newest first, none twice', () => {
    openTestBench();
    for (let n = 0; n < 15; n++) {
      setWell(`#0000${(n + 16).toString(16)}`);
      rememberColour();
    }
    setWell('#000019');
    rememberColour();
    const { recent } = useBench.getState();
    expect(recent).toHaveLength(12);
    expect(recent.slice(0, 3)).toEqual(['#000019', '#00001e', '#00001d']);
    expect(new Set(recent).size).toBe(12);
  });

  test('a full store costs only the memory of the brush', () => {
    fakeStorage(10);
    openTestBench();
    expect(() => saveHand()).not.toThrow();
  });
});

describe('a job', () => {
  const job = (deliver: () => Promise<unknown>) => {
    openTestBench();
    Object.assign(bench(), { freshId: () => 7, deliver });
    return startJob((id) => ({ type: 'export-piece', id }));
  };

  test('is shown while it runs, and its warning is said', async () => {
    const made = { bytes: Uint8Array.of(1), name: 'a', warning: 'One tile is lost.' };
    const running = job(() => Promise.resolve(made));
    expect(useBench.getState().job).toMatchObject({ id: 7, what: 'Starting' });
    expect(await running).toBe(made);
    expect(useBench.getState().job).toBeNull();
    expect(useBench.getState().notice!.message).toBe('One tile is lost.');
  });

  test('that is cancelled gives nothing; one that fails says why; neither stays on show', async () => {
    expect(await job(() => Promise.resolve(null))).toBeNull();
    expect(useBench.getState().job).toBeNull();
    await expect(job(() => Promise.reject(new Error('The painting engine stopped')))).rejects.toThrow('stopped');
    expect(useBench.getState().job).toBeNull();
  });
});

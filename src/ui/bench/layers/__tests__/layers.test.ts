/** What is done to layers: each is one edit that undo takes back whole, and what cannot be is said in a sentence. */
import { applyEdit, invertEdit, type Edit } from '@/core/document/edits';
import { LIMITS } from '@/core/document/schema';
import { addAdjust, addEcho, addLayer } from '../adding';
import { copyChosen, cutChosen, pasteLayers } from '../clipboard';
import {
  cycleLock,
  deleteLayers,
  groupChosen,
  merge,
  moveChosen,
  moveTo,
  tagChosen,
  toggleLayers,
  toggleSolo,
  ungroup,
} from '../commands';
import { chooseLayers, currentLayer, useBench } from '../../store';
import { fakeStorage, openTestBench, type TestBench } from '../../testing/bench';

let bench: TestBench;
beforeEach(() => {
  fakeStorage();
  bench = openTestBench();
});

/** All that was edited, taken back from the last: the piece as it was. */
function takenBack() {
  const edits = bench.sent.flatMap((r) => (r.type === 'edit' ? [r.edit] : []));
  return edits.reduceRight((piece, e: Edit) => applyEdit(piece, invertEdit(e)), useBench.getState().document!);
}
const lock = (id: string, how: 'paint' | 'all') =>
  useBench.setState((s) => ({
    document: {
      ...s.document!,
      sheets: s.document!.sheets.map((x) => ({ ...x, layers: x.layers.map((l) => (l.id === id ? { ...l, lock: how } : l)) })),
    },
  }));

describe('adding', () => {
  test('a layer comes above the one at work, in its group, under a name of its own, and is at work then', () => {
    const before = JSON.stringify(useBench.getState().document);
    chooseLayers(['rust']);
    addLayer('painted');
    addLayer('painted');
    addLayer('coat');
    expect(bench.names()).toEqual(['Ground', 'Hand', 'Wear', 'Rust', 'Painted', 'Painted 2', 'Coat', 'Soot', 'Weather']);
    expect(bench.layer('Coat').parent).toBe('group');
    expect(currentLayer()!.name).toBe('Coat');
    // What is painted by hand carries no directions.
    expect(Object.keys(bench.layer('Painted').cells)).not.toContain('normal');
    expect(JSON.stringify(takenBack())).toBe(before);
  });

  test('an adjustment changes the map that is looked at, or the first that it fits', () => {
    useBench.setState({ view: 'roughness' });
    addAdjust('levels');
    const { cells } = currentLayer()!;
    expect(Object.entries(cells).flatMap(([map, cell]) => (cell?.on ? [map] : []))).toEqual(['roughness']);
    useBench.setState({ view: 'normal' });
    addAdjust('hue');
    expect(Object.keys(currentLayer()!.cells)).toEqual(['base-colour']);
  });

  test('an echo goes into height; an adjustment has nothing to echo', () => {
    chooseLayers(['hand']);
    addEcho();
    expect(currentLayer()).toMatchObject({
      kind: 'echo',
      echo: { of: 'hand', from: 'base-colour' },
      cells: { height: { on: true } },
    });
    addAdjust('levels');
    addEcho();
    expect(bench.notice()).toMatch(/"Levels" changes what lies below and has nothing of its own to echo/);
  });

  test('no more than a sheet holds', () => {
    const [sheet] = useBench.getState().document!.sheets;
    const many = Array.from({ length: LIMITS.maxLayers }, (_, n) => ({ ...sheet.layers[1], id: `x${n}` }));
    useBench.setState((s) => ({ document: { ...s.document!, sheets: [{ ...sheet, layers: many }] } }));
    addLayer('painted');
    expect(bench.notice()).toBe(`A sheet holds up to ${LIMITS.maxLayers.toLocaleString('en')} layers.`);
    expect(bench.sent).toEqual([]);
  });
});

describe('moving', () => {
  test('up goes into a group that comes next, through it, and out at its top', () => {
    const before = JSON.stringify(useBench.getState().document);
    chooseLayers(['wear']);
    moveChosen(1);
    expect(bench.layer('Wear').parent).toBe('group');
    expect(bench.names()).toEqual(['Ground', 'Hand', 'Wear', 'Rust', 'Soot', 'Weather']);
    moveChosen(1);
    moveChosen(1);
    expect(bench.names()).toEqual(['Ground', 'Hand', 'Rust', 'Soot', 'Wear', 'Weather']);
    moveChosen(1);
    expect(bench.layer('Wear').parent).toBeNull();
    expect(bench.names().at(-1)).toBe('Wear');
    // At the end there is nowhere to go.
    const { length } = bench.sent;
    moveChosen(1);
    expect(bench.sent).toHaveLength(length);
    for (let n = 0; n < 4; n++) moveChosen(-1);
    expect(JSON.stringify(useBench.getState().document!.sheets[0].layers)).toBe(
      JSON.stringify(JSON.parse(before).sheets[0].layers),
    );
  });

  test('past a group that is folded', () => {
    useBench.setState({ collapsed: ['group'] });
    chooseLayers(['wear']);
    moveChosen(1);
    expect(bench.names()).toEqual(['Ground', 'Hand', 'Rust', 'Soot', 'Weather', 'Wear']);
    expect(bench.layer('Wear').parent).toBeNull();
  });

  test('a group not into itself, an echo not into what it echoes, what is locked not at all', () => {
    moveTo(['group'], { parent: 'group', above: null });
    expect(bench.notice()).toBe('A group cannot go into itself.');
    chooseLayers(['group']);
    addEcho();
    moveTo([currentLayer()!.id], { parent: 'group', above: null });
    expect(bench.notice()).toMatch(/^That cannot be: .*Take the echo out of its original first\.$/);
    lock('hand', 'all');
    chooseLayers(['hand']);
    moveChosen(1);
    expect(bench.notice()).toBe('"Hand" is locked, so it cannot be moved: unlock it first.');
    expect(bench.kinds()).toEqual(['edit']);
  });

  test('to where it is already: no step of the trail', () => {
    moveTo(['hand'], { parent: null, above: 'ground' });
    expect(bench.sent).toEqual([]);
  });
});

describe('groups', () => {
  test('the chosen come together where the topmost was, and open up again', () => {
    const before = JSON.stringify(useBench.getState().document);
    chooseLayers(['ground', 'wear']);
    groupChosen();
    expect(currentLayer()).toMatchObject({ kind: 'group', name: 'Group' });
    expect(bench.layer('Ground').parent).toBe(currentLayer()!.id);
    ungroup();
    expect(useBench.getState().chosen).toEqual(['ground', 'wear']);
    expect(bench.layer('Wear').parent).toBeNull();
    expect(JSON.stringify(takenBack())).toBe(before);
    ungroup();
    expect(bench.notice()).toMatch(/no group to open up/);
  });

  test('deleting one takes its members, chooses what lay below, and says which echoes show nothing now', () => {
    chooseLayers(['rust']);
    addEcho();
    const echo = currentLayer()!;
    moveTo([echo.id], { parent: null, above: 'group' });
    chooseLayers(['group']);
    deleteLayers();
    expect(bench.names()).toEqual(['Ground', 'Hand', 'Wear', echo.name]);
    expect(currentLayer()!.name).toBe('Wear');
    expect(bench.notice()).toMatch(/"Echo of Rust" echoed what is gone/);
  });

  test('nothing of it is deleted where a member is locked', () => {
    lock('soot', 'all');
    chooseLayers(['group']);
    deleteLayers();
    expect(bench.notice()).toMatch(/"Soot" is locked, so it cannot be deleted/);
    expect(bench.sent).toEqual([]);
  });
});

describe('the chosen together', () => {
  test('shown and hidden, locked in turn, tagged', () => {
    chooseLayers(['hand', 'wear']);
    toggleLayers();
    expect([bench.layer('Hand').visible, bench.layer('Wear').visible]).toEqual([false, false]);
    toggleLayers();
    expect(bench.layer('Wear').visible).toBe(true);
    for (const how of ['paint', 'all', 'none']) {
      cycleLock();
      expect([bench.layer('Hand').lock, bench.layer('Wear').lock]).toEqual([how, how]);
    }
    tagChosen(3);
    expect(bench.layer('Hand').tag).toBe(3);
    expect(bench.sent).toHaveLength(6);
  });

  test('alone, and all again; nothing of it is an edit', () => {
    chooseLayers(['hand', 'wear']);
    toggleSolo();
    expect(useBench.getState().solo).toEqual(['hand', 'wear']);
    toggleSolo();
    expect(useBench.getState().solo).toEqual([]);
    expect(bench.kinds()).not.toContain('edit');
  });

  test('merging down means the chosen where there are several', () => {
    chooseLayers(['hand']);
    merge('down');
    chooseLayers(['hand', 'wear']);
    merge('down');
    merge('flatten');
    expect(bench.sent).toMatchObject([
      { what: { how: 'down', ids: ['hand'] } },
      { what: { how: 'selected', ids: ['hand', 'wear'] } },
      { what: { how: 'flatten' } },
    ]);
  });
});

describe('the clipboard', () => {
  const clip = { layers: [{ name: 'Hand' }], tiles: [] };

  test('what is copied is pasted above what is at work, here or in another tab', async () => {
    pasteLayers();
    expect(bench.notice()).toMatch(/nothing to paste/);
    bench.answers.push(() => clip);
    chooseLayers(['hand']);
    expect(await copyChosen()).toBe(true);
    expect(bench.asked).toMatchObject([{ ask: 'copy', ids: ['hand'] }]);
    chooseLayers(['rust']);
    pasteLayers();
    expect(bench.sent).toMatchObject([
      { type: 'layers', what: { do: 'paste', clip, place: { parent: 'group', above: 'rust' } } },
    ]);
  });

  test('cutting deletes only what was really copied', async () => {
    fakeStorage(5);
    bench.answers.push(() => clip);
    chooseLayers(['hand']);
    await cutChosen();
    expect(bench.notice()).toMatch(/more than the browser’s clipboard store takes/);
    expect(bench.names()).toContain('Hand');
    fakeStorage();
    bench.answers.push(() => clip);
    await cutChosen();
    expect(bench.names()).not.toContain('Hand');
  });
});

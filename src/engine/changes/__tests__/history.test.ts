import type { TileChange, TileVersion } from '../../../core/tile/tiles';
import { TileStore } from '../../../core/tile/tiles';
import { History } from '../history';
import type { Remote } from '../../remote';
import { encodeTile } from '../../tiles/tileCodec';

const texels = (v: number) => new Uint16Array(128 * 128 * 2).fill(v);
const edit = { type: 'paint' as const, sheetId: 's', layerId: 'l' };

/** Ten strokes on one tile; every state is on the server. */
async function tenStrokes(budgetBytes: number) {
  const store = new TileStore();
  const blobs = new Map<string, Uint8Array>();
  let asked = 0;
  const remote = {
    blobs: async (hashes: readonly string[]) => {
      asked += hashes.length;
      return new Map(hashes.map((h) => [h, blobs.get(h)!]));
    },
  } as unknown as Remote;
  const history = new History('p', [], 0, remote, store, budgetBytes);
  const versions: TileVersion[] = [];
  for (let n = 1; n <= 10; n++) {
    const { hash, blob } = await encodeTile(texels(n));
    blobs.set(hash, blob);
    const after = { data: texels(n), hash };
    const change: TileChange = { plane: 'l/height', tile: 0, before: store.get('l/height', 0), after };
    store.apply([change]);
    history.push(`op${n}`, `Stroke ${n}`, edit, [change]);
    versions.push(after);
  }
  return { store, history, versions, asked: () => asked };
}

test('within the budget all states stay in memory', async () => {
  const { versions } = await tenStrokes(1 << 30);
  expect(versions.every((v) => v.data)).toBe(true);
});

test('beyond it the oldest lose their pixels, never the one on show; undo fetches them again by hash', async () => {
  const { store, history, versions, asked } = await tenStrokes(4 * 65536);
  // Four states fit: what each of the last two steps was and became.
  expect(versions.map((v) => v.data !== null)).toEqual([...new Array<boolean>(8).fill(false), true, true]);
  expect(store.data('l/height', 0)![0]).toBe(10);
  for (let n = 9; n >= 1; n--) {
    await history.fetch('undo');
    const { changes } = history.ready('undo')!;
    store.apply(changes.map((c) => ({ ...c, before: c.after, after: c.before })));
    history.moved('undo');
    expect(store.data('l/height', 0)![100]).toBe(n);
  }
  expect(asked()).toBeGreaterThan(0);
  expect(history.state).toMatchObject({ position: 1 });
});

test('a state that a duplicated layer still shows is kept', async () => {
  const { store, history, versions } = await tenStrokes(0);
  const { hash } = await encodeTile(texels(50));
  const shared = { data: texels(50), hash };
  store.set('copy/height', 0, shared);
  history.push('x', 'x', edit, [{ plane: 'l/height', tile: 1, before: shared, after: null }]);
  expect(shared.data).not.toBeNull();
  expect(versions[0].data).toBeNull();
});

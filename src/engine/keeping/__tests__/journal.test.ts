import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { openDB } from 'idb';
import { packOperation } from '../../../core/keeping/operation';
import { JOURNAL_NAME, openJournalDatabase } from '../journal/database';
import { Journal, type NewEntry } from '../journal/journal';
import { at, Browser, brush } from '../../testing/server';

let n = 0;
const entry = (more: Partial<NewEntry> = {}): NewEntry => ({
  id: `e${++n}`,
  pieceId: 'p',
  client: 'tab',
  at: 1000 + n,
  label: `Change ${n}`,
  intent: { type: 'undo' },
  whole: true,
  ...more,
});
const strokeEntry = (more: Partial<NewEntry> = {}) =>
  entry({ intent: { type: 'stroke', sheetId: 's', layerId: 'l', brush, seed: 1 }, whole: false, ...more });
const points = (from: number, count: number) => Array.from({ length: count }, (_, i) => at(from + i, 1));
const places = (samples: readonly object[]) => samples.map((s) => (s as { x: number }).x);
const moment = (ms = 30) => new Promise((resolve) => setTimeout(resolve, ms));

test('what was begun is on disk when the promise is kept, in order', async () => {
  const browser = new Browser();
  const journal = browser.journal();
  const [a, b] = [entry(), entry()];
  await journal.begin(a);
  await journal.begin(b);
  expect((await browser.entries()).map((e) => e.id)).toEqual([a.id, b.id]);
});

test('a stroke under the pen is on disk but for its last moments; lifted, all of it is', async () => {
  const browser = new Browser();
  const journal = browser.journal();
  const stroke = strokeEntry();
  await journal.begin(stroke, points(0, 3));
  journal.add(stroke.id, points(3, 4));
  journal.add(stroke.id, points(7, 2));
  await moment();
  const [under] = await browser.entries();
  expect([under.whole, places(under.samples)]).toEqual([false, [0, 1, 2, 3, 4, 5, 6, 7, 8]]);
  // Many writes at once, some of which overlap in time.
  for (let i = 9; i < 60; i++) {
    journal.add(stroke.id, points(i, 1));
    if (i % 7 === 0) await moment(3);
  }
  await journal.finish(stroke.id, points(60, 2));
  const [whole] = await browser.entries();
  expect([whole.whole, places(whole.samples)]).toEqual([true, Array.from({ length: 62 }, (_, i) => i)]);
});

test('on a full disk nothing is called written; it stays in memory, is said, and is written once there is room', async () => {
  const browser = new Browser();
  const journal = browser.journal();
  const states: { failing: string | null; unwritten: string[] }[] = [];
  journal.listen((s) => states.push(s));
  const first = entry();
  await journal.begin(first);
  browser.broken = Object.assign(new Error('Quota exceeded'), { name: 'QuotaExceededError' });
  const stroke = strokeEntry();
  await expect(journal.begin(stroke, points(0, 2))).rejects.toThrow();
  journal.add(stroke.id, points(2, 2));
  await expect(journal.finish(stroke.id, points(4, 1))).rejects.toThrow();
  expect(states.at(-1)).toEqual({ failing: 'this browser’s room is full', unwritten: [stroke.id] });
  expect((await journal.list('p')).map((e) => e.id)).toEqual([first.id, stroke.id]);
  browser.broken = null;
  await moment(60);
  expect(states.at(-1)).toEqual({ failing: null, unwritten: [] });
  const found = await browser.entries();
  expect(found.map((e) => e.id)).toEqual([first.id, stroke.id]);
  expect(places(found[1].samples)).toEqual([0, 1, 2, 3, 4]);
});

test('when site data is cleared, what waits is written into the new database', async () => {
  const browser = new Browser();
  const journal = browser.journal();
  const stroke = strokeEntry();
  await journal.begin(stroke, points(0, 2));
  await journal.finish(stroke.id, points(2, 2));
  await browser.clear();
  expect(await browser.entries()).toEqual([]);
  const next = entry();
  await journal.begin(next).catch(() => undefined);
  await moment(80);
  const found = await browser.entries();
  expect(found.map((e) => e.id)).toEqual([stroke.id, next.id]);
  expect(places(found[0].samples)).toEqual([0, 1, 2, 3]);
});

test('what the server took goes, with its tiles and samples, and the head moves with it', async () => {
  const browser = new Browser();
  const journal = browser.journal();
  const stroke = strokeEntry();
  await journal.begin(stroke, points(0, 2));
  await journal.finish(stroke.id, []);
  const operation = { kind: 'undo' as const, id: stroke.id, baseRevision: 0, step: null };
  await journal.packed(stroke.id, operation, [
    ['a', new Uint8Array(1_500_000).fill(1)],
    ['b', new Uint8Array(10).fill(2)],
  ]);
  const blobs = new Map(await browser.journal().blobs(stroke.id));
  expect([blobs.get('a')!.length, blobs.get('b')![9]]).toEqual([1_500_000, 2]);
  expect((await browser.entries())[0].packed).toEqual(operation);
  await journal.taken(stroke.id, 'p', 7);
  expect(await browser.entries()).toEqual([]);
  expect(await browser.journal().blobs(stroke.id)).toEqual([]);
  expect(await browser.journal().head('p')).toBe(7);
});

test('an answer that is quicker than the writing leaves nothing behind', async () => {
  const browser = new Browser();
  const journal = browser.journal();
  const late = entry();
  await journal.taken(late.id, 'p', 1);
  await journal.begin(late);
  expect(await browser.entries()).toEqual([]);
});

test('what another tab has taken care of does not come back by a late write', async () => {
  const browser = new Browser();
  const [mine, other] = [browser.journal(), browser.journal()];
  const e = entry();
  await mine.begin(e);
  await other.taken(e.id, 'p', 3);
  await mine.packed(e.id, { kind: 'undo', id: e.id, baseRevision: 0, step: null }, []);
  await mine.note(e.id, 'x');
  expect(await browser.entries()).toEqual([]);
});

test('set aside it stays, with its reason; tried again it comes last; dropped it is gone', async () => {
  const browser = new Browser();
  const journal = browser.journal();
  const [a, b] = [entry(), entry()];
  await journal.begin(a);
  await journal.begin(b);
  await journal.aside(a.id, 'too large');
  expect((await browser.entries()).map((e) => e.aside?.why ?? null)).toEqual(['too large', null]);
  expect(await browser.journal().summary()).toEqual([{ pieceId: 'p', waiting: 1, aside: 1 }]);
  await journal.again(a.id);
  expect((await browser.entries()).map((e) => [e.id, e.aside])).toEqual([
    [b.id, null],
    [a.id, null],
  ]);
  await journal.drop([a.id]);
  expect((await browser.entries()).map((e) => e.id)).toEqual([b.id]);
});

test('moved to another piece they are recordings again, and the head is the copy’s', async () => {
  const browser = new Browser();
  const journal = browser.journal();
  const [a, b] = [entry(), entry()];
  await journal.begin(a);
  await journal.begin(b);
  await journal.packed(a.id, { kind: 'undo', id: a.id, baseRevision: 3, step: 'x' }, [['h', Uint8Array.of(1)]]);
  await journal.move([a.id, b.id], 'copy', 0);
  expect(await browser.entries('p')).toEqual([]);
  expect((await browser.entries('copy')).map((e) => [e.id, e.packed])).toEqual([
    [a.id, null],
    [b.id, null],
  ]);
  expect([await browser.journal().head('copy'), await browser.journal().blobs(a.id)]).toEqual([0, []]);
});

test('what a page could only put into the local store takes the place of what was written in part', async () => {
  const browser = new Browser();
  const stroke = strokeEntry();
  const before = browser.journal();
  await before.begin(stroke, points(0, 2));
  const other = entry();
  await before.begin(other);
  await browser.journal().revive({ ...stroke, whole: true }, points(0, 5));
  const found = await browser.entries();
  expect(found.map((e) => [e.id, e.whole, e.samples.length])).toEqual([
    [stroke.id, true, 5],
    [other.id, true, 0],
  ]);
});

test('a journal of before is taken over: operations as bytes, in order, with the revision that they build on', async () => {
  const factory = new IDBFactory();
  globalThis.indexedDB = factory;
  const old = await openDB(JOURNAL_NAME, 1, {
    upgrade(db) {
      const store = db.createObjectStore('operations', { keyPath: 'order', autoIncrement: true });
      store.createIndex('piece', 'pieceId');
      store.createIndex('id', 'id', { unique: true });
    },
  });
  for (const [id, baseRevision] of [
    ['o1', 4],
    ['o2', 5],
  ] as const)
    await old.add('operations', {
      id,
      pieceId: 'p',
      bytes: packOperation({ kind: 'undo', id, baseRevision, step: null }, new Map()),
    });
  old.close();
  const journal = new Journal({ open: openJournalDatabase });
  const found = await journal.list('p');
  expect(found.map((e) => [e.id, e.intent.type, e.whole])).toEqual([
    ['o1', 'bytes', true],
    ['o2', 'bytes', true],
  ]);
  expect(await journal.head('p')).toBe(4);
  // New entries come after them.
  await journal.begin(entry({ id: 'new' }));
  expect((await journal.list('p')).map((e) => e.id)).toEqual(['o1', 'o2', 'new']);
});

/** What the server pushes to its pages: whoever changes something, everybody who listens hears of it. */
import { Client } from 'pg';
import { TOPICS, type Topic } from '../../core/updates/topics';
import { announce, markArriving, markWhole } from '../arriving';
import { database } from '../db';
import { listenForUpdates } from '../updates';
import { updateStream } from '../updateStream';
import { bakes, bakeTiles, bakeWorkers, blobs } from '../schema';
import { freshDatabase } from '../testing';

let end: () => Promise<void>;
beforeAll(async () => (end = await freshDatabase('updates')));
afterAll(() => end());

/** Collects what is heard; `next` resolves when all of these topics have been heard since the last call. */
function listening() {
  let heard: Topic[] = [];
  let check = () => {};
  const stop = listenForUpdates((topic) => {
    heard.push(topic);
    check();
  });
  const next = (...wanted: Topic[]) =>
    new Promise<void>((resolve) => {
      check = () => {
        if (!wanted.every((topic) => heard.includes(topic))) return;
        heard = [];
        check = () => {};
        resolve();
      };
      check();
    });
  return { stop, next, heard: () => heard };
}

const bake = { key: 'k', spec: {} as never, label: 'Ball', pieceId: 'p' };

test('every change of bakes, workers and pieces that arrive is told; a heartbeat is not', async () => {
  const { stop, next, heard } = listening();
  // Listening begins with everything, as anything may have been missed.
  await next(...TOPICS);
  await database().insert(bakes).values(bake);
  await next('bakes');
  await database().update(bakes).set({ state: 'running', tiles: 4 });
  await next('bakes');
  await database()
    .insert(blobs)
    .values({ hash: 'h', bytes: Buffer.from([1]) });
  await database().insert(bakeTiles).values({ key: 'k', tile: 0, hash: 'h', missed: 0, worker: 'w' });
  await next('bakes');
  const row = { id: 'w', host: 'h', cores: 2, holds: [] };
  const beat = () => database().insert(bakeWorkers).values(row).onConflictDoUpdate({ target: bakeWorkers.id, set: row });
  await beat();
  await next('workers');
  await beat();
  await announce([{ name: 'lantern', title: 'Harbour lantern' }]);
  await next('arriving');
  expect(heard()).not.toContain('workers');
  await markArriving('lantern', { there: true });
  await next('arriving');
  await markWhole('lantern');
  await next('arriving');
  stop();
});

test('after the connection is lost listening goes on, and everything counts as changed', async () => {
  const { stop, next } = listening();
  await next(...TOPICS);
  const admin = new Client({ connectionString: process.env.DATABASE_URL });
  await admin.connect();
  await admin.query(`select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen brindle_changed%'`);
  await admin.end();
  await next(...TOPICS);
  await database().update(bakes).set({ state: 'done' });
  await next('bakes');
  stop();
});

test('the stream of a page names what has changed, and ends with its request', async () => {
  const leaving = new AbortController();
  const reader = updateStream(leaving.signal).getReader();
  let text = '';
  const readUntil = async (wanted: string) => {
    while (!text.includes(wanted)) text += new TextDecoder().decode((await reader.read()).value);
    text = '';
  };
  for (const topic of TOPICS) await readUntil(`data: ${topic}\n\n`);
  await database().update(bakes).set({ state: 'failed' });
  await readUntil('data: bakes\n\n');
  leaving.abort();
  let last = await reader.read();
  while (!last.done) last = await reader.read();
  expect(last.done).toBe(true);
});

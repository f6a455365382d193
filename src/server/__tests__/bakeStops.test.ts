/** Bakes whose workers are stopped, in order or not, at every tile: others go on where they stopped, and nothing waits for ever. */
import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { sql } from 'drizzle-orm';
import '../../core/compute';
import { BAKE_VERSION, bakeSpecSchema } from '../../core/kinds/bakes/spec';
import type { BakeStatus } from '../../core/kinds/bakes/status';
import { writeGlb } from '../../core/mesh/writeGlb';
import { ballModel } from '../../core/testing/baked';
import { contractPiece } from '../../core/testing/serverContract';
import { requestBake, statusOf, tilesOfBake } from '../bakes/requests';
import { BakeWorker } from '../bakes/worker';
import { database } from '../db';
import { bakeTiles, blobs, pieces } from '../schema';
import { freshDatabase } from '../testing';

/** Abandoned work is taken up again within ten seconds; a machine under load may take several times as long. */
const TAKEN_UP_MS = 60_000;
let end: () => Promise<void>;
let model = '';
let seed = 100;
const open = new Set<BakeWorker>();
const processes = new Set<ChildProcess>();

beforeAll(async () => {
  end = await freshDatabase('bakestops');
  const glb = await writeGlb(ballModel(1, 24, 48));
  model = createHash('sha256').update(glb).digest('hex');
  await database().insert(blobs).values({ hash: model, bytes: glb });
  await database().insert(pieces).values({ id: 'p', name: 'Piece', document: contractPiece() });
}, 60_000);
afterEach(async () => {
  for (const worker of open) await stop(worker);
  for (const child of processes) child.kill('SIGKILL');
  processes.clear();
});
afterAll(() => end());

/** A bake of nine tiles that nobody has asked for yet. */
async function ask(): Promise<string> {
  const spec = bakeSpecSchema.parse({
    ...{ version: BAKE_VERSION, model, uvSet: 0, material: 0, width: 384, height: 384, supersample: 1, twin: null },
    settings: { type: 'occlusion', samples: seed++ },
  });
  const answer = await requestBake(spec, 'p', 'Ball');
  if (!answer.ok) throw new Error(answer.message);
  return answer.status.key;
}

async function start(): Promise<BakeWorker> {
  const worker = new BakeWorker(undefined, 1);
  open.add(worker);
  await worker.start();
  return worker;
}
async function stop(worker: BakeWorker): Promise<void> {
  open.delete(worker);
  await worker.stop();
}

const status = async (key: string): Promise<BakeStatus> => (await statusOf([key]))[0];
async function until(key: string, holds: (s: BakeStatus) => boolean, withinMs = 60_000): Promise<BakeStatus> {
  for (const began = Date.now(); Date.now() - began < withinMs;) {
    const now = await status(key);
    if (holds(now)) return now;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  throw new Error(`It did not come to that: ${JSON.stringify(await status(key))}`);
}

test('stopped in good order at every tile, more often than a job may be tried: the next worker goes on at once', async () => {
  const key = await ask();
  let stops = 0;
  for (let done = 0; (await status(key)).state !== 'done'; stops++) {
    const worker = await start();
    const now = await until(key, (s) => s.state === 'done' || s.done > done, TAKEN_UP_MS);
    done = now.done;
    await stop(worker);
  }
  // As it is stopped a worker may still finish the tile at hand.
  expect(stops).toBeGreaterThanOrEqual(5);
  const rows = await database()
    .select()
    .from(bakeTiles)
    .where(sql`key = ${key}`);
  expect(rows.length).toBe((await status(key)).tiles);
  expect((await tilesOfBake(key))!.tiles.length).toBeGreaterThan(0);
}, 180_000);

test('stopped before it has found its tiles, a bake is planned by the next worker', async () => {
  for (const wait of [0, 200]) {
    const key = await ask();
    const first = await start();
    await new Promise((resolve) => setTimeout(resolve, wait));
    await stop(first);
    const next = await start();
    await until(key, ({ state }) => state === 'done', 2 * TAKEN_UP_MS);
    await stop(next);
  }
}, 180_000);

test('a bake without a job in the queue is found and taken up again', async () => {
  const key = await ask();
  const worker = await start();
  await until(key, ({ done }) => done >= 1);
  await stop(worker);
  const lost = await database().execute(sql`delete from graphile_worker._private_jobs returning id`);
  expect(lost.rows.length).toBeGreaterThan(0);
  await start();
  const before = (await status(key)).done;
  await until(key, ({ state, done }) => state === 'done' || done > before, TAKEN_UP_MS);
  await until(key, ({ state }) => state === 'done');
}, 120_000);

test('one whose job was tried as often as it may be is told as failed, and can be asked for again', async () => {
  const key = await ask();
  await database().execute(sql`update graphile_worker._private_jobs set attempts = max_attempts`);
  await start();
  const failed = await until(key, ({ state }) => state === 'failed', TAKEN_UP_MS);
  expect(failed.message).toMatch(/^It was begun again and again .* bake it once more, at a smaller size if it stops again\.$/);
  seed--;
  expect(await ask()).toBe(key);
  await until(key, ({ state }) => state === 'done');
}, 120_000);

test('processes killed and ended in turn at one tile after another: the last one finishes', async () => {
  const key = await ask();
  for (const [n, how] of (['SIGKILL', 'SIGTERM'] as const).entries()) {
    const child = spawn(process.execPath, ['--import', 'tsx', 'cli/main.ts', 'worker'], {
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, BRINDLE_WORKER_DEAD_S: '2' },
    });
    processes.add(child);
    await new Promise<void>((resolve) => child.stdout.on('data', (text: Buffer) => text.includes('at work') && resolve()));
    await until(key, ({ done, state }) => state === 'done' || done > n, TAKEN_UP_MS);
    const gone = new Promise((resolve) => child.on('exit', resolve));
    child.kill(how);
    await gone;
    processes.delete(child);
  }
  await start();
  await until(key, ({ state }) => state === 'done', 2 * TAKEN_UP_MS);
}, 180_000);

/** Bakes on the server: asked for, shared among workers, cancelled, taken up again when somebody dies. */
import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq, sql } from 'drizzle-orm';
import '../../core/compute';
import { BakeDesk } from '../../core/bake/desk';
import { encodePng } from '../../core/codec/png';
import { tileBytes } from '../../core/codec/tileBlob';
import { BAKE_VERSION, bakeSpecSchema, type BakeSpec } from '../../core/kinds/bakes/spec';
import type { BakeStatus } from '../../core/kinds/bakes/status';
import { readModel } from '../../core/mesh/readModel';
import { plainMaterial } from '../../core/mesh/modelBuilder';
import { writeGlb } from '../../core/mesh/writeGlb';
import { contractPiece } from '../../core/testing/serverContract';
import { ballModel } from '../../core/testing/baked';
import { cancelBake, keyOf, listWorkers, requestBake, statusOf, tilesOfBake } from '../bakes/requests';
import { takeTwin, twinBytes } from '../bakes/twins';
import { collect } from '../collect';
import { database } from '../db';
import { bakes, bakeTiles, blobs, pieces, twins } from '../schema';
import { freshDatabase } from '../testing';

let end: () => Promise<void>;
let glb: Uint8Array;
let model = '';
const workers = new Set<ChildProcess>();

/** A worker of its own, which can be killed. The dead are noticed after two seconds here. */
function worker(): Promise<ChildProcess> {
  const child = spawn(process.execPath, ['--import', 'tsx', 'cli/main.ts', 'worker'], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, BRINDLE_WORKER_DEAD_S: '2' },
  });
  workers.add(child);
  return new Promise((resolve) => child.stdout.on('data', (text: Buffer) => text.includes('at work') && resolve(child)));
}
const kill = (child: ChildProcess, how: NodeJS.Signals = 'SIGKILL') =>
  new Promise((resolve) => {
    workers.delete(child);
    child.on('exit', resolve);
    child.kill(how);
  });

const spec = (over: object = {}): BakeSpec =>
  bakeSpecSchema.parse({
    ...{ version: BAKE_VERSION, model, uvSet: 0, material: 0, width: 256, height: 256, supersample: 1, twin: null },
    settings: { type: 'occlusion', samples: 64 },
    ...over,
  });
const ask = async (s: BakeSpec) => {
  const answer = await requestBake(s, 'p', 'Ball: occlusion');
  if (!answer.ok) throw new Error(answer.message);
  return answer.status;
};
async function until(key: string, holds: (s: BakeStatus) => boolean): Promise<BakeStatus> {
  for (let n = 0; n < 600; n++) {
    const [status] = await statusOf([key]);
    if (status && holds(status)) return status;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error('It did not come to that.');
}

/** What one thread alone makes of it: the address of each tile. */
async function alone(s: BakeSpec): Promise<[number, string][]> {
  const desk = new BakeDesk();
  desk.take(s.model, await readModel(new Map([['model.glb', glb]])));
  return desk.tiles(s).flatMap((tile): [number, string][] => {
    const baked = desk.tile(s, tile);
    return baked ? [[tile, createHash('sha256').update(tileBytes(baked.data)).digest('hex')]] : [];
  });
}

beforeAll(async () => {
  end = await freshDatabase('bakes');
  glb = await writeGlb({ ...ballModel(1, 24, 48), materials: [{ ...contractMaterial }] });
  model = createHash('sha256').update(glb).digest('hex');
  await database().insert(blobs).values({ hash: model, bytes: glb });
  await database().insert(pieces).values({ id: 'p', name: 'Piece', document: contractPiece() });
}, 60_000);
afterEach(async () => {
  for (const child of workers) await kill(child);
});
afterAll(() => end());

const contractMaterial = plainMaterial('Surface');

test('two workers on one bake give the same bytes as one thread, each tile once, and nothing is baked twice', async () => {
  const s = spec({ width: 384, height: 384, settings: { type: 'occlusion', samples: 16 } });
  await Promise.all([worker(), worker()]);
  expect((await listWorkers()).length).toBeGreaterThanOrEqual(0);
  const first = await ask(s);
  const done = await until(first.key, ({ state }) => state === 'done');
  const taken = await tilesOfBake(first.key);
  expect(taken!.tiles).toEqual(await alone(s));
  expect(done.done).toBe(done.tiles);
  const rows = await database().select().from(bakeTiles).where(eq(bakeTiles.key, first.key));
  expect(new Set(rows.map((r) => r.tile)).size).toBe(rows.length);
  // Asked again it is there at once, as it was.
  expect(await ask(s)).toMatchObject({ state: 'done', done: done.done });
  const again = await database().select().from(bakeTiles).where(eq(bakeTiles.key, first.key));
  expect(again).toEqual(rows);
  // What was baked is named: the collector leaves it.
  await database().execute(sql`update blobs set touched_at = now() - interval '3 days'`);
  await collect();
  const kept = await database().select({ hash: blobs.hash }).from(blobs);
  expect(taken!.tiles.every(([, hash]) => kept.some((k) => k.hash === hash))).toBe(true);
  await database().insert(blobs).values({ hash: model, bytes: glb }).onConflictDoNothing();
}, 120_000);

test('a worker killed in the middle: another takes its work up, and the result stands once', async () => {
  const s = spec({ width: 640, height: 640, settings: { type: 'occlusion', samples: 50 } });
  const { key } = await ask(s);
  const first = await worker();
  await until(key, ({ done }) => done >= 3);
  await kill(first);
  const [half] = await statusOf([key]);
  expect(half.done).toBeLessThan(half.tiles);
  await worker();
  await until(key, ({ state }) => state === 'done');
  expect((await tilesOfBake(key))!.tiles).toEqual(await alone(s));
}, 180_000);

test('cancelled, it ends within half a second and stays so; asked for again it goes on where it was', async () => {
  const s = spec({ width: 1024, height: 1024, settings: { type: 'occlusion', samples: 200 } });
  const { key } = await ask(s);
  await worker();
  await until(key, ({ done }) => done >= 1);
  expect(await cancelBake(key)).toBe(true);
  await new Promise((resolve) => setTimeout(resolve, 500));
  const [stopped] = await statusOf([key]);
  await new Promise((resolve) => setTimeout(resolve, 1500));
  expect(await statusOf([key])).toMatchObject([{ state: 'cancelled', done: stopped.done }]);
  expect(await cancelBake(key)).toBe(false);
  expect(await tilesOfBake(key)).toBeNull();
  expect((await ask(s)).state).toBe('waiting');
  await until(key, ({ done }) => done > stopped.done);
  await cancelBake(key);
}, 120_000);

test('what can never be baked is marked with a sentence, and does not hold up the rest', async () => {
  await worker();
  const wrong = await ask(spec({ uvSet: 3 }));
  const empty = await ask(spec({ material: 2 }));
  const fine = await ask(spec({ settings: { type: 'position' } }));
  expect(await until(wrong.key, ({ state }) => state === 'failed')).toMatchObject({
    message: expect.stringMatching(/no UV set 4/) as string,
  });
  expect(await until(empty.key, ({ state }) => state === 'failed')).toMatchObject({
    message: expect.stringMatching(/nothing to bake/) as string,
  });
  await until(fine.key, ({ state }) => state === 'done');
  // A model, or a twin, that is not on the server is refused at once.
  expect(await requestBake(spec({ model: 'f'.repeat(64) }), 'p', 'x')).toMatchObject({
    ok: false,
    message: expect.stringMatching(/lost on the server/) as string,
  });
  const twin = { file: 'e'.repeat(64), name: 'dense.glb' };
  expect(await requestBake(spec({ twin }), 'p', 'x')).toMatchObject({
    ok: false,
    message: expect.stringMatching(/"dense.glb" is not on the server/) as string,
  });
}, 60_000);

test('a twin is kept once by its content, in parts, and comes out as it went in; a broken one fails with a sentence', async () => {
  const bytes = Buffer.alloc(20 * 1024 * 1024, 7);
  bytes.writeUInt32LE(99, 9_000_000);
  const path = join(tmpdir(), `twin-${process.pid}.glb`);
  writeFileSync(path, bytes);
  const { hash } = await takeTwin(path, 'dense.glb');
  expect(await takeTwin(path, 'other.glb')).toEqual({ hash, size: bytes.length });
  expect(await database().select({ hash: twins.hash, name: twins.name }).from(twins)).toEqual([{ hash, name: 'other.glb' }]);
  const parts: Uint8Array[] = [];
  for await (const part of twinBytes(hash)) parts.push(part);
  expect(parts.length).toBe(3);
  expect(Buffer.concat(parts).equals(bytes)).toBe(true);
  await worker();
  const { key } = await ask(spec({ twin: { file: hash, name: 'other.glb' } }));
  expect(await until(key, ({ state }) => state === 'failed')).toMatchObject({
    message: expect.stringMatching(/not a GLB file/) as string,
  });
}, 60_000);

test('a painted reach is read from the server; one that is not there is refused, a broken one fails with a sentence', async () => {
  const larger = { ...ballModel(1.01, 24, 48), parts: ['Ball_dense'] };
  const put = async (name: string, bytes: Uint8Array) => {
    const path = join(tmpdir(), `${process.pid}-${name}`);
    writeFileSync(path, bytes);
    return (await takeTwin(path, name)).hash;
  };
  const file = await put('dense.glb', await writeGlb(larger));
  const grey = (v: number) => encodePng({ width: 4, height: 4, channels: 1, bits: 8, data: new Uint8Array(16).fill(v) });
  const twin = (reach: string) => ({ file, name: 'dense.glb', outward: 0.02, inward: 0.02, reachBy: { file: reach } });
  const height = (reach: string) => spec({ width: 64, height: 64, settings: { type: 'height' }, twin: twin(reach) });
  expect(await requestBake(height('d'.repeat(64)), 'p', 'x')).toMatchObject({
    ok: false,
    message: expect.stringMatching(/mask of its reach is not on the server/) as string,
  });
  await worker();
  const missed = async (reach: string) => {
    const { key } = await ask(height(reach));
    await until(key, ({ state }) => state === 'done');
    return (await tilesOfBake(key))!.missed;
  };
  expect(await missed(await put('all.png', grey(255)))).toBe(0);
  expect(await missed(await put('none.png', grey(0)))).toBeGreaterThan(500);
  const { key } = await ask(height(await put('broken.png', Buffer.from('nothing'))));
  expect(await until(key, ({ state }) => state === 'failed')).toMatchObject({
    message: expect.stringMatching(/mask of the reach is not a PNG/) as string,
  });
}, 60_000);

test('a bake whose piece is gone before it is done is forgotten', async () => {
  const s = spec({ width: 64, height: 64 });
  const answer = await requestBake(s, 'gone', 'Gone');
  expect(answer.ok).toBe(true);
  await collect();
  expect(
    await database()
      .select()
      .from(bakes)
      .where(eq(bakes.key, keyOf(s))),
  ).toEqual([]);
  // The work that was queued for it finds nothing and says nothing.
  await worker();
  const other = await ask(spec({ width: 32, height: 32 }));
  await until(other.key, ({ state }) => state === 'done');
}, 60_000);

/** A bake whose database is killed in the middle, once while a worker bakes and once while nobody does. */
import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, realpathSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import '../../src/core/compute';
import { BakeDesk } from '../../src/core/bake/desk';
import { tileBytes } from '../../src/core/codec/tileBlob';
import { BAKE_VERSION, bakeSpecSchema } from '../../src/core/kinds/bakes/spec';
import { readModel } from '../../src/core/mesh/readModel';
import { writeGlb } from '../../src/core/mesh/writeGlb';
import { ballModel } from '../../src/core/testing/baked';
import { contractPiece } from '../../src/core/testing/serverContract';
import { requestBake, statusOf, tilesOfBake } from '../../src/server/bakes/requests';
import { closePool, database } from '../../src/server/db';
import { migrateDatabase } from '../../src/server/migrate';
import { bakeTiles, blobs, pieces } from '../../src/server/schema';
import { ensureDatabase, startPostgres, type RunningPostgres } from '../postgres';

const home = mkdtempSync(join(tmpdir(), 'brindle-killed-'));
let postgres: RunningPostgres;
let worker: ChildProcess | null = null;
// The pool says so when the database goes away, as it should.
beforeAll(() => void jest.spyOn(console, 'error').mockImplementation(() => undefined));

afterAll(async () => {
  worker?.kill('SIGKILL');
  await closePool();
  await postgres.stop();
  rmSync(realpathSync(join(home, 'data')), { recursive: true, force: true });
  rmSync(home, { recursive: true, force: true });
});

/** As it stands in the database; null while nobody answers. */
const status = async (key: string) => (await statusOf([key]).catch(() => []))[0] ?? null;
async function until(key: string, holds: (s: NonNullable<Awaited<ReturnType<typeof status>>>) => boolean): Promise<void> {
  for (let n = 0; n < 1200; n++) {
    const now = await status(key);
    if (now && holds(now)) return;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error(`It did not come to that: ${JSON.stringify(await status(key))}`);
}
const killDatabase = async () => process.kill(await postgres.pid(), 'SIGKILL');
const again = async () => void (postgres = await startPostgres(home, postgres.port));

test('the worker takes up its work when the database is back, and the result stands once', async () => {
  postgres = await startPostgres(home);
  process.env.DATABASE_URL = await ensureDatabase(postgres, 'killed');
  await migrateDatabase();
  const glb = await writeGlb(ballModel(1, 24, 48));
  const model = createHash('sha256').update(glb).digest('hex');
  await database().insert(blobs).values({ hash: model, bytes: glb });
  await database().insert(pieces).values({ id: 'p', name: 'Piece', document: contractPiece() });
  const spec = bakeSpecSchema.parse({
    ...{ version: BAKE_VERSION, model, uvSet: 0, material: 0, width: 640, height: 640, supersample: 1, twin: null },
    settings: { type: 'occlusion', samples: 50 },
  });
  const asked = await requestBake(spec, 'p', 'Ball');
  if (!asked.ok) throw new Error(asked.message);
  const { key } = asked.status;

  // Killed before anybody works on it: what was asked for is still asked for.
  await killDatabase();
  await again();
  worker = spawn(process.execPath, ['--import', 'tsx', 'cli/main.ts', 'worker'], {
    stdio: 'ignore',
    env: { ...process.env, BRINDLE_WORKER_DEAD_S: '2' },
  });
  await until(key, ({ done }) => done >= 2);

  // Killed in the middle, and away for longer than a heartbeat.
  await killDatabase();
  await new Promise((resolve) => setTimeout(resolve, 3000));
  await again();
  const half = await (async () => {
    for (;;) {
      const now = await status(key);
      if (now) return now;
    }
  })();
  expect(half.done).toBeLessThan(half.tiles);
  await until(key, ({ state }) => state === 'done');
  expect(worker.exitCode).toBeNull();

  const desk = new BakeDesk();
  desk.take(model, await readModel(new Map([['model.glb', glb]])));
  const alone = desk.tiles(spec).map((tile) => [
    tile,
    createHash('sha256')
      .update(tileBytes(desk.tile(spec, tile)!.data))
      .digest('hex'),
  ]);
  expect((await tilesOfBake(key))!.tiles).toEqual(alone);
  const rows = await database().select().from(bakeTiles);
  expect(rows.length).toBe(alone.length);
}, 240_000);

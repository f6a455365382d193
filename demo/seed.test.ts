/** The program that imports the demo pieces, on a database of its own. */
import { spawnSync } from 'node:child_process';
import { sql } from 'drizzle-orm';
import { announce, arrivingPieces, unfinished } from '../src/server/arriving';
import { database } from '../src/server/db';
import { listPieces } from '../src/server/pieces';
import { pieces } from '../src/server/schema';
import { freshDatabase } from '../src/server/testing';
import { DEMO } from './list';

let end: () => Promise<void>;
beforeAll(async () => (end = await freshDatabase('seed')));
afterAll(() => end());
beforeEach(() => database().delete(pieces));

const small = (['buoy', 'setts'] as const).map((name) => ({ name, title: DEMO[name].title }));
const importThem = () =>
  spawnSync(process.execPath, ['--import', 'tsx', 'demo/seed.ts', 'import', ''], {
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });
const names = async () => (await listPieces()).map((p) => p.name).sort();

test('what was announced in an empty database is imported, and nothing is announced in one with pieces', async () => {
  await announce(small);
  expect((await arrivingPieces()).map((p) => p.title)).toEqual(['Buoy token', 'Quay setts']);
  expect(importThem().status).toBe(0);
  expect(await names()).toEqual(['Buoy token', 'Quay setts']);
  expect(await unfinished()).toEqual([]);
  expect((await listPieces()).every((p) => p.hasThumbnail)).toBe(true);
  await announce(small);
  expect(await unfinished()).toEqual([]);
});

test('what fails is said, and the next start goes on: what is there is not imported twice', async () => {
  await announce(small);
  // Only the setts have so many tiles.
  await database().execute(sql`alter table piece_tiles add constraint few check (tile = 0)`);
  const { status, stderr } = importThem();
  expect(status).toBe(1);
  expect(stderr).toMatch(
    /^The demo piece "Quay setts" could not be imported \(new row .*few.*\): .* The next start tries again\.\n$/s,
  );
  expect(await names()).toEqual(['Buoy token']);
  expect(await arrivingPieces()).toMatchObject([{ name: 'setts', fault: expect.stringMatching(/The next start tries again/) }]);
  await database().execute(sql`alter table piece_tiles drop constraint few`);
  // As if that start had been killed right after it had imported the buoy.
  await database().execute(sql`insert into arriving (name, title) values ('buoy', 'Buoy token')`);
  expect(importThem().status).toBe(0);
  expect(await names()).toEqual(['Buoy token', 'Quay setts']);
  expect(await unfinished()).toEqual([]);
});

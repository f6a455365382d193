/** The real application with a database of its own, for the browser tests: started once, killed and restarted by some. */
import type { ChildProcess } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { buildId, freePort, startNext } from '../cli/serve';
import { copyDatabase, ensureDatabase, startPostgres, type RunningPostgres } from '../cli/postgres';

/**
 * Browser tests run side by side, each with an application and a PostgreSQL of its own, which they may kill: beside the
 * server's own folder.
 */
export const APPS = 2;
const index = () => Number(process.env.TEST_PARALLEL_INDEX ?? 0);
const home = (n = index()) => `.brindle/test-${n}`;
const stateFile = (n = index()) => `${home(n)}/state.json`;

export interface AppState {
  port: number;
  databaseUrl: string;
  webPid: number;
}

export const appState = (): AppState => JSON.parse(readFileSync(stateFile(), 'utf8')) as AppState;
export const address = () => `http://127.0.0.1:${appState().port}`;

export const passwordOfDatabase = (): string => readFileSync(`${home()}/postgres/password`, 'utf8').trim();

export async function startDatabase(port?: number, n = index()): Promise<RunningPostgres> {
  return startPostgres(`${home(n)}/postgres`, port);
}

/** Starts next on the port, as its own process so that a test can kill exactly that. */
export async function startWeb(port: number, databaseUrl: string, of = index()): Promise<ChildProcess> {
  const web = startNext('start', port, databaseUrl, { quiet: true });
  mkdirSync(home(of), { recursive: true });
  writeFileSync(stateFile(of), JSON.stringify({ port, databaseUrl, webPid: web.pid! } satisfies AppState));
  for (let n = 0; n < 400; n++) {
    const ok = await fetch(`http://127.0.0.1:${port}/api/health`).then(
      (r) => r.ok,
      () => false,
    );
    if (ok) return web;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error('The application did not start for the tests.');
}

/** The demo server at this size, as often as there are tests side by side. Gives what ends it all. */
export async function startApps(demoSize: number, count = APPS): Promise<() => Promise<void>> {
  const name = `brindle_test_${process.pid}`;
  const [first, ...others] = await Promise.all(
    Array.from({ length: count }, async (_, n) => ensureDatabase(await startDatabase(undefined, n), name)),
  );
  process.env.DATABASE_URL = first;
  const { closePool } = await import('../src/server/db');
  const { migrateDatabase } = await import('../src/server/migrate');
  const { paintDemo } = await import('../demo/start');
  await migrateDatabase();
  await paintDemo(demoSize, buildId());
  await closePool();
  for (const other of others) await copyDatabase(first, other);
  await Promise.all([first, ...others].map(async (url, n) => startWeb(await freePort(), url, n)));
  return async () => {
    for (let n = 0; n < count; n++) {
      try {
        process.kill((JSON.parse(readFileSync(stateFile(n), 'utf8')) as AppState).webPid, 'SIGTERM');
      } catch {
        // A test has killed it already.
      }
      const again = await startDatabase(undefined, n);
      const { Client } = await import('pg');
      const client = new Client({ connectionString: again.url('postgres') });
      await client.connect();
      await client.query(`drop database if exists "${name}" with (force)`);
      await client.end();
      await again.stop();
    }
  };
}

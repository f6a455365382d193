/** The real application with a database of its own, for the browser tests: started once, killed and restarted by some. */
import type { ChildProcess } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { freePort, startNext } from '../cli/serve';
import { ensureDatabase, startPostgres, type RunningPostgres } from '../cli/postgres';

/** Beside the house's own folder: tests may kill this server. */
const HOME = '.brindle/test';
const STATE = `${HOME}/state.json`;

export interface AppState {
  port: number;
  databaseUrl: string;
  webPid: number;
}

export const appState = (): AppState => JSON.parse(readFileSync(STATE, 'utf8')) as AppState;
export const address = () => `http://127.0.0.1:${appState().port}`;

export async function startDatabase(port?: number): Promise<RunningPostgres> {
  return startPostgres(`${HOME}/postgres`, port);
}

/** Starts next on the port, as its own process so that a test can kill exactly that. */
export async function startWeb(port: number, databaseUrl: string): Promise<ChildProcess> {
  const web = startNext('start', port, databaseUrl, { quiet: true });
  mkdirSync(HOME, { recursive: true });
  writeFileSync(STATE, JSON.stringify({ port, databaseUrl, webPid: web.pid! } satisfies AppState));
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

export async function startApp(demoSize: number): Promise<() => Promise<void>> {
  const postgres = await startDatabase();
  const name = `brindle_test_${process.pid}`;
  const databaseUrl = await ensureDatabase(postgres, name);
  process.env.DATABASE_URL = databaseUrl;
  process.env.BRINDLE_DEMO_SIZE = String(demoSize);
  const { migrateDatabase, closePool } = await import('../src/server/db');
  const { seedDemo } = await import('../demo/seed');
  await migrateDatabase();
  await seedDemo(() => undefined);
  await closePool();
  await startWeb(await freePort(), databaseUrl);
  return async () => {
    try {
      process.kill(appState().webPid, 'SIGTERM');
    } catch {
      // A test has killed it already.
    }
    const again = await startDatabase();
    const { Client } = await import('pg');
    const client = new Client({ connectionString: again.url('postgres') });
    await client.connect();
    await client.query(`drop database if exists "${name}" with (force)`);
    await client.end();
    await again.stop();
  };
}

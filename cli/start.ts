/** ./brindle start: everything from an empty checkout to the printed address. */
import type { ChildProcess } from 'node:child_process';
import { closePool } from '../src/server/db';
import { migrateDatabase } from '../src/server/migrate';
import { importInBackground, announceDemo } from '../demo/start';
import { BadInput } from './badInput';
import { collectWhileRunning } from './collecting';
import { ensureDatabase, startPostgres, type RunningPostgres } from './postgres';
import { keepWorker } from './workerProcess';
import { buildId, chosenPort, endOrphan, ensureBuild, portIsFree, startNext, untilHealthy } from './serve';

export const run = () => serve('start');

export async function serve(mode: 'start' | 'dev'): Promise<void> {
  const say = (line: string) => process.stdout.write(`${line}\n`);
  const port = chosenPort();
  const before = await endOrphan(port);
  if (before === 'running')
    throw new BadInput(`Brindle runs already at http://127.0.0.1:${port}: stop that one first, or choose another PORT.`);
  if (before === 'ended') say('Took over from an application whose start was killed.');
  if (!(await portIsFree(port)))
    throw new BadInput(
      `Port ${port} is taken, perhaps by a Brindle that runs already: stop it, or choose another with PORT=3001 ./brindle ${mode}.`,
    );
  if (mode === 'start') await ensureBuild(say);
  const home = '.brindle/postgres';
  let postgres: RunningPostgres | null = null;
  let endCollecting = () => {};
  let endWorker = () => Promise.resolve();
  let importing: ChildProcess | null = null;
  if (!process.env.DATABASE_URL) {
    postgres = await startPostgres(home);
    process.env.DATABASE_URL = await ensureDatabase(postgres, 'brindle');
  }
  const web = startNext(mode, port, process.env.DATABASE_URL, { watch: postgres ? { home, port: postgres.port } : undefined });
  let stopping = false;
  const stop = async (code: number) => {
    if (stopping) return;
    stopping = true;
    endCollecting();
    importing?.kill();
    await endWorker();
    web.kill('SIGTERM');
    await closePool().catch(() => undefined);
    // Left over from a killed start or started now: nobody else uses this data folder while we hold the port.
    await postgres?.stop();
    process.exit(code);
  };
  process.on('SIGINT', () => void stop(0));
  process.on('SIGTERM', () => void stop(0));
  web.on('exit', () => void stop(1));
  try {
    await migrateDatabase();
    await announceDemo();
    await untilHealthy(port, web);
  } catch (error) {
    process.stderr.write(`${(error as Error).message}\n`);
    return stop(error instanceof BadInput ? 2 : 1);
  }
  endCollecting = collectWhileRunning();
  endWorker = keepWorker(process.env.DATABASE_URL);
  say(`Brindle is at http://127.0.0.1:${port}  (Ctrl-C stops it)`);
  importing = await importInBackground(mode === 'start' ? buildId() : '');
}

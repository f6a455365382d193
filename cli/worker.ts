/** ./brindle worker: bakes with all cores what the server at DATABASE_URL, or this checkout's own, has in its queue. */
import { BadInput } from './badInput';

export async function run(): Promise<void> {
  const { closePool, pool } = await import('../src/server/db');
  const { BakeWorker } = await import('../src/server/bakes/worker');
  const { migrateDatabase } = await import('../src/server/migrate');
  if (!process.env.DATABASE_URL) {
    const { ensureDatabase, startPostgres } = await import('./postgres');
    process.env.DATABASE_URL = await ensureDatabase(await startPostgres('.brindle/postgres'), 'brindle');
  }
  await pool()
    .query('select 1')
    .catch((error: unknown) => {
      throw new BadInput(`The database at DATABASE_URL does not answer (${(error as Error).message}): check the address.`);
    });
  await migrateDatabase();
  const worker = new BakeWorker((line) => process.stderr.write(`${line}\n`));
  process.on('unhandledRejection', (error) => worker.onStrayFault(error));
  await worker.start();
  process.stdout.write(`Worker ${worker.id} is at work (Ctrl-C stops it)\n`);
  await new Promise<void>((resolve) => {
    const stop = () => resolve();
    process.once('SIGINT', stop);
    process.once('SIGTERM', stop);
    // Whoever started it is gone.
    process.once('disconnect', stop);
  });
  await worker.stop();
  await closePool();
  process.exit(0);
}

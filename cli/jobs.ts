/** ./brindle jobs [--json]: the bakes that wait, run or ran, and the workers. */
import { parseCommand } from './badInput';

export async function run(args: string[]): Promise<void> {
  const { values } = parseCommand(args, { json: { type: 'boolean' } }, []);
  const { ensureDatabase, startPostgres } = await import('./postgres');
  const postgres = process.env.DATABASE_URL ? null : await startPostgres('.brindle/postgres');
  if (postgres) process.env.DATABASE_URL = await ensureDatabase(postgres, 'brindle');
  const { closePool } = await import('../src/server/db');
  const { migrateDatabase } = await import('../src/server/migrate');
  const { listBakes, listWorkers } = await import('../src/server/bakes/requests');
  try {
    await migrateDatabase();
    const [bakes, workers] = [await listBakes(), await listWorkers()];
    if (values.json) return void process.stdout.write(`${JSON.stringify({ workers, bakes }, null, 2)}\n`);
    const lines = [
      ...workers.map((w) => `worker  ${w.id}, ${w.cores} cores${w.alive ? '' : ', not seen for a while'}`),
      ...bakes.map((b) => {
        const share = b.tiles > 0 ? ` ${Math.round((b.done / b.tiles) * 100)} %` : '';
        const time = b.seconds === null ? '' : `, ${b.seconds.toFixed(1)} s`;
        return `${b.state.padEnd(9)} ${b.label}${b.state === 'running' ? share : ''}${time}${b.message ? `: ${b.message}` : ''}`;
      }),
    ];
    process.stdout.write(`${lines.length ? lines.join('\n') : 'There is no work, and nobody to do it.'}\n`);
  } finally {
    await closePool();
    if (postgres?.started) await postgres.stop();
  }
}

/** Work into the queue, in the transaction that it belongs to: it is there exactly when what it is about is. */
import { sql } from 'drizzle-orm';
import type { Executor } from './db';

/** Tasks that workers carry out, with what each is told. */
export interface Tasks {
  bake: { key: string };
  'bake-tiles': { key: string; tiles: number[] };
}

/** How often a task is tried that fails by no fault of what it is asked. */
const MOST_TRIES = 8;

/** `jobKey`: the same one while it waits replaces itself. */
export async function addJob<T extends keyof Tasks>(to: Executor, task: T, told: Tasks[T], jobKey: string): Promise<void> {
  await to.execute(sql`
    select graphile_worker.add_job(${task}::text, payload => ${JSON.stringify(told)}::json, job_key => ${jobKey}::text,
      max_attempts => ${MOST_TRIES}::int)`);
}

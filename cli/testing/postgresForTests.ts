/** One PostgreSQL for the unit tests that need a real one; each test file makes a database of its own in it. */
import { startPostgres, type RunningPostgres } from '../postgres';

const HOME = '.brindle/jest/postgres';
const holder = globalThis as unknown as { brindleTestPostgres?: RunningPostgres };

export default async function setup(): Promise<void> {
  holder.brindleTestPostgres = await startPostgres(HOME);
  // Workers inherit it.
  process.env.BRINDLE_TEST_POSTGRES = holder.brindleTestPostgres.url('postgres');
}

export async function stop(): Promise<void> {
  await holder.brindleTestPostgres?.stop();
}

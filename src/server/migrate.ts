/** Brings the tables of a house up to date: its own, and those of the queue of jobs. */
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import { runMigrations } from 'graphile-worker';
import { database, pool } from './db';
import { SILENT } from './queue';

export async function migrateDatabase(): Promise<void> {
  await migrate(database(), { migrationsFolder: 'drizzle' });
  await runMigrations({ pgPool: pool(), logger: SILENT });
}

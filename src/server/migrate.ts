/** Brings a server up to date: its own tables, those of the queue of jobs, and documents whose migration needs their model. */
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import { runMigrations } from 'graphile-worker';
import { database, pool } from './db';
import { SILENT } from './queue';
import { settleServer } from './settling';

export async function migrateDatabase(): Promise<void> {
  await migrate(database(), { migrationsFolder: 'drizzle' });
  await runMigrations({ pgPool: pool(), logger: SILENT });
  await settleServer();
}

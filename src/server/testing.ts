/** For tests: a database of one's own, with all migrations, gone afterwards. */
import { Client } from 'pg';
import { closePool } from './db';
import { migrateDatabase } from './migrate';

export async function freshDatabase(name: string): Promise<() => Promise<void>> {
  const url = process.env.BRINDLE_TEST_POSTGRES;
  if (!url) throw new Error('There is no PostgreSQL for the tests: run them through jest.config.mjs.');
  const database = `test_${name}_${process.pid}`;
  await administer(url, `drop database if exists "${database}" with (force)`, `create database "${database}"`);
  process.env.DATABASE_URL = url.replace(/\/postgres$/, `/${database}`);
  await migrateDatabase();
  return async () => {
    await closePool();
    await administer(url, `drop database if exists "${database}" with (force)`);
  };
}

async function administer(url: string, ...statements: string[]): Promise<void> {
  const client = new Client({ connectionString: url });
  await client.connect();
  try {
    for (const statement of statements) await client.query(statement);
  } finally {
    await client.end();
  }
}

/** The connection pool, one a process. */
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { Pool } from 'pg';
import * as schema from './schema';

export type Database = NodePgDatabase<typeof schema>;
/** A database or a transaction in one. */
export type Executor = Pick<Database, 'select' | 'insert' | 'update' | 'delete' | 'execute'>;

const holder = globalThis as unknown as { brindlePool?: Pool };

export function pool(): Pool {
  if (!holder.brindlePool) {
    const connectionString = process.env.DATABASE_URL;
    if (!connectionString) throw new Error('DATABASE_URL is not set: start Brindle with ./brindle start');
    holder.brindlePool = new Pool({ connectionString, max: 8, connectionTimeoutMillis: 5000 });
    // A connection that breaks while idle (the server was killed) is replaced by the pool; without a
    // listener Node would end the process.
    holder.brindlePool.on('error', (error) => console.error('database connection lost:', error.message));
    // The same for one that is in use: whoever uses it is told by what it asked for.
    holder.brindlePool.on('connect', (client) => client.on('error', () => undefined));
  }
  return holder.brindlePool;
}

/** Ends the connections; asked again, the pool is made anew. */
export async function closePool(): Promise<void> {
  const old = holder.brindlePool;
  holder.brindlePool = undefined;
  await old?.end();
}

export function database(): Database {
  return drizzle(pool(), { schema });
}

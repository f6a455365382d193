import { sql } from 'drizzle-orm';
import { guarded } from '@/server/access';
import { database } from '@/server/db';
import { tryToWrite } from '@/server/identity';

export const dynamic = 'force-dynamic';

/** Answers once the server and its database both do. */
export const GET = guarded(async () => {
  await database().execute(sql`select 1`);
  return Response.json({ ok: true });
});

/** Writes something small: answers where the server can. */
export const POST = guarded(async () => {
  await tryToWrite();
  return Response.json({ ok: true });
});

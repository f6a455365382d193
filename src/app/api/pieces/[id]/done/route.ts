import { z } from 'zod';
import { guardedPiece, readJson, refuse } from '@/server/access';
import { doneOperations } from '@/server/pieces';

const wanted = z.array(z.string().min(1).max(60)).max(20_000);

/** Body: ids of operations. Answer: those that were carried out, each with the revision that it led to. */
export const POST = guardedPiece(async (request, id) => {
  const parsed = wanted.safeParse(await readJson(request, 2 * 1024 * 1024));
  if (!parsed.success) return refuse(400, 'A list of at most 20,000 ids was expected.');
  return Response.json(await doneOperations(id, parsed.data));
});

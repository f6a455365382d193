import { guardedPiece, refuse } from '@/server/access';
import { openPiece, strokesOf } from '@/server/pieces';

/** The recordings of all strokes that made what is there. */
export const GET = guardedPiece(async (_request, id) => {
  const opened = await openPiece(id);
  if (!opened || 'deleted' in opened) return refuse(404, 'There is no such piece.');
  return Response.json(await strokesOf(id, opened.position));
});

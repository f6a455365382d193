import { guardedPiece } from '@/server/access';
import { drawnParts } from '@/server/drawn';
import { drawnOf } from './drawnOf';

/** How many parts there are of what a build has drawn. */
export const GET = guardedPiece(async (request, id, { sheet }) => {
  const which = drawnOf(request, id, sheet);
  return which instanceof Response ? which : Response.json({ parts: await drawnParts(which) });
});

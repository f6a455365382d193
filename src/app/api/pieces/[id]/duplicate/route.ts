import { guardedPiece, refuse } from '@/server/access';
import { duplicatePiece } from '@/server/pieces';

export const POST = guardedPiece(async (_request, id) => {
  const copy = await duplicatePiece(id);
  return copy ? Response.json(copy, { status: 201 }) : refuse(404, 'There is no such piece to copy.');
});

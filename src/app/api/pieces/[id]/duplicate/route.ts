import { guarded, refuse } from '@/server/access';
import { duplicatePiece } from '@/server/pieces';

interface Context {
  params: Promise<{ id: string }>;
}

export const POST = guarded<Context>(async (_request, { params }) => {
  const copy = await duplicatePiece((await params).id);
  return copy ? Response.json(copy, { status: 201 }) : refuse(404, 'There is no such piece to copy.');
});

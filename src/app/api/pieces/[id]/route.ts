import { z } from 'zod';
import { guarded, readJson, refuse } from '@/server/access';
import { openPiece, renamePiece, setDeleted } from '@/server/pieces';

interface Context {
  params: Promise<{ id: string }>;
}
const GONE = 'There is no such piece: it may have been deleted. Go back to the pieces.';

export const GET = guarded<Context>(async (_request, { params }) => {
  const opened = await openPiece((await params).id);
  return opened ? Response.json(opened) : refuse(404, GONE);
});

const change = z.union([z.object({ name: z.string() }), z.object({ deleted: z.literal(false) })]);

export const PATCH = guarded<Context>(async (request, { params }) => {
  const { id } = await params;
  const parsed = change.safeParse(await readJson(request));
  if (!parsed.success) return refuse(400, 'The change could not be read.');
  if ('deleted' in parsed.data) return (await setDeleted(id, false)) ? Response.json({}) : refuse(404, GONE);
  const result = await renamePiece(id, parsed.data.name);
  return result.ok ? Response.json({}) : refuse(422, result.message);
});

export const DELETE = guarded<Context>(async (_request, { params }) =>
  (await setDeleted((await params).id, true)) ? Response.json({}) : refuse(404, GONE),
);

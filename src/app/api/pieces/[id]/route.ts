import { z } from 'zod';
import { guardedPiece, readJson, refuse } from '@/server/access';
import { openPiece, renamePiece, setDeleted } from '@/server/pieces';

const GONE = 'There is no such piece: it was deleted for good, or never was. Go back to the pieces.';

export const GET = guardedPiece(async (_request, id) => {
  const opened = await openPiece(id);
  if (!opened) return refuse(404, GONE);
  if ('deleted' in opened)
    return refuse(410, `"${opened.name}" was deleted: bring it back to open it.`, { deleted: true, name: opened.name });
  return Response.json(opened);
});

const change = z.union([z.object({ name: z.string() }), z.object({ deleted: z.literal(false) })]);

export const PATCH = guardedPiece(async (request, id) => {
  const parsed = change.safeParse(await readJson(request));
  if (!parsed.success) return refuse(400, 'The change could not be read.');
  if ('deleted' in parsed.data) return (await setDeleted(id, false)) ? Response.json({}) : refuse(404, GONE);
  const result = await renamePiece(id, parsed.data.name);
  return result.ok ? Response.json({}) : refuse(422, result.message);
});

export const DELETE = guardedPiece(async (_request, id) =>
  (await setDeleted(id, true)) ? Response.json({}) : refuse(404, GONE),
);

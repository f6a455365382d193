import { guardedPiece, readBody, refuse, UPLOAD_LIMITS } from '@/server/access';
import { drawnPart, putDrawnPart } from '@/server/drawn';
import { drawnOf } from '../drawnOf';

const NUMBER = /^\d{1,4}$/;

/** One part, gzip. */
export const GET = guardedPiece(async (request, id, { sheet, part }) => {
  const which = drawnOf(request, id, sheet);
  if (which instanceof Response) return which;
  if (!NUMBER.test(part)) return refuse(400, 'A part goes by its number.');
  const bytes = await drawnPart(which, Number(part));
  if (!bytes) return refuse(404, 'There is no such part.');
  const headers = { 'content-type': 'application/gzip', 'cache-control': 'no-store' };
  return new Response(bytes as Uint8Array<ArrayBuffer>, { headers });
});

/** Stores one part, gzip; `?last`: deletes the parts with higher numbers and those of other builds. */
export const PUT = guardedPiece(async (request, id, { sheet, part }) => {
  const which = drawnOf(request, id, sheet);
  if (which instanceof Response) return which;
  if (!NUMBER.test(part)) return refuse(400, 'A part goes by its number.');
  const last = new URL(request.url).searchParams.has('last');
  const bytes = await readBody(request, UPLOAD_LIMITS.partBytes);
  const taken = await putDrawnPart(which, Number(part), last, bytes);
  return taken
    ? Response.json({})
    : refuse(400, 'The part was not stored: it has to be gzip, of a piece that exists, and its number may not be too high.');
});

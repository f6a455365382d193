import { lookSchema } from '@/core/piece/look';
import { splitBlobs } from '@/core/keeping/parts';
import { guardedPiece, readBody, refuse } from '@/server/access';
import { isWebp, lookPictureOf, setLook } from '@/server/look';

/** The bench's panes as they were left, WebP. */
export const GET = guardedPiece(async (_request, id) => {
  const webp = await lookPictureOf(id);
  if (!webp) return refuse(404, 'The piece was not opened yet.');
  // Its address has the time in it at which it was taken.
  const headers = { 'content-type': 'image/webp', 'cache-control': 'private, max-age=31536000, immutable' };
  return new Response(webp as Uint8Array<ArrayBuffer>, { headers });
});

/** Body: how it was left as JSON, and the picture (core/keeping/parts.ts). */
export const PUT = guardedPiece(async (request, id) => {
  const parts = splitBlobs(await readBody(request, 4 * 1024 * 1024));
  if (parts?.length !== 2 || !isWebp(parts[1])) return refuse(400, 'How the bench was left and a WebP picture were expected.');
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder().decode(parts[0]));
  } catch {
    return refuse(400, 'How the bench was left is no JSON.');
  }
  const look = lookSchema.safeParse(json);
  if (!look.success) return refuse(400, 'How the bench was left cannot be read.');
  await setLook(id, look.data, parts[1]);
  return Response.json({});
});

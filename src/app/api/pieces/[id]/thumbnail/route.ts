import { isPng } from '@/core/codec/png';
import { guardedPiece, readBody, refuse } from '@/server/access';
import { setThumbnail, thumbnailOf } from '@/server/pieces';

export const GET = guardedPiece(async (_request, id) => {
  const png = await thumbnailOf(id);
  if (!png) return refuse(404, 'The piece has no picture yet.');
  return new Response(png as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'image/png', 'cache-control': 'no-cache' } });
});

export const PUT = guardedPiece(async (request, id) => {
  const png = await readBody(request, 2 * 1024 * 1024);
  if (!isPng(png)) return refuse(400, 'The picture is not a PNG.');
  await setThumbnail(id, png);
  return Response.json({});
});

import { isPng } from '@/core/codec/png';
import { guarded, readBody, refuse } from '@/server/access';
import { setThumbnail, thumbnailOf } from '@/server/pieces';

interface Context {
  params: Promise<{ id: string }>;
}

export const GET = guarded<Context>(async (_request, { params }) => {
  const png = await thumbnailOf((await params).id);
  if (!png) return refuse(404, 'The piece has no picture yet.');
  return new Response(png as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'image/png', 'cache-control': 'no-cache' } });
});

export const PUT = guarded<Context>(async (request, { params }) => {
  const png = await readBody(request, 2 * 1024 * 1024);
  if (!isPng(png)) return refuse(400, 'The picture is not a PNG.');
  await setThumbnail((await params).id, png);
  return Response.json({});
});

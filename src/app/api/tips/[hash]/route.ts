import { guarded, refuse } from '@/server/access';
import { tipPng } from '@/server/tips';

/** The picture of a tip: PNG, 8-bit grey, white paints. It never changes. */
export const GET = guarded(async (_request, { params }: { params: Promise<{ hash: string }> }) => {
  const png = await tipPng((await params).hash);
  if (!png) return refuse(404, 'There is no such picture of a tip.');
  return new Response(png as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': 'image/png', 'cache-control': 'public, max-age=31536000, immutable' },
  });
});

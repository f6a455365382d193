import { guarded, refuse } from '@/server/access';
import { pinnedPicture } from '@/server/pinned';

/** A reference picture, as WebP. It never changes. */
export const GET = guarded(async (_request, { params }: { params: Promise<{ hash: string }> }) => {
  const webp = await pinnedPicture((await params).hash);
  if (!webp) return refuse(404, 'There is no such picture.');
  return new Response(webp as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': 'image/webp', 'cache-control': 'public, max-age=31536000, immutable' },
  });
});

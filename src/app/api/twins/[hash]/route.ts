import { guarded, refuse } from '@/server/access';
import { twinBytes, twinCard } from '@/server/bakes/twins';

/** The file of a dense model, streamed. */
export const GET = guarded<{ params: Promise<{ hash: string }> }>(async (_, { params }) => {
  const { hash } = await params;
  if (!/^[0-9a-f]{64}$/.test(hash)) return refuse(400, 'This is no address of a dense model.');
  const card = await twinCard(hash);
  if (!card) return refuse(404, 'The dense model is not on the server any more: choose its file again.');
  const parts = twinBytes(hash);
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { done, value } = await parts.next();
      if (done) controller.close();
      else controller.enqueue(value);
    },
  });
  const headers = { 'content-type': 'application/octet-stream', 'content-length': String(card.size) };
  return new Response(body, { headers });
});

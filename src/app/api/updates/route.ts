import { guarded } from '@/server/access';
import { updateStream } from '@/server/updateStream';

export const dynamic = 'force-dynamic';

/** What changes on the server, as it happens (server/updateStream.ts). */
export const GET = guarded(async (request) => {
  // Compressed, events would wait until there are enough of them.
  const headers = { 'content-type': 'text/event-stream', 'cache-control': 'no-cache, no-transform' };
  return new Response(updateStream(request.signal), { headers });
});

import { guarded } from '@/server/access';
import { noticeStream } from '@/server/noticeStream';

export const dynamic = 'force-dynamic';

/** What changes on the server, as it happens (server/noticeStream.ts). */
export const GET = guarded(async (request) => {
  // Compressed, events would wait until there are enough of them.
  const headers = { 'content-type': 'text/event-stream', 'cache-control': 'no-cache, no-transform' };
  return new Response(noticeStream(request.signal), { headers });
});

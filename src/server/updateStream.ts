/** Updates as a stream of server-sent events (WHATWG HTML): each names what has changed (core/updates/topics.ts). */
import type { Topic } from '../core/updates/topics';
import { listenForUpdates } from './updates';

/** A connection over which nothing was sent for so long may be closed on the way. */
const ALIVE_MS = 15_000;

/** Ends when `signal` aborts, or when the stream is cancelled. */
export function updateStream(signal: AbortSignal): ReadableStream<Uint8Array> {
  const text = new TextEncoder();
  let end = () => {};
  return new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (line: string) => {
        // A page that does not read is disconnected: it asks again, and misses nothing.
        if ((controller.desiredSize ?? 0) < -100) return end();
        controller.enqueue(text.encode(line));
      };
      const stop = listenForUpdates((topic: Topic) => send(`data: ${topic}\n\n`));
      const alive = setInterval(() => send(': alive\n\n'), ALIVE_MS);
      end = () => {
        stop();
        clearInterval(alive);
        try {
          controller.close();
        } catch {
          // The page has closed it.
        }
      };
      signal.addEventListener('abort', () => end());
      send('retry: 1000\n\n');
    },
    cancel: () => end(),
  });
}

/**
 * Large pictures are unpacked one after another, and each has been handed over before the next: three at once need no more memory
 * than one. Pictures of 8192² are half a gigabyte each.
 */
import { around, openTurns } from './turns';

export const pictureTurn = openTurns(1);
/** For who keeps no more of a picture than what it makes of it. */
export const inTurn = around(pictureTurn);

const PART_BYTES = 4 * 1024 * 1024;
/** Whoever takes nothing for so long has gone. */
const PATIENCE_MS = 60_000;

/** Bytes in parts, as fast as they are taken; `end` is called once all have gone, or nobody takes them any more. */
export function handedOver(data: Uint16Array, end: () => void, patience = PATIENCE_MS): ReadableStream<Uint8Array> {
  let bytes: Uint8Array | null = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  let at = 0;
  let timer: NodeJS.Timeout;
  const over = () => {
    clearTimeout(timer);
    bytes = null;
    end();
  };
  const wait = (controller: ReadableStreamDefaultController<Uint8Array>) => {
    clearTimeout(timer);
    timer = setTimeout(() => {
      over();
      controller.error(new Error('nobody takes the picture'));
    }, patience);
    timer.unref();
  };
  return new ReadableStream<Uint8Array>({
    start: wait,
    pull(controller) {
      if (!bytes) return;
      // A copy: what has gone is let go with the whole.
      controller.enqueue(bytes.slice(at, at + PART_BYTES));
      at += PART_BYTES;
      if (at >= bytes.length) {
        over();
        controller.close();
      } else wait(controller);
    },
    cancel: over,
  });
}

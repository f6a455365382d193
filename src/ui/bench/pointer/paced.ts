/** What follows the pointer, shown at once, or where pictures of the page are costly together with the frames of the work. */
import type { Signal } from '@/engine/signal';

/** Where no frame comes, it is shown this late. */
const LATEST_MS = 150;

export function paced<T>(show: (last: T) => void): { show: (now: T, frames: Signal | null) => void; stop: () => void } {
  let waiting: { last: T; stop: () => void } | null = null;
  const stop = () => {
    waiting?.stop();
    waiting = null;
  };
  const showNow = () => {
    const now = waiting;
    stop();
    if (now) show(now.last);
  };
  return {
    stop,
    show: (now, frames) => {
      if (!frames) {
        stop();
        show(now);
      } else if (waiting) waiting.last = now;
      else {
        const deaf = frames.listen(showNow);
        const timer = setTimeout(showNow, LATEST_MS);
        waiting = { last: now, stop: () => (deaf(), clearTimeout(timer)) };
      }
    },
  };
}

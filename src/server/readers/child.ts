/** The side of a reader process: takes one task after another, and answers each. */
import type { FromReader, ReaderAnswer, ReaderLimits, ReaderTask } from './protocol';
import { startWatchdog } from './watchdog';

/** Called by a task that knows by now that its file needs more than a small one. */
export type Extend = (limits: ReaderLimits) => void;
export type Tasks = Readonly<Record<string, (input: never, extend: Extend) => Promise<ReaderAnswer>>>;

/** A process ends after so many tasks, or if it holds so much memory after one, which would count against the next one's limit. */
const MOST_TASKS = 50;
const MOST_RESTING_BYTES = 300 * 1024 * 1024;

export function serveTasks(tasks: Tasks): void {
  const watchdog = startWatchdog();
  const say = (message: FromReader, then: () => void) => process.send!(message, then);
  let carriedOut = 0;

  // The server is gone, so nobody needs an answer.
  process.on('disconnect', () => process.exit(1));

  process.on('message', ({ kind, limits, input }: ReaderTask) => {
    watchdog.limit(limits);
    void tasks[kind](input as never, (more) => watchdog.limit(more))
      .catch((error: unknown): ReaderAnswer => {
        console.error(error);
        return { type: 'failed' };
      })
      .then((answer) => {
        watchdog.limit(null);
        const last = ++carriedOut >= MOST_TASKS || process.memoryUsage.rss() > MOST_RESTING_BYTES;
        say({ answer, last }, () => last && process.exit(0));
      });
  });
}

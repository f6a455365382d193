/** Giving back what nothing names, beside a running application. */
import { collect } from '../src/server/collect';

/** Some minutes after the start, then every six hours: it reads all trails once. */
const FIRST_MS = 5 * 60_000;
const EVERY_MS = 6 * 3600_000;

export function collectWhileRunning(): () => void {
  const run = () => void collect().catch((error: Error) => process.stderr.write(`Tidying up failed: ${error.message}\n`));
  const timers = [setTimeout(run, FIRST_MS), setInterval(run, EVERY_MS)];
  for (const timer of timers) timer.unref();
  return () => timers.forEach((t) => clearInterval(t));
}

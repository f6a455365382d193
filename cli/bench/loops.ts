/**
 * Ten hot loops, each measured in a process of its own and in one that runs them all: `node … loops.ts NAME` or `loops.ts all`. Prints the ratio
 * of each to its reference, as JSON. In the second turn of `all` each loop has all the others behind it, as after hours of mixed work.
 */
import { MEASUREMENTS } from './measurements';
import type { Result } from './result';
import { LOOPS } from './wholeAgainstAlone';

async function ratios(names: readonly string[]): Promise<Record<string, number>> {
  const out: Record<string, number> = {};
  for (const name of names) {
    const results: Result[] = await MEASUREMENTS[name]();
    out[name] = results[0].ratio;
  }
  return out;
}

const [which] = process.argv.slice(2);
if (which === 'all') {
  await ratios(LOOPS);
  process.stdout.write(JSON.stringify(await ratios(LOOPS)));
} else process.stdout.write(JSON.stringify(await ratios([which])));
// Threads of a measurement may go on.
process.exit(0);

/**
 * Ten hot loops, each measured in a process of its own and in one that runs them all: `node … loops.ts NAME` or `loops.ts all`. Prints the figures as
 * JSON. They are not held against their references, which copy memory and so depend on what was allocated before. In the second turn of `all` each loop has all the others behind it, as after hours of mixed work.
 */
import { MEASUREMENTS } from './measurements';
import type { Result } from './result';
import { NAMES, type Loop } from './wholeAgainstAlone';

async function figures(names: readonly Loop[]): Promise<Record<string, number>> {
  const out: Record<string, number> = {};
  for (const name of names) {
    const results: Result[] = await MEASUREMENTS[name]();
    out[name] = results[0].value;
  }
  return out;
}

const [which] = process.argv.slice(2);
if (which === 'all') {
  await figures(NAMES);
  process.stdout.write(JSON.stringify(await figures(NAMES)));
} else process.stdout.write(JSON.stringify(await figures([which as Loop])));
// Threads of a measurement may go on.
process.exit(0);

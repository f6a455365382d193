/** ./brindle demo [NAME…]: paints the demo pieces by their scripts and writes their files into demo/pieces. */
import { shareMemory } from '../src/core/compute';
import { writeDemoFile } from '../demo/files';
import { DEMO, DEMO_NAMES, type DemoName } from '../demo/list';
import { BadInput } from './badInput';

export async function run(args: string[]): Promise<void> {
  const unknown = args.find((name) => !Object.hasOwn(DEMO, name));
  if (unknown) throw new BadInput(`There is no demo piece "${unknown}": there are ${DEMO_NAMES.join(', ')}.`);
  // Puts tiles into shared memory, where the kernels read them without copies.
  shareMemory(() => performance.now());
  for (const name of args.length ? (args as DemoName[]) : DEMO_NAMES) {
    const bytes = await writeDemoFile(name);
    process.stdout.write(`${name}.brindle: ${(bytes / 1048576).toFixed(2)} MiB\n`);
  }
}

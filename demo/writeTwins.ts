/** Writes the files of the demo's dense twins: node --import tsx demo/writeTwins.ts DIR */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { TWINS, twinFile } from './twins';

const folder = process.argv[2] ?? '.';
mkdirSync(folder, { recursive: true });
for (const which of Object.keys(TWINS) as (keyof typeof TWINS)[]) {
  const file = await twinFile(which);
  writeFileSync(join(folder, `${which}-dense.glb`), file);
  process.stdout.write(`${which}-dense.glb: ${(file.length / 1048576).toFixed(1)} MiB\n`);
}

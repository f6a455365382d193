/** Bakes a whole set of the lantern at 2048² with all threads; prints seconds and the most memory. Run by bakes.ts. */
import { createHash } from 'node:crypto';
import { BAKE_VERSION, bakeSpecSchema } from '../../src/core/kinds/bakes/spec';
import { writeGlb } from '../../src/core/mesh/writeGlb';
import { BakePool } from '../../src/server/bakes/pool';
import { lanternModel } from '../../demo/lanternModel';
import { twinFile } from '../../demo/twins';
import { peakMiB } from './memory';

const files = new Map<string, { name: string; bytes: Uint8Array }>();
const put = (name: string, bytes: Uint8Array) => {
  const address = createHash('sha256').update(bytes).digest('hex');
  files.set(address, { name, bytes });
  return address;
};
const model = put('lantern.glb', await writeGlb(lanternModel()));
const file = put('lantern-dense.glb', await twinFile('lantern'));
const pool = new BakePool((address) => Promise.resolve(files.get(address) ?? null));
const spec = (settings: object, twin: object | null = null) =>
  bakeSpecSchema.parse({
    ...{ version: BAKE_VERSION, model, uvSet: 0, material: 0, width: 2048, height: 2048, supersample: 1 },
    ...{ settings, twin },
  });
const SET = [
  spec({ type: 'occlusion', samples: 64 }),
  spec({ type: 'curvature' }),
  spec({ type: 'normal' }, { file, name: 'lantern-dense.glb', match: 'names' }),
  spec({ type: 'position' }),
  spec({ type: 'thickness' }),
];
const alone = process.memoryUsage().rss / 1048576;
const start = performance.now();
for (const one of SET) {
  const tiles = await pool.tiles(one);
  await Promise.all(
    tiles.map(async (tile) => {
      await pool.tile(one, tile);
    }),
  );
}
const seconds = (performance.now() - start) / 1000;
const [first] = await pool.tiles(SET[0]);
const before = performance.now();
await pool.tile(SET[0], first);
const single = (performance.now() - before) / 1000;
await pool.close();
process.stdout.write(JSON.stringify({ seconds, mebibytes: peakMiB(), single, alone }));
process.exit(0);

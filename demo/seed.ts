/** Puts the demo pieces into an empty house. Run with a name, makes that one piece. */
import { spawn } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { count } from 'drizzle-orm';
import { shareMemory } from '../src/core/compute';
import { readModel } from '../src/core/mesh/readModel';
import { ensureThumbnail } from '../src/core/piece/thumbnail';
import { closePool, database } from '../src/server/db';
import { insertPiece } from '../src/server/pieces';
import { pieces } from '../src/server/schema';
import type { PieceBundle } from '../src/core/piece/pieceFile';
import { takeTwin } from '../src/server/bakes/twins';
import type { TwinFile } from './bakes';
import { buoyBundle } from './buoy';
import { drawForOthers } from './drawn';
import { lanternBundle } from './lantern';
import { settsBundle } from './setts';
import { tortoiseBundle } from './tortoise';

/** Full size, or smaller for tests: BRINDLE_DEMO_SIZE is the lantern's side, the setts have half. */
const size = Number(process.env.BRINDLE_DEMO_SIZE ?? 2048);
const DEMO = {
  buoy: { title: 'Buoy token', make: buoyBundle },
  setts: { title: 'Quay setts', make: () => settsBundle(size / 2) },
  tortoise: { title: 'Courier tortoise', make: () => tortoiseBundle(size) },
  lantern: { title: 'Harbour lantern', make: () => lanternBundle(size) },
};

/**
 * Does nothing if there is any piece, deleted ones included: a cleared house stays cleared. `build`: of the application, for which they
 * are drawn.
 */
export async function seedDemo(say: (line: string) => void, build: string): Promise<void> {
  const [{ value }] = await database().select({ value: count() }).from(pieces);
  if (value > 0) return;
  say(
    `Making the demo pieces (${Object.values(DEMO)
      .map((d) => d.title)
      .join(', ')}): once, a minute or two …`,
  );
  // One process each: they are made side by side.
  await Promise.all(Object.keys(DEMO).map((name) => runSelf(name, build)));
}

function runSelf(name: string, build: string): Promise<void> {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, ['--import', 'tsx', fileURLToPath(import.meta.url), name, build], { stdio: 'inherit' });
    child.on('close', (code) => (code === 0 ? resolve() : reject(new Error(`The demo piece "${name}" could not be made.`))));
  });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  // Kernels work on strokes where they lie.
  shareMemory(() => performance.now());
  const bundle: PieceBundle & { twins?: TwinFile[] } = await DEMO[process.argv[2] as keyof typeof DEMO].make();
  const model = bundle.modelGlb ? await readModel(new Map([['model.glb', bundle.modelGlb]])) : null;
  await insertPiece(ensureThumbnail(bundle, model), { keepId: true });
  // The files of their dense twins are at hand for baking anew.
  for (const { name, bytes } of bundle.twins ?? []) {
    const folder = await mkdtemp(join(tmpdir(), 'brindle-twin-'));
    await writeFile(join(folder, name), bytes);
    await takeTwin(join(folder, name), name);
    await rm(folder, { recursive: true });
  }
  const [, , , build] = process.argv;
  if (build) await drawForOthers(bundle.piece.id, bundle.store, model, build);
  await closePool();
}

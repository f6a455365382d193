/**
 * A program that puts demo pieces into the database and exits (started by start.ts):
 * `import BUILD`: all announced pieces, from their piece files; `paint BUILD NAME SIZE`: one piece, by its script.
 * BUILD is the id of the application's build for which it also renders their tiles; '' renders none.
 */
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { setPriority, tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { shareMemory } from '../src/core/compute';
import { PieceFileError, readPieceFile } from '../src/core/piece/pieceFile';
import { ensureThumbnail } from '../src/core/piece/thumbnail';
import { markArriving, markWhole, unfinished } from '../src/server/arriving';
import { takeTwin } from '../src/server/bakes/twins';
import { closePool, database } from '../src/server/db';
import { faultOf } from '../src/server/faults';
import { insertPiece } from '../src/server/pieces';
import { pieces } from '../src/server/schema';
import { drawForOthers } from './drawn';
import { demoFile } from './files';
import { DEMO, DEMO_NAMES, type DemoName } from './list';
import { modelOf, PAINT, type DemoBundle } from './scripts';
import { twinFile } from './twins';

async function importAnnounced(build: string): Promise<void> {
  // At a lower priority than the application, in which somebody may be painting already.
  setPriority(10);
  const rows = new Set((await unfinished()).map((row) => row.name));
  const announced = DEMO_NAMES.filter((name) => rows.has(name));
  const bundles = new Map<DemoName, DemoBundle>();
  for (const name of announced) {
    const bundle = await untilImported(name);
    if (bundle) bundles.set(name, bundle);
    else process.exitCode = 1;
  }
  for (const [name, bundle] of bundles) {
    try {
      await finish(name, bundle, build);
    } catch (error) {
      process.stderr.write(`The next start goes on with "${DEMO[name].title}": ${faultOf(error).message}\n`);
      process.exitCode = 1;
    }
  }
}

/** Adds what a piece can do without at first: the file of its dense model, so that its bakes can be made again, and its rendered tiles. */
async function finish(name: DemoName, bundle: DemoBundle, build: string): Promise<void> {
  const { id, twin } = DEMO[name];
  if (twin) await keepTwin(`${twin}-dense.glb`, await twinFile(twin));
  if (build) await drawForOthers(id, bundle.store, await modelOf(bundle), build);
  await markWhole(name);
}

const AGAIN_MS = 3000;

/** Imports a piece, retrying as long as the database is away or full. null: it cannot be imported, and home says why. */
async function untilImported(name: DemoName): Promise<DemoBundle | null> {
  for (;;) {
    try {
      const bundle = readPieceFile(await readFile(demoFile(name)), demoFile(name));
      if (!(await isThere(name)))
        await insertPiece(bundle, { keepId: true }).catch(async (error: unknown) => {
          // Another start on the same database may have imported it in the meantime.
          if (!(await isThere(name))) throw error;
        });
      await markArriving(name, { there: true, fault: null });
      return bundle;
    } catch (error) {
      const fault = faultOf(error);
      const passes = fault.status === 503;
      const message = error instanceof PieceFileError ? error.message : fault.message;
      const why = passes ? message : `${message} The next start tries again.`;
      // A failed query's own message holds all of its parameters.
      const cause = ((error as Error).cause ?? error) as Error;
      process.stderr.write(`The demo piece "${DEMO[name].title}" could not be imported (${cause.message}): ${why}\n`);
      await markArriving(name, { fault: why }).catch(() => undefined);
      if (!passes) return null;
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
    }
  }
}

async function isThere(name: DemoName): Promise<boolean> {
  const [row] = await database().select({ id: pieces.id }).from(pieces).where(eq(pieces.id, DEMO[name].id));
  return row !== undefined;
}

async function paint(name: DemoName, size: number, build: string): Promise<void> {
  const bundle = await PAINT[name](size);
  const model = await modelOf(bundle);
  await insertPiece(ensureThumbnail(bundle, model), { keepId: true });
  for (const twin of bundle.twins ?? []) await keepTwin(twin.name, twin.bytes);
  if (build) await drawForOthers(DEMO[name].id, bundle.store, model, build);
}

async function keepTwin(name: string, bytes: Uint8Array): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'brindle-twin-'));
  await writeFile(join(folder, name), bytes);
  await takeTwin(join(folder, name), name);
  await rm(folder, { recursive: true });
}

// Puts tiles into shared memory, where the kernels read them without copies.
shareMemory(() => performance.now());
const [, , what, build, name, size] = process.argv;
if (what === 'paint') await paint(name as DemoName, Number(size), build);
else await importAnnounced(build);
await closePool();

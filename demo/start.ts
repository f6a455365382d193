/** Demo pieces into an empty database; the work itself is done by processes of their own (seed.ts). */
import { spawn, type ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { count } from 'drizzle-orm';
import { promise, unfinished } from '../src/server/arriving';
import { database } from '../src/server/db';
import { pieces } from '../src/server/schema';
import { DEMO, DEMO_NAMES } from './list';

/** Promises the demo pieces to an empty database: home shows them as being imported from then on. */
export const promiseDemo = (): Promise<void> => promise(DEMO_NAMES.map((name) => ({ name, title: DEMO[name].title })));

/**
 * Starts a process that imports what was promised; null where nothing is left to import. `build`: of the application, for which the
 * process renders their tiles ('': it renders none).
 */
export async function importInBackground(build: string): Promise<ChildProcess | null> {
  return (await unfinished()).length > 0 ? runSeed('import', build) : null;
}

/** Paints all demo pieces by their scripts, side by side, unless there is any piece: for tests and benchmarks. `size`: texels a side of the lantern; the setts have half. */
export async function paintDemo(size: number, build: string): Promise<void> {
  const [{ value }] = await database().select({ value: count() }).from(pieces);
  if (value > 0) return;
  await Promise.all(
    DEMO_NAMES.map(
      (name) =>
        new Promise<void>((resolve, reject) => {
          const child = runSeed('paint', build, name, String(name === 'setts' ? size / 2 : size));
          child.on('close', (code) =>
            code === 0 ? resolve() : reject(new Error(`The demo piece "${name}" could not be made.`)),
          );
        }),
    ),
  );
}

const runSeed = (...args: string[]): ChildProcess =>
  spawn(process.execPath, ['--import', 'tsx', join(fileURLToPath(new URL('.', import.meta.url)), 'seed.ts'), ...args], {
    stdio: 'inherit',
  });

/** Puts demo pieces into an empty database; processes of their own (seed.ts) do the work. */
import { spawn, type ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { announce, hasNoPieces, unfinished } from '../src/server/arriving';
import { DEMO, DEMO_NAMES } from './list';

/** Announces the demo pieces in an empty database: home shows them as being imported from then on. */
export const announceDemo = (): Promise<void> => announce(DEMO_NAMES.map((name) => ({ name, title: DEMO[name].title })));

/**
 * Starts a process that imports the announced pieces; null if there are none. `build`: id of the application's build, for which the
 * process then renders their tiles; '' renders none.
 */
export async function importInBackground(build: string): Promise<ChildProcess | null> {
  return (await unfinished()).length > 0 ? runSeed('import', build) : null;
}

/**
 * Paints all demo pieces by their scripts, one process each, unless the database has pieces: for tests and benchmarks. `size`: texels a
 * side of the lantern; the setts have half.
 */
export async function paintDemo(size: number, build: string): Promise<void> {
  if (!(await hasNoPieces())) return;
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

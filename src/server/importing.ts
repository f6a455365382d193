/** Importing a piece file in a process of its own: a hostile file can end that process, not the server. Two at once; others wait. */
import { spawn } from 'node:child_process';
import { turns } from './turns';

export type ImportResult = { ok: true; id: string } | { ok: false; message: string };

/** A large piece takes some 3 GiB to unpack; the limit keeps a bomb from taking the machine. */
const HEAP_MEGABYTES = 6144;
const TIME_LIMIT_MS = 5 * 60_000;
/** Two of 3 GiB at once are what a machine with 8 GiB bears. */
const AT_ONCE = 2;

const inTurn = turns(AT_ONCE);

export const importPieceFile = (path: string): Promise<ImportResult> => inTurn(() => runImport(path));

function runImport(path: string): Promise<ImportResult> {
  return new Promise((resolve) => {
    const child = spawn(
      process.execPath,
      [`--max-old-space-size=${HEAP_MEGABYTES}`, '--import', 'tsx', 'cli/storeImport.ts', path],
      { stdio: ['ignore', 'pipe', 'inherit'], env: { ...process.env, NODE_OPTIONS: '' } },
    );
    let out = '';
    const timer = setTimeout(() => child.kill('SIGKILL'), TIME_LIMIT_MS);
    child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
    child.on('error', () => resolve({ ok: false, message: 'The import could not be started: try again.' }));
    child.on('close', () => {
      clearTimeout(timer);
      try {
        resolve(JSON.parse(out) as ImportResult);
      } catch {
        resolve({ ok: false, message: 'The file could not be unpacked in reasonable time and memory: it is refused.' });
      }
    });
  });
}

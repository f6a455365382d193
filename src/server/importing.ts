/** Importing a piece file in a process of its own: a hostile file can end that process, not the server. Two at once; others wait. */
import { runApart } from './apart';
import { turns } from './turns';

export type ImportResult = { ok: true; id: string } | { ok: false; message: string };

/**
 * All that the process holds, buffers too: a piece of ten planes of 8192² takes some 0.7 GiB, a mesh of five million vertices more. The
 * limit keeps a bomb from taking the machine.
 */
const LIMITS = { timeMs: 5 * 60_000, memoryBytes: 3 * 1024 ** 3, heapMegabytes: 2048 };
/** Two at once are what a machine with 8 GiB bears. */
const AT_ONCE = 2;

const inTurn = turns(AT_ONCE);

export const importPieceFile = (path: string): Promise<ImportResult> => inTurn(() => runImport(path));

async function runImport(path: string): Promise<ImportResult> {
  const { out } = await runApart(['--import', 'tsx', 'cli/storeImport.ts', path], LIMITS);
  try {
    return JSON.parse(out) as ImportResult;
  } catch {
    return { ok: false, message: 'The file could not be unpacked in reasonable time and memory: it is refused.' };
  }
}

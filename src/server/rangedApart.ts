/** EXR and TIFF of other numbers, read in a process of its own: their readers can be made to go on for ever. */
import { readFile, stat } from 'node:fs/promises';
import { z } from 'zod';
import { runApart } from './apart';

/** Beside a second for each MiB of the file. */
const TIME_LIMIT_MS = 5000;
/** 4096² of four floats are 256 MiB; as they lie in the file, unpacked, and in 16 bits, with room. */
const MEMORY_BYTES = 1536 * 1024 * 1024;

const answer = z.object({ width: z.number(), height: z.number(), channels: z.number(), rule: z.string().nullable() });
export type RangedAnswer = z.infer<typeof answer>;

/** Throws where it cannot be read. */
export async function readRangedApart(
  path: string,
  as: 'colour' | 'data',
): Promise<RangedAnswer & { data: Uint16Array<ArrayBuffer> }> {
  const texels = `${path}.texels`;
  const { size } = await stat(path);
  const { ok, out } = await runApart(['--import', 'tsx', 'cli/readRanged.ts', path, as, texels], {
    timeMs: TIME_LIMIT_MS + size / 1024,
    memoryBytes: MEMORY_BYTES,
    heapMegabytes: 1024,
  });
  if (!ok) throw new Error('the reader ended without a picture');
  const bytes = await readFile(texels);
  return { ...answer.parse(JSON.parse(out)), data: new Uint16Array(new Uint8Array(bytes).buffer) };
}

/** EXR and TIFF of other numbers, read in a process that is ended when it takes too long or too much. */
import { spawn } from 'node:child_process';
import { readFile, stat } from 'node:fs/promises';
import { z } from 'zod';
import { residentBytes } from './resident';

/** Beside a second for each MiB of the file. */
const TIME_LIMIT_MS = 5000;
/** 4096² of four floats are 256 MiB; as they lie in the file, unpacked, and in 16 bits, with room. */
const MEMORY_BYTES = 1536 * 1024 * 1024;
const LOOK_EVERY_MS = 100;

const answer = z.object({ width: z.number(), height: z.number(), channels: z.number(), rule: z.string().nullable() });
export type RangedAnswer = z.infer<typeof answer>;

/** Throws where it cannot be read. */
export async function readRangedApart(
  path: string,
  as: 'colour' | 'data',
): Promise<RangedAnswer & { data: Uint16Array<ArrayBuffer> }> {
  const texels = `${path}.texels`;
  const { size } = await stat(path);
  const text = await new Promise<string>((resolve, reject) => {
    const child = spawn(
      process.execPath,
      ['--max-old-space-size=1024', '--import', 'tsx', 'cli/readRanged.ts', path, as, texels],
      {
        stdio: ['ignore', 'pipe', 'ignore'],
        env: { ...process.env, NODE_OPTIONS: '' },
      },
    );
    let out = '';
    const timer = setTimeout(() => child.kill('SIGKILL'), TIME_LIMIT_MS + size / 1024);
    const watch = setInterval(() => {
      if (child.pid && residentBytes(child.pid) > MEMORY_BYTES) child.kill('SIGKILL');
    }, LOOK_EVERY_MS);
    child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
    child.on('error', reject);
    child.on('close', (code) => {
      clearTimeout(timer);
      clearInterval(watch);
      if (code === 0) resolve(out);
      else reject(new Error('the reader ended without a picture'));
    });
  });
  const found = answer.parse(JSON.parse(text));
  const bytes = await readFile(texels);
  return { ...found, data: new Uint16Array(new Uint8Array(bytes).buffer) };
}

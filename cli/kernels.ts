/** Builds the WebAssembly kernels when their sources changed: src/kernels/build/wasm.ts, which is not kept in git. */
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execFile } from 'node:child_process';
import { promisify } from 'node:util';

const SOURCES = 'src/kernels/assembly';
const TARGET = 'src/kernels/build/wasm.ts';

const run = promisify(execFile);

export async function ensureKernels(): Promise<void> {
  const hash = createHash('sha256').update(readFileSync('cli/kernels.ts'));
  for (const name of readdirSync(SOURCES).sort()) hash.update(name).update(readFileSync(join(SOURCES, name)));
  const stamp = `// Made by cli/kernels.ts from ${SOURCES}: ${hash.digest('hex')}`;
  if (existsSync(TARGET) && readFileSync(TARGET, 'utf8').startsWith(stamp)) return;
  const folder = mkdtempSync(join(tmpdir(), 'brindle-kernels-'));
  try {
    const build = async (name: string, most: number, constants: number, shared = false): Promise<string> => {
      const out = join(folder, `${name}${shared ? '-shared' : ''}.wasm`);
      const asked = [
        ...['node_modules/assemblyscript/bin/asc.js', join(SOURCES, `${name}.ts`)],
        ...['-O3', '--runtime', 'stub', '--enable', 'simd', '--importMemory'],
        ...(shared ? ['--enable', 'threads', '--sharedMemory'] : []),
        ...['--initialMemory', '16', '--maximumMemory', String(most)],
        ...['--memoryBase', String(constants), '-o', out],
      ];
      // What it warns of is shown only where it fails.
      await run(process.execPath, asked);
      return readFileSync(out).toString('base64');
    };
    mkdirSync('src/kernels/build', { recursive: true });
    // Pages of 64 KiB, and where constants lie: what kernels/arena.ts, kernels/tapsWasm.ts and kernels/raysWasm.ts give them.
    const modules = {
      WASM_BASE64: build('index', 65536, 1024),
      SHARED_BASE64: build('index', 65536, 1024, true),
      TAPS_BASE64: build('taps', 12288, 1024),
      RAYS_BASE64: build('rays', 65536, 1024),
    };
    const lines = await Promise.all(
      Object.entries(modules).map(async ([name, base64]) => `export const ${name} =\n  '${await base64}';\n`),
    );
    writeFileSync(TARGET, `${stamp}\n${lines.join('')}`);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

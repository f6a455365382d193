/** Builds the WebAssembly kernels when their sources changed: src/kernels/build/wasm.ts, which is not kept in git. */
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';

const SOURCES = 'src/kernels/assembly';
const TARGET = 'src/kernels/build/wasm.ts';

export function ensureKernels(): void {
  const hash = createHash('sha256');
  for (const name of readdirSync(SOURCES).sort()) hash.update(name).update(readFileSync(join(SOURCES, name)));
  const stamp = `// Made by cli/kernels.ts from ${SOURCES}: ${hash.digest('hex')}`;
  if (existsSync(TARGET) && readFileSync(TARGET, 'utf8').startsWith(stamp)) return;
  const folder = mkdtempSync(join(tmpdir(), 'brindle-kernels-'));
  try {
    const build = (name: string, least: number, most: number, constants: number): string => {
      const out = join(folder, `${name}.wasm`);
      execFileSync(process.execPath, [
        ...['node_modules/assemblyscript/bin/asc.js', join(SOURCES, `${name}.ts`)],
        ...['-O3', '--runtime', 'stub', '--enable', 'simd', '--importMemory'],
        ...['--initialMemory', String(least), '--maximumMemory', String(most)],
        ...['--memoryBase', String(constants), '-o', out],
      ]);
      return readFileSync(out).toString('base64');
    };
    mkdirSync('src/kernels/build', { recursive: true });
    // Pages of 64 KiB, and where constants lie: what kernels/wasm.ts and kernels/tapsWasm.ts give them.
    const [kernels, taps] = [build('index', 1536, 1536, 1032192), build('taps', 16, 12288, 1024)];
    writeFileSync(TARGET, `${stamp}\nexport const WASM_BASE64 =\n  '${kernels}';\nexport const TAPS_BASE64 =\n  '${taps}';\n`);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

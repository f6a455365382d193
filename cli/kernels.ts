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
    const out = join(folder, 'kernels.wasm');
    execFileSync(process.execPath, [
      ...['node_modules/assemblyscript/bin/asc.js', join(SOURCES, 'index.ts')],
      ...['-O3', '--runtime', 'stub', '--enable', 'simd', '--importMemory', '--initialMemory', '1536', '--maximumMemory', '1536'],
      ...['-o', out],
    ]);
    mkdirSync('src/kernels/build', { recursive: true });
    writeFileSync(TARGET, `${stamp}\nexport const WASM_BASE64 =\n  '${readFileSync(out).toString('base64')}';\n`);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

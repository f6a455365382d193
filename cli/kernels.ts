/**
 * Compiles the WebAssembly kernels into src/kernels/build/wasm.ts when their sources changed. The result is kept in git, so
 * that a first start need neither compile nor install the compiler; a test holds it against the sources.
 */
import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { BadInput } from './badInput';

const SOURCES = 'src/kernels/assembly';
const COMPILER = 'node_modules/assemblyscript/bin/asc.js';
export const TARGET = 'src/kernels/build/wasm.ts';

const run = promisify(execFile);

/** Pages of 64 KiB, and where constants lie: what kernels/arena.ts, kernels/tapsWasm.ts and kernels/raysWasm.ts give them. */
const MODULES = {
  WASM_BASE64: { source: 'index', pages: 65536, shared: false },
  SHARED_BASE64: { source: 'index', pages: 65536, shared: true },
  TAPS_BASE64: { source: 'taps', pages: 12288, shared: false },
  RAYS_BASE64: { source: 'rays', pages: 65536, shared: false },
};
const CONSTANTS = 1024;
export type KernelModule = keyof typeof MODULES;

/** The first two lines of a compiled file: a hash of the sources as they are now, and one of the rest of the file. */
export function headOf(body: string): string {
  const sources = createHash('sha256').update(readFileSync('cli/kernels.ts'));
  for (const name of readdirSync(SOURCES).sort()) sources.update(name).update(readFileSync(join(SOURCES, name)));
  const follows = createHash('sha256').update(body).digest('hex');
  return `// Made by cli/kernels.ts from ${SOURCES}: ${sources.digest('hex')}\n// sha256 of what follows: ${follows}\n`;
}

/** Whether a compiled file was made from the sources as they are now, and nothing in it was changed since. */
export function isCurrent(text: string): boolean {
  const body = text.split('\n').slice(2).join('\n');
  return text === headOf(body) + body;
}

/** A module's bytes as base64. */
export async function compile(module: KernelModule): Promise<string> {
  if (!existsSync(COMPILER))
    throw new BadInput('The kernels are out of date, and their compiler is not installed: run npm install, then try again.');
  const { source, pages, shared } = MODULES[module];
  const folder = mkdtempSync(join(tmpdir(), 'brindle-kernels-'));
  try {
    const out = join(folder, 'module.wasm');
    // What it warns of is shown only where it fails.
    await run(process.execPath, [
      ...[COMPILER, join(SOURCES, `${source}.ts`)],
      ...['-O3', '--runtime', 'stub', '--enable', 'simd', '--importMemory'],
      ...(shared ? ['--enable', 'threads', '--sharedMemory'] : []),
      ...['--initialMemory', '16', '--maximumMemory', String(pages)],
      ...['--memoryBase', String(CONSTANTS), '-o', out],
    ]);
    return readFileSync(out).toString('base64');
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

export async function ensureKernels(): Promise<void> {
  if (existsSync(TARGET) && isCurrent(readFileSync(TARGET, 'utf8'))) return;
  const names = Object.keys(MODULES) as KernelModule[];
  const compiled = await Promise.all(names.map(async (name) => `export const ${name} =\n  '${await compile(name)}';\n`));
  const body = compiled.join('');
  mkdirSync('src/kernels/build', { recursive: true });
  writeFileSync(TARGET, headOf(body) + body);
}

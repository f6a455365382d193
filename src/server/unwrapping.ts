/**
 * Unwrapping a model in a process of its own, as imports are: a hostile file can end that process, not the server. In the page it
 * cannot run: its package builds functions out of text, which our policy forbids.
 */
import { spawn } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { turns } from './turns';

export type UnwrapResult = { ok: true; glb: Uint8Array } | { ok: false; message: string };

const HEAP_MEGABYTES = 4096;
const TIME_LIMIT_MS = 3 * 60_000;

/** It keeps one core busy: others wait. */
const inTurn = turns(1);

/** `path`: a GLB; the result lies beside it. */
export const unwrapFile = (path: string, size: number): Promise<UnwrapResult> => inTurn(() => run(path, size));

function run(path: string, size: number): Promise<UnwrapResult> {
  const out = `${path}.unwrapped.glb`;
  return new Promise((resolve) => {
    const args = ['--import', 'tsx', 'cli/main.ts', 'unwrap', path, '--out', out, '--size', String(size)];
    const child = spawn(process.execPath, [`--max-old-space-size=${HEAP_MEGABYTES}`, ...args], {
      stdio: ['ignore', 'ignore', 'pipe'],
      env: { ...process.env, NODE_OPTIONS: '' },
    });
    let said = '';
    const timer = setTimeout(() => child.kill('SIGKILL'), TIME_LIMIT_MS);
    child.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()));
    child.on('error', () => resolve({ ok: false, message: 'The unwrap could not be started: try again.' }));
    child.on('close', (code) => {
      clearTimeout(timer);
      if (code === 0) return void readFile(out).then((glb) => resolve({ ok: true, glb }));
      const sentence = code === 2 ? said.trim().split('\n').at(-1)! : '';
      resolve({ ok: false, message: sentence || 'The model could not be unwrapped in reasonable time and memory: reduce it.' });
    });
  });
}

/** Work on what comes from outside, in a process of its own that is ended when it takes too long or too much: a bomb ends it, not the server. */
import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';

export interface ApartLimits {
  timeMs: number;
  /** Of all that it holds, its buffers too, which no limit of a JavaScript heap counts. */
  memoryBytes: number;
  heapMegabytes: number;
}

const LOOK_EVERY_MS = 100;

/** What the kernel says a process holds (proc(5), status); 0: it is gone. */
function residentBytes(pid: number): number {
  try {
    return Number(/^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'latin1'))?.[1] ?? 0) * 1024;
  } catch {
    return 0;
  }
}

/** Runs Node with these arguments: what it said, and whether it ended well by itself. Never rejects. */
export function runApart(
  args: readonly string[],
  { timeMs, memoryBytes, heapMegabytes }: ApartLimits,
): Promise<{ ok: boolean; out: string }> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [`--max-old-space-size=${heapMegabytes}`, ...args], {
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, NODE_OPTIONS: '' },
    });
    let out = '';
    const timer = setTimeout(() => child.kill('SIGKILL'), timeMs);
    const watch = setInterval(() => {
      if (child.pid && residentBytes(child.pid) > memoryBytes) child.kill('SIGKILL');
    }, LOOK_EVERY_MS);
    const end = (ok: boolean) => {
      clearTimeout(timer);
      clearInterval(watch);
      resolve({ ok, out });
    };
    child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
    child.on('error', () => end(false));
    child.on('close', (code) => end(code === 0));
  });
}

/** How much memory another process holds, its buffers too, which no limit of a JavaScript heap counts. */
import { readFileSync } from 'node:fs';

/** What the kernel says a process holds (proc(5), status); 0: it is gone. */
export function residentBytes(pid: number): number {
  try {
    return Number(/^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'latin1'))?.[1] ?? 0) * 1024;
  } catch {
    return 0;
  }
}

/** Memory of this process. */
import { readFileSync } from 'node:fs';

/** The most that it has held so far, MiB: its own, where `maxRSS` may be that of the process that began it. */
export const peakMiB = (): number => Number(/VmHWM:\s+(\d+)/.exec(readFileSync('/proc/self/status', 'utf8'))![1]) / 1024;

/**
 * Runs inside a reader process, on a thread of its own, so that it works while the main thread is busy: ends the process when it is over
 * a limit, or when the server that started it is gone.
 */
import { Worker } from 'node:worker_threads';
import { OVER_MEMORY_SIGNAL, OVER_TIME_SIGNAL, type ReaderLimits } from './protocol';

const LOOK_EVERY_MS = 50;

// Plain JavaScript: a thread that loads TypeScript needs a second to start.
const SOURCE = `
const { parentPort, workerData } = require('node:worker_threads');
let limits = null;
let cpuAtStart = 0;
const cpuMs = () => { const { user, system } = process.cpuUsage(); return (user + system) / 1000; };
parentPort.on('message', (message) => { limits = message; cpuAtStart = cpuMs(); });
setInterval(() => {
  if (process.ppid !== workerData.parent) process.kill(process.pid, 'SIGKILL');
  if (!limits) return;
  if (cpuMs() - cpuAtStart > limits.cpuMs) process.kill(process.pid, workerData.overTime);
  else if (process.memoryUsage.rss() > limits.memoryBytes) process.kill(process.pid, workerData.overMemory);
}, workerData.every);
`;

export interface Watchdog {
  /** From now on these limits hold (null: none); processor time counts from now. */
  limit(limits: ReaderLimits | null): void;
}

export function startWatchdog(): Watchdog {
  const worker = new Worker(SOURCE, {
    eval: true,
    workerData: { parent: process.ppid, overTime: OVER_TIME_SIGNAL, overMemory: OVER_MEMORY_SIGNAL, every: LOOK_EVERY_MS },
  });
  worker.unref();
  return { limit: (limits) => worker.postMessage(limits) };
}

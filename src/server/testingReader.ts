/** A reader process for tests (readers/pool.ts), whose tasks misbehave. */
import { serveTasks } from './readers/child';
import type { ReaderAnswer } from './readers/protocol';

const done = (value: unknown): ReaderAnswer => ({ type: 'done', value });
const forEver = () => new Promise<never>(() => setInterval(() => undefined, 1000));

serveTasks({
  echo: (input) => Promise.resolve(done(input)),
  spin: () => {
    for (;;);
  },
  sleep: ({ ms }: { ms: number }) => new Promise((resolve) => setTimeout(() => resolve(done(null)), ms)),
  buffers: () => {
    const all: Buffer[] = [];
    setInterval(() => all.push(Buffer.alloc(64 << 20, 1)), 20);
    return forEver();
  },
  heap: () => {
    const all: object[] = [];
    for (;;) all.push({ n: all.length });
  },
  exit: () => process.exit(3),
  throw: () => Promise.reject(new Error('a fault of ours')),
  work: ({ ms }: { ms: number }, extend) => {
    extend({ cpuMs: 60_000, memoryBytes: 2 ** 30 });
    const { user } = process.cpuUsage();
    while (process.cpuUsage().user - user < ms * 1000);
    return Promise.resolve(done('worked'));
  },
});

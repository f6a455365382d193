/**
 * Processes that read files from outside, so that a hostile file harms nobody but its own reader. Each has one task at a time. One is
 * started ahead, so that no task waits for a process to start.
 */
import { spawn, type ChildProcess } from 'node:child_process';
import type { Socket } from 'node:net';
import type { FromReader, ReaderAnswer, ReaderTask } from './protocol';
import { OVER_MEMORY_SIGNAL, OVER_TIME_SIGNAL } from './protocol';

/** Why there is no answer: the limit of processor time or of memory, or the process ended otherwise. */
export type ReaderEnd = { type: 'over time' } | { type: 'over memory' } | { type: 'died' };
export type ReaderOutcome = ReaderAnswer | ReaderEnd;

/** A task that waits (for a disk, the database) uses no processor time: it ends after so many times its limit, at least a minute. */
const WALL_FACTOR = 10;
const LEAST_WALL_MS = 60_000;
/** Processes that wait for tasks: each holds some 100 MB, and is ended when nobody has needed one for so long. */
const MOST_IDLE = 2;
const IDLE_MS = 60_000;
/** Characters of what a reader prints that are kept for the log. */
const MOST_SAID = 4000;
/** V8 aborts when its heap is full. Buffers lie outside of it, so the heap may be as large as the whole limit. */
const HEAP_FULL_SIGNAL = 'SIGABRT';

const ENTRY = ['--disable-warning=ExperimentalWarning', '--import', 'tsx', 'cli/reader.ts'];

/** One process from its start to its end. */
class Reader {
  private readonly process: ChildProcess;
  private waiting: ((outcome: ReaderOutcome) => void) | null = null;
  private end: ReaderEnd | null = null;
  private said = '';

  constructor(
    heapMegabytes: number,
    entry: readonly string[],
    private readonly ended: () => void,
  ) {
    this.process = spawn(process.execPath, [`--max-old-space-size=${heapMegabytes}`, ...entry], {
      stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
      env: { ...process.env, NODE_OPTIONS: '' },
    });
    this.process.stderr!.setEncoding('utf8').on('data', (text: string) => (this.said = (this.said + text).slice(-MOST_SAID)));
    this.process.on('message', ({ answer, last }: FromReader) => {
      if (last) this.end = { type: 'died' };
      this.answer(answer);
    });
    this.process.on('error', () => this.finish({ type: 'died' }));
    this.process.on('close', (_code, signal) => this.finish(endOf(signal)));
  }

  /** It can take another task. */
  get alive(): boolean {
    return this.end === null;
  }

  run(task: ReaderTask): Promise<ReaderOutcome> {
    return new Promise((resolve) => {
      const wallMs = Math.max(LEAST_WALL_MS, task.limits.cpuMs * WALL_FACTOR);
      const wall = setTimeout(() => this.process.kill(OVER_TIME_SIGNAL), wallMs);
      this.waiting = (outcome) => {
        clearTimeout(wall);
        resolve(outcome);
      };
      this.keepServerAlive(true);
      this.process.send(task, (error) => error && this.kill());
    });
  }

  /** While it has nothing to do it does not keep the server's process from ending. */
  keepServerAlive(yes: boolean): void {
    for (const handle of [this.process, this.process.channel as unknown as Socket | null, this.process.stderr as Socket | null])
      if (yes) handle?.ref();
      else handle?.unref();
  }

  kill(): void {
    this.process.kill('SIGKILL');
  }

  private answer(outcome: ReaderOutcome): void {
    // A limit is a fault of the file, and told to whoever sent it; what V8 prints about it is of no use here.
    if (this.waiting && (outcome.type === 'failed' || outcome.type === 'died')) console.error(`A reader failed. ${this.said}`);
    this.waiting?.(outcome);
    this.waiting = null;
  }

  private finish(end: ReaderEnd): void {
    this.end = end;
    this.answer(end);
    this.ended();
  }
}

function endOf(signal: NodeJS.Signals | null): ReaderEnd {
  if (signal === OVER_TIME_SIGNAL) return { type: 'over time' };
  if (signal === OVER_MEMORY_SIGNAL || signal === HEAP_FULL_SIGNAL) return { type: 'over memory' };
  return { type: 'died' };
}

export class ReaderPool {
  private idle: Reader[] = [];
  private idleTimer: NodeJS.Timeout | undefined;

  /** `entry`: arguments for Node that start a reader. */
  constructor(
    private readonly heapMegabytes: number,
    private readonly entry: readonly string[] = ENTRY,
  ) {}

  /** Never rejects. */
  async run(task: ReaderTask): Promise<ReaderOutcome> {
    clearTimeout(this.idleTimer);
    const reader = this.idle.pop() ?? this.start();
    const outcome = await reader.run(task);
    if (reader.alive) this.rest(reader);
    if (this.idle.length === 0) this.rest(this.start());
    this.idleTimer = setTimeout(() => this.dispose(), IDLE_MS);
    this.idleTimer.unref();
    return outcome;
  }

  /** Ends the processes that wait for tasks. */
  dispose(): void {
    clearTimeout(this.idleTimer);
    for (const reader of this.idle.splice(0)) reader.kill();
  }

  private start(): Reader {
    const reader: Reader = new Reader(this.heapMegabytes, this.entry, () => {
      this.idle = this.idle.filter((one) => one !== reader);
    });
    return reader;
  }

  private rest(reader: Reader): void {
    if (this.idle.length >= MOST_IDLE) return reader.kill();
    reader.keepServerAlive(false);
    this.idle.push(reader);
  }
}

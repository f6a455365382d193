/** Threads that bake, as many as there are cores: each tile goes to one that is free. One that dies is replaced, its tile fails. */
import { availableParallelism } from 'node:os';
import { resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { Worker } from 'node:worker_threads';
import { MOST_MODELS, MOST_SHARES } from '../../core/bake/desk';
import { sharesOf, type BakeSpec } from '../../core/kinds/bakes/spec';
import type { BakedAnswer, FromThread, ToThread } from './messages';

/** It fails however often it is tried: one sentence. */
export class FinalFault extends Error {}
export class Cancelled extends Error {
  constructor() {
    super('The bake was cancelled.');
  }
}

export interface ModelFile {
  name: string;
  bytes: Uint8Array;
}

interface Thread {
  worker: Worker;
  models: Set<string>;
  shares: Set<string>;
  job: Job | null;
}

interface Job {
  id: number;
  spec: BakeSpec;
  message: Extract<ToThread, { id: number; spec: BakeSpec }>;
  resolve: (answer: FromThread) => void;
  reject: (error: Error) => void;
}

type Ask = { type: 'tiles'; spec: BakeSpec } | { type: 'tile'; spec: BakeSpec; tile: number; pack: boolean };

export class BakePool {
  private threads: Thread[] = [];
  private waiting: Job[] = [];
  private nextId = 1;
  private closed = false;

  /** `fetch`: a model's file by its address; null: it is not there any more. */
  constructor(
    private readonly fetch: (address: string) => Promise<ModelFile | null>,
    readonly size = availableParallelism(),
  ) {}

  async tiles(spec: BakeSpec, signal?: AbortSignal): Promise<number[]> {
    const answer = await this.ask({ type: 'tiles', spec }, signal);
    return answer.type === 'tiles' ? answer.tiles : [];
  }

  /** null: nothing of the model lies there. `pack`: ready to be kept. */
  async tile(
    spec: BakeSpec,
    tile: number,
    { pack = false, signal }: { pack?: boolean; signal?: AbortSignal } = {},
  ): Promise<BakedAnswer | null> {
    const answer = await this.ask({ type: 'tile', spec, tile, pack }, signal);
    return answer.type === 'tile' ? answer.tile : null;
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const job of this.waiting.splice(0)) job.reject(new Cancelled());
    await Promise.all(this.threads.map(({ worker }) => worker.terminate()));
  }

  private ask(what: Ask, signal?: AbortSignal): Promise<FromThread> {
    if (signal?.aborted) return Promise.reject(new Cancelled());
    return new Promise((resolve, reject) => {
      const id = this.nextId++;
      const job: Job = { id, spec: what.spec, message: { ...what, id }, resolve, reject };
      const stop = () => this.cancel(job);
      signal?.addEventListener('abort', stop, { once: true });
      const done = () => signal?.removeEventListener('abort', stop);
      job.resolve = (answer) => (done(), resolve(answer));
      job.reject = (error) => (done(), reject(error));
      this.waiting.push(job);
      this.next();
    });
  }

  private cancel(job: Job): void {
    const at = this.waiting.indexOf(job);
    if (at >= 0) this.waiting.splice(at, 1);
    this.threads.find((t) => t.job === job)?.worker.postMessage({ type: 'cancel', id: job.id } satisfies ToThread);
    job.reject(new Cancelled());
  }

  private next(): void {
    if (this.closed) return;
    while (this.waiting.length > 0) {
      const thread = this.threads.find((t) => !t.job) ?? (this.threads.length < this.size ? this.begin() : null);
      if (!thread) return;
      const job = this.waiting.shift()!;
      thread.job = job;
      void this.give(thread, job);
    }
  }

  /** Hands in the models first that the thread does not have yet. */
  private async give(thread: Thread, job: Job): Promise<void> {
    try {
      for (const address of [job.spec.model, ...(job.spec.twin ? [job.spec.twin.file] : [])]) {
        // What its desk has let go is handed in again: both keep those used last.
        if (thread.models.delete(address)) {
          thread.models.add(address);
          continue;
        }
        const file = await this.fetch(address);
        if (!file) throw new FinalFault('The model is not there any more: open the piece again, or choose the dense model anew.');
        thread.models.add(address);
        if (thread.models.size > MOST_MODELS) thread.models.delete(thread.models.values().next().value!);
        thread.worker.postMessage({ type: 'model', address, ...file } satisfies ToThread);
      }
      await this.giveShares(thread, sharesOf(job.spec));
      thread.worker.postMessage(job.message);
    } catch (error) {
      thread.job = null;
      job.reject(error as Error);
      this.next();
    }
  }

  /** All of them, where one is not there: what its desk lets go is that which came first. */
  private async giveShares(thread: Thread, addresses: readonly string[]): Promise<void> {
    if (addresses.every((a) => thread.shares.has(a))) return;
    for (const address of addresses) {
      const file = await this.fetch(address);
      if (!file) throw new FinalFault('The mask of its reach is not there any more: choose the mask again.');
      thread.shares.delete(address);
      thread.shares.add(address);
      if (thread.shares.size > MOST_SHARES) thread.shares.delete(thread.shares.values().next().value!);
      thread.worker.postMessage({ type: 'share', address, bytes: file.bytes } satisfies ToThread);
    }
  }

  private begin(): Thread {
    // A new thread does not know TypeScript yet: it learns it first (Node 20 does not take --import there).
    const url = pathToFileURL(resolve('src/server/bakes/thread.ts')).href;
    const entry = `import('tsx/esm/api').then(({ register }) => { register(); return import(${JSON.stringify(url)}); })`;
    const worker = new Worker(entry, { eval: true });
    const thread: Thread = { worker, models: new Set(), shares: new Set(), job: null };
    this.threads.push(thread);
    worker.on('message', (answer: FromThread) => {
      const { job } = thread;
      // What was given up in the meantime is done all the same, and then the thread is free.
      if (!job || job.id !== answer.id) return;
      thread.job = null;
      if (answer.type === 'failed') job.reject(answer.final ? new FinalFault(answer.message) : new Error(answer.message));
      else if (answer.type === 'cancelled') job.reject(new Cancelled());
      else job.resolve(answer);
      this.next();
    });
    const gone = (why: string) => {
      const at = this.threads.indexOf(thread);
      if (at < 0) return;
      this.threads.splice(at, 1);
      thread.job?.reject(new Error(why));
      this.next();
    };
    worker.on('error', (error) => gone(`A baking thread failed: ${error.message}`));
    worker.on('exit', () => gone('A baking thread ended.'));
    return thread;
  }
}

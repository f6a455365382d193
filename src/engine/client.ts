/** The page's end of the engine: starts the worker, sends requests, hands out events. */
import type { Answers, Event, Question, Request } from './protocol';

export class EngineClient {
  private worker: Worker;
  private nextId = 1;
  private waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>();

  constructor(onEvent: (event: Event) => void) {
    this.worker = new Worker(new URL('./engine.worker.ts', import.meta.url), { type: 'module' });
    this.worker.onmessage = (message: MessageEvent<Event>) => {
      const event = message.data;
      if (event.type === 'answer') this.waiting.get(event.id)?.resolve(event.answer as never);
      else if (event.type === 'no-answer') this.waiting.get(event.id)?.reject(new Error(event.message));
      else return onEvent(event);
      this.waiting.delete(event.id);
    };
    this.worker.onerror = (error) =>
      onEvent({
        type: 'failed',
        message: `The painting engine stopped (${error.message || 'unknown cause'}): reload the page. Nothing that was kept is lost.`,
      });
  }

  send(request: Request): void {
    this.worker.postMessage(request);
  }

  freshId(): number {
    return this.nextId++;
  }

  ask<Q extends Question>(question: Q): Promise<Answers[Q['ask']]> {
    const id = this.freshId();
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve: resolve as (answer: never) => void, reject });
      this.send({ type: 'question', id, question });
    });
  }

  close(): void {
    this.worker.terminate();
  }
}

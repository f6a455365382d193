/** The page's end of the engine: starts the worker, sends requests, hands out events. */
import type { Event, PickedValues, PickPlace, Request } from './protocol';

export class EngineClient {
  private worker: Worker;
  private nextId = 1;
  private picks = new Map<number, (picked: PickedValues | null) => void>();

  constructor(onEvent: (event: Event) => void) {
    this.worker = new Worker(new URL('./engine.worker.ts', import.meta.url), { type: 'module' });
    this.worker.onmessage = (message: MessageEvent<Event>) => {
      const event = message.data;
      if (event.type === 'picked') {
        this.picks.get(event.id)?.(event.picked);
        this.picks.delete(event.id);
      } else onEvent(event);
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

  pick(sheetId: string, place: PickPlace): Promise<PickedValues | null> {
    const id = this.freshId();
    return new Promise((resolve) => {
      this.picks.set(id, resolve);
      this.send({ type: 'pick', id, sheetId, place });
    });
  }

  close(): void {
    this.worker.terminate();
  }
}

/** Calls to a worker: each is answered once, by its number, and all that wait fail when the other side is gone. */
interface Waiting {
  resolve: (answer: never) => void;
  reject: (error: Error) => void;
}

export class Calls {
  private waiting = new Map<number, Waiting>();
  private nextId = 1;
  /** Why there is nobody any more. */
  private gone: string | null = null;

  freshId(): number {
    return this.nextId++;
  }

  /** Sends a call of that number. Rejects when it fails, when it can't be sent, and when the other side is gone. */
  make<T>(id: number, send: () => void): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      if (this.gone !== null) return reject(new Error(this.gone));
      this.waiting.set(id, { resolve: resolve as (answer: never) => void, reject });
      try {
        send();
      } catch (error) {
        this.fail(id, (error as Error).message);
      }
    });
  }

  answer(id: number, answer: unknown): void {
    this.waiting.get(id)?.resolve(answer as never);
    this.waiting.delete(id);
  }

  fail(id: number, message: string): void {
    this.waiting.get(id)?.reject(new Error(message));
    this.waiting.delete(id);
  }

  /** Nobody answers from now on. */
  end(why: string): void {
    this.gone ??= why;
    for (const id of [...this.waiting.keys()]) this.fail(id, why);
  }
}

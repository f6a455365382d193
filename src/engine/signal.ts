/** What happens often and is nobody's state: whoever listens is told. State that is shown lies in a zustand store. */
export class Signal<T = void> {
  private listeners = new Set<(value: T) => void>();

  /** Until what it gives is called. */
  listen(listener: (value: T) => void): () => void {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  }

  tell(value: T): void {
    for (const listener of [...this.listeners]) listener(value);
  }
}

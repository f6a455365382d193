/** Carries out work one after another. */
export class InOrder {
  private last: Promise<void> = Promise.resolve();

  /** Settles as the work does. A failure does not hold up what comes after it. */
  add(work: () => void | Promise<void>): Promise<void> {
    const done = this.last.then(work);
    this.last = done.catch(() => undefined);
    return done;
  }

  /** Resolves when everything that was added by now is done. */
  get done(): Promise<void> {
    return this.last;
  }
}

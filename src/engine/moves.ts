/**
 * Undo and redo. What is in memory is done at once; what must be fetched first waits beside the pen, not before it: it is
 * done when its pixels are there, unless something else was done meanwhile.
 */
import type { Direction, History } from './history';

export interface Move {
  direction: Direction;
  id: string;
  serial: number;
}

/** The engine, as undo and redo need it. */
export interface Mover {
  history: () => History;
  /** Goes up with everything that is done to the piece but undo and redo. */
  changeCount: () => number;
  step: (direction: Direction, id: string) => void;
  enqueue: (work: () => Promise<void>) => void;
  /** It came to nothing. */
  nothing: (id: string) => void;
  say: (message: string) => void;
  done: (serial: number) => void;
  failed: (move: Move, error: unknown) => void;
}

export class Moves {
  private waiting: (Move & { changes: number })[] = [];
  /** Until all that waits is done. */
  moving: Promise<void> | null = null;

  constructor(private engine: Mover) {}

  ask(move: Move): void {
    const asked = { ...move, changes: this.engine.changeCount() };
    if (this.waiting.length === 0 && this.tryIt(asked)) return;
    this.waiting.push(asked);
    this.moving ??= this.goOn().finally(() => (this.moving = null));
  }

  clear(): void {
    this.waiting = [];
  }

  /** The step that an undo would need next is brought into memory in good time. */
  fetchNext(): void {
    const history = this.engine.history();
    if (this.waiting.length > 0 || history.next('undo') === null || history.ready('undo')) return;
    void history.fetch('undo').catch(() => undefined);
  }

  /** false: pixels are missing. */
  private tryIt({ direction, id, serial, changes }: Move & { changes: number }): boolean {
    const { engine } = this;
    const late = changes !== engine.changeCount();
    const possible = engine.history().next(direction) !== null && !late;
    if (possible && !engine.history().ready(direction)) return false;
    if (possible) engine.step(direction, id);
    else {
      engine.nothing(id);
      if (late) engine.say(`The ${direction} came too late, after what was done since: ask for it once more.`);
    }
    engine.done(serial);
    this.fetchNext();
    return true;
  }

  private async goOn(): Promise<void> {
    for (let move = this.waiting[0]; move; move = this.waiting[0]) {
      try {
        await this.engine.history().fetch(move.direction);
        await new Promise<void>((resolve) =>
          this.engine.enqueue(async () => {
            // A renewal may have emptied the list.
            if (this.waiting[0] === move && this.tryIt(move)) this.waiting.shift();
            resolve();
          }),
        );
      } catch (error) {
        this.waiting.shift();
        this.engine.failed(move, error);
      }
    }
  }
}

/**
 * Undo and redo. What is in memory is done at once; what must be fetched first does not block the pen: it is done when its pixels are
 * here, unless something else was done meanwhile.
 */
import type { Changes } from './changes';
import type { Direction } from './history';
import type { InOrder } from '../inOrder';
import type { Event } from '../protocol';
import type { OpenPiece } from '../state';

export interface Move {
  direction: Direction;
  id: string;
  serial: number;
}

export interface MovesOptions {
  post: (event: Event) => void;
  /** It was asked for and changed nothing. */
  nothing: (id: string) => void;
  failed: (move: Move, error: unknown) => void;
}

export class Moves {
  private waiting: (Move & { changes: number })[] = [];
  /** Until everything that waits is done. */
  moving: Promise<void> | null = null;

  constructor(
    private open: OpenPiece,
    private changes: Changes,
    private requests: InOrder,
    private options: MovesOptions,
  ) {}

  ask(move: Move): void {
    const asked = { ...move, changes: this.open.changeCount };
    if (this.waiting.length === 0 && this.tryIt(asked)) return;
    this.waiting.push(asked);
    this.moving ??= this.goOn().finally(() => (this.moving = null));
  }

  clear(): void {
    this.waiting = [];
  }

  /** Fetches the step that an undo would need next, in good time. */
  fetchNext(): void {
    const { history } = this.open;
    if (this.waiting.length > 0 || history.next('undo') === null || history.ready('undo')) return;
    void history.fetch('undo').catch(() => undefined);
  }

  /** false: pixels are missing. */
  private tryIt({ direction, id, serial, changes }: Move & { changes: number }): boolean {
    const { open, options } = this;
    const late = changes !== open.changeCount;
    const possible = open.history.next(direction) !== null && !late;
    if (possible && !open.history.ready(direction)) return false;
    if (possible) this.changes.step(direction, id);
    else {
      options.nothing(id);
      const message = `The ${direction} came too late, after what was done since: ask for it once more.`;
      if (late) options.post({ type: 'notice', message });
    }
    this.changes.report(serial);
    this.fetchNext();
    return true;
  }

  private async goOn(): Promise<void> {
    for (let move = this.waiting[0]; move; move = this.waiting[0]) {
      try {
        await this.open.history.fetch(move.direction);
        await this.requests.add(() => {
          // A renewal may have emptied the list.
          if (this.waiting[0] === move && this.tryIt(move)) this.waiting.shift();
        });
      } catch (error) {
        this.waiting.shift();
        this.options.failed(move, error);
      }
    }
  }
}

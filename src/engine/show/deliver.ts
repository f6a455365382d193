/**
 * Sends texels to the page: what somebody waits for at once, what is filled in behind a few times a second, since the page draws a whole
 * frame for each batch.
 */
import type { Event, PixelPatch } from '../protocol';

/** How long texels that nobody waits for are held back. */
const HOLD_MS = 250;

export interface DeliveryOptions {
  post: (event: Event, transfer?: Transferable[]) => void;
  now: () => number;
}

export class Delivery {
  private held: PixelPatch[] = [];
  private sentAt = 0;
  private saidExact = false;

  constructor(private options: DeliveryOptions) {}

  /**
   * `strokeAt`: time stamp of the pointer event that these texels show. `exact`: nothing is left to render, which the page is told once.
   * `urgent`: nothing is held back.
   */
  send(patches: readonly PixelPatch[], how: { strokeAt: number | null; exact: boolean; urgent: boolean }): void {
    const { strokeAt, exact, urgent } = how;
    this.held.push(...patches);
    const due = urgent || exact || this.options.now() - this.sentAt > HOLD_MS;
    if (due && (this.held.length > 0 || (exact && !this.saidExact))) {
      const all = this.held;
      this.held = [];
      this.sentAt = this.options.now();
      this.options.post(
        { type: 'pixels', patches: all, strokeAt, exact },
        all.map((p) => p.data.buffer),
      );
    }
    this.saidExact = exact;
  }
}

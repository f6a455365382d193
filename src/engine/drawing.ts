/** When what is drawn: in slices between other things, coarsely first where it takes long, by helpers where there are any. */
import type { DirtyRect } from '../core/hand/stroke';
import type { Piece } from '../core/document/schema';
import type { TileChange, TileStore } from '../core/tile/tiles';
import { Display } from './display';
import type { HelperPort } from './helper';
import { Pool } from './pool';
import type { Event, PixelPatch, Viewing } from './protocol';
import { soloed } from './solo';

export interface DrawingOptions {
  store: TileStore;
  post: (event: Event, transfer?: Transferable[]) => void;
  now: () => number;
  /** Runs a callback after the messages that wait now. */
  later: (callback: () => void) => void;
  /** Lays what a running stroke has reached onto the tiles; whether there is such a stroke. */
  flush: () => boolean;
}

/** A slice: short enough that a pen at 120 Hz never waits two events. */
const SLICE_MS = 10;
/** How long texels that nobody waits for are held. */
const HOLD_MS = 250;
/** What is expected to take longer than this is shown coarsely first. */
const COARSE_FROM_MS = 120;

export class Drawing {
  readonly display: Display;
  /** The document with a passing edit on it, as it is looked at. null: nothing is drawn yet. */
  private shown: Piece | null = null;
  private asked: Piece | null = null;
  private awaitedFor: Piece | null = null;
  private viewing: Viewing = { look: null, solo: [], hot: null, visible: null };
  private pool: Pool | null = null;
  /** They are started once there is something to hand out: until then what was kept, and the pen, have the processors. */
  private helpers: (() => HelperPort[]) | undefined;
  private pumping = false;
  private keeping = false;
  /** Time stamp of the newest pointer event that waits to be seen. */
  private strokeAt: number | null = null;
  private stroking = false;
  private held: PixelPatch[] = [];
  private deliveredAt = 0;
  private coarsened = false;
  /** Everything has been drawn exactly since the piece was opened. */
  private exactOnce = false;
  /** The page knows that nothing is left to be drawn. */
  private saidExact = false;
  /** Nothing was evaluated yet, and nothing is to be for a while. */
  private cold = false;
  /** What a tile of a plane takes to draw; a guess to begin with. */
  private msPerTile = 4;

  constructor(private options: DrawingOptions) {
    this.display = new Display(options.store);
  }

  /** From now on what was kept is shown; texels are not at hand yet. */
  beginKept(focus: string): void {
    this.display.focus = focus;
    this.display.onlyKept = true;
  }

  /** From now on everything is drawn, with `helpers` where there are any. `lost`: some texels are not at hand. */
  begin(helpers: (() => HelperPort[]) | undefined, focus: string, lost = false): void {
    this.helpers = helpers;
    this.display.filled(lost);
    this.cold = this.waits || this.display.anythingKept;
    this.display.focus = focus;
  }

  /** Tiles that are not cached are not rendered yet: their texels, or tiles rendered elsewhere, are still being fetched. */
  private get waits(): boolean {
    return this.display.onlyKept || this.display.awaited;
  }

  /** Tiles that were rendered elsewhere are being fetched into the shelves. */
  await(piece: Piece): void {
    this.awaitedFor = piece;
    this.display.awaited = true;
  }

  /** Some of the tiles that were rendered elsewhere have arrived. `all`: no more will. */
  arrived(all: boolean): void {
    if (all) this.display.awaited = false;
    this.display.keptDue = this.display.anythingKept;
    if (!this.asked) return;
    // All that was cached before has been shown: look through all tiles again.
    if (this.display.onlyKept && this.display.pending === 0) this.show(this.asked);
    else this.pump();
  }

  private handOut(shown: Piece): void {
    if (this.display.awaited) return;
    if (this.helpers && (!this.display.keptDue || this.display.pending === 0)) {
      this.pool = new Pool(this.helpers(), this.options.store, (patches) => this.deliver(patches, null), this.display);
      this.pool.tellAll();
      this.helpers = undefined;
    }
    this.pool?.handOut(shown);
  }

  /** Keeps what is drawn for another day, in slices, while nothing else is to be done; `done`: all of it. */
  keep(done?: () => void): void {
    const { shown } = this;
    if (!shown || this.keeping || this.busy || this.stroking || this.viewing.solo.length > 0) return;
    this.keeping = true;
    this.options.later(() => {
      this.keeping = false;
      if (this.shown !== shown || this.busy) return;
      const start = this.options.now();
      if (this.display.keep(shown, () => this.options.now() > start + SLICE_MS)) done?.();
      else this.keep(done);
    });
  }

  get busy(): boolean {
    return this.display.pending > 0 || (this.pool?.busy ?? false);
  }

  /** When what the pen did last has been seen, by way of the queue of messages. */
  async penSeen(): Promise<void> {
    do await new Promise<void>((resolve) => this.options.later(resolve));
    while (this.strokeAt !== null && this.busy);
  }

  /** Says whether something else is to be seen than before: what lies in the pane changes only what is drawn first. */
  view(viewing: Viewing): boolean {
    const shows = ({ look, solo }: Viewing) => JSON.stringify([look, solo]);
    const same = shows(viewing) === shows(this.viewing);
    this.viewing = viewing;
    this.display.look = viewing.look;
    this.display.visible = viewing.visible;
    this.display.workOn(viewing.hot);
    return !same;
  }

  /** Draws what differs from what is drawn. */
  show(piece: Piece): void {
    this.asked = piece;
    // Something else than what others have drawn is to be seen: that is not waited for.
    if (piece.sheets !== this.awaitedFor?.sheets) this.display.awaited = false;
    this.shown = soloed(piece, this.viewing.solo);
    // Nothing to show before texels are at hand.
    if (this.display.onlyKept && !this.display.anythingKept) return;
    this.display.refresh(this.shown);
    this.coarsened = false;
    this.pump();
  }

  /** Tiles have other texels. */
  changed(changes: readonly TileChange[]): void {
    this.display.changed();
    for (const c of changes) this.pool?.tell(c.plane, c.tile);
  }

  /** A running stroke has reached rectangles of tiles on some planes. */
  painted(sheetId: string, planes: readonly string[], rects: readonly DirtyRect[], at: number): void {
    this.strokeAt = at;
    this.display.changed();
    for (const rect of rects)
      for (const plane of planes) {
        this.pool?.tell(plane, rect.tile);
        this.display.markPaint(this.shown!, sheetId, plane, rect.tile, rect);
      }
  }

  pump(): void {
    if (this.pumping) return;
    this.pumping = true;
    this.options.later(() => {
      this.pumping = false;
      this.stroking = this.options.flush();
      const { shown } = this;
      if (!shown) return;
      if (this.cold) {
        this.cold = false;
        if (this.strokeAt === null) this.display.warmUp(shown);
      }
      // What waits to be seen under the pen comes before what others are told.
      if (this.strokeAt === null) this.handOut(shown);
      const kept = this.waits || this.display.keptDue;
      if (!kept) this.coarsen(shown);
      const start = this.options.now();
      const before = this.display.pending;
      const patches = this.display.work(shown, () => this.options.now() > start + SLICE_MS);
      // A running mean over the last tiles or so.
      const drawn = before - this.display.pending;
      if (drawn > 0 && !this.stroking && !kept) this.msPerTile += ((this.options.now() - start) / drawn - this.msPerTile) * 0.2;
      if (this.display.pending === 0) this.exactOnce = true;
      const strokeAt = this.display.pending === 0 || this.display.drewTouched ? this.strokeAt : null;
      this.deliver(patches, strokeAt);
      if (patches.length && strokeAt !== null) this.strokeAt = null;
      this.handOut(shown);
      const { pending } = this.display;
      if (pending > 0 && (!this.waits || pending < before)) this.pump();
    });
  }

  /** What will take long is shown coarsely first: all of it when a piece opens, what is seen while something is dragged. */
  private coarsen(shown: Piece): void {
    if (this.coarsened || this.stroking) return;
    this.coarsened = true;
    const seen = this.exactOnce;
    if (this.display.wholePending(seen) * this.msPerTile < COARSE_FROM_MS) return;
    this.deliver(this.display.coarse(shown, seen), null, true);
  }

  /**
   * Hands texels to the page. A stroke's go at once; what is filled in behind goes a few times a second, since the page
   * draws a whole frame for each batch.
   */
  private deliver(patches: PixelPatch[], strokeAt: number | null, atOnce = false): void {
    this.held.push(...patches);
    const due =
      atOnce ||
      this.display.onlyKept ||
      this.stroking ||
      strokeAt !== null ||
      !this.busy ||
      // Nothing more is drawn until something comes.
      (this.waits && patches.length === 0) ||
      this.options.now() - this.deliveredAt > HOLD_MS;
    const exact = !this.busy;
    if (due && (this.held.length || (exact && !this.saidExact))) {
      const all = this.held;
      this.held = [];
      this.deliveredAt = this.options.now();
      this.options.post(
        { type: 'pixels', patches: all, strokeAt, exact },
        all.map((p) => p.data.buffer),
      );
    }
    this.saidExact = exact;
    // A helper that comes back may find more to do.
    if (this.display.pending > 0 && !this.waits) this.pump();
  }
}

/**
 * Shows a piece: renders what is out of date in slices between messages, and sends it to the page. The order of sources is phase.ts's
 * matter, the order of tiles queue.ts's, what goes out when deliver.ts's.
 */
import type { Piece } from '../../core/document/schema';
import type { DirtyRect } from '../../core/hand/stroke';
import type { TileChange, TileStore } from '../../core/tile/tiles';
import type { PixelPatch, Viewing } from '../protocol';
import type { Clock } from '../turns';
import { Delivery, type DeliveryOptions } from './deliver';
import type { HelperPort } from './helper';
import { after, isWaiting, lacksTexels, type Phase, type PhaseEvent } from './phase';
import { Renderer } from './renderer';
import { soloed } from './solo';

/** Where a running stroke has got to. */
export interface Reached {
  sheetId: string;
  /** Keys of the planes that it writes. */
  planes: readonly string[];
  rects: readonly DirtyRect[];
  /** Time stamp of the newest pointer event in it. */
  at: number;
}

/** The pen, as far as showing goes. */
export interface Pen {
  /** A stroke is being painted. */
  readonly isDown: boolean;
  /** Writes what the stroke has reached since the last call to the tiles; null: nothing. */
  flush(): Reached | null;
}

export interface ShowOptions extends Clock, DeliveryOptions {
  store: TileStore;
  pen: Pen;
}

/** A slice: short enough that a pen at 120 Hz never waits two events. */
const SLICE_MS = 10;

export class Show {
  readonly renderer: Renderer;
  private delivery: Delivery;
  private phase: Phase = 'closed';
  /** The document with a passing edit on it, all layers as they are. */
  private asked: Piece | null = null;
  /** The sheets whose rendered tiles are being fetched from the server. */
  private fetchedFor: Piece['sheets'] | null = null;
  private viewing: Viewing = { look: null, solo: [], hot: null, visible: null };
  private scheduled = false;

  constructor(private options: ShowOptions) {
    this.renderer = new Renderer(options.store, options.now);
    this.delivery = new Delivery(options);
    this.renderer.helpers.rendered.listen((patches) => this.deliver(patches, { strokeAt: null, urgent: false }));
  }

  private advance(event: PhaseEvent): void {
    this.phase = after(this.phase, event);
  }

  /** The document is here, its texels are not: what is cached is shown. */
  beginCached(focus: string): void {
    const { planes } = this.renderer;
    planes.focus = focus;
    planes.hasTexels = false;
    this.advance('document');
  }

  /** Document and texels are here. `helpers` starts threads that render beside this one. `lost`: some texels are missing for good. */
  begin(helpers: (() => HelperPort[]) | undefined, focus: string, lost = false): void {
    const { planes, cached, here, strokes } = this.renderer;
    this.renderer.helpers.use(helpers);
    planes.focus = focus;
    planes.hasTexels = true;
    if (lost) planes.forgetWanted();
    const nothingToRender = isWaiting(this.phase) || !cached.isEmpty;
    this.advance('texels');
    if (!nothingToRender) return;
    this.options.later(() => {
      if (strokes.unseen === null) here.warmUp();
    });
  }

  /** Rendered tiles of the document are being fetched from the server into the cache. */
  fetching(piece: Piece): void {
    this.fetchedFor = piece.sheets;
    this.advance('fetch');
  }

  /** Some of them have arrived. `all`: no more will. */
  fetched(all: boolean): void {
    if (all) this.advance('fetched');
    this.renderer.cached.lookAgain();
    if (!this.asked) return;
    // All that was cached before has been shown: look through all tiles again.
    if (lacksTexels(this.phase) && this.renderer.planes.pending === 0) this.show(this.asked);
    else this.schedule();
  }

  get busy(): boolean {
    return this.renderer.busy;
  }

  /** Rendered tiles are still being fetched. */
  get isFetching(): boolean {
    return this.phase === 'fetching' || this.phase === 'cached-fetching';
  }

  /** Nothing is to be rendered, nothing is being painted, and all layers are shown: what is shown is the document. */
  get isAtRest(): boolean {
    return this.asked !== null && !this.busy && !this.options.pen.isDown && this.viewing.solo.length === 0;
  }

  /** Resolves when what the pen did last has been sent to the page, by way of the message queue. */
  async penSeen(): Promise<void> {
    do await new Promise<void>((resolve) => this.options.later(resolve));
    while (this.renderer.strokes.unseen !== null && this.busy);
  }

  /** The sheet that is worked on: rendered first. */
  focusOn(sheetId: string): void {
    this.renderer.planes.focus = sheetId;
  }

  /** Returns whether something else is to be seen than before. What lies in the pane changes only the order. */
  view(viewing: Viewing): boolean {
    const seen = ({ look, solo }: Viewing) => JSON.stringify([look, solo]);
    const same = seen(viewing) === seen(this.viewing);
    const { planes } = this.renderer;
    this.viewing = viewing;
    planes.look = viewing.look;
    planes.visible = viewing.visible;
    planes.workOn(viewing.hot);
    return !same;
  }

  /** Renders what differs from what is shown. */
  show(piece: Piece): void {
    this.asked = piece;
    // What is being fetched belongs to another document: it is not waited for.
    if (piece.sheets !== this.fetchedFor) this.advance('fetched');
    if (lacksTexels(this.phase) && this.renderer.cached.isEmpty) return;
    this.renderer.refresh(soloed(piece, this.viewing.solo));
    this.schedule();
  }

  /** Tiles have other texels. */
  changed(changes: readonly TileChange[]): void {
    this.renderer.planes.changed();
    for (const { plane, tile } of changes) this.renderer.helpers.tell(plane, tile);
  }

  /** Works a slice after the messages that are queued now. */
  schedule(): void {
    if (this.scheduled) return;
    this.scheduled = true;
    this.options.later(() => {
      this.scheduled = false;
      this.slice();
    });
  }

  private slice(): void {
    const { renderer, options } = this;
    const reached = options.pen.flush();
    if (reached) this.painted(reached);
    if (!renderer.planes.piece) return;
    const until = options.now() + SLICE_MS;
    const before = renderer.planes.pending;
    const { patches, from } = renderer.work({
      until: () => options.now() > until,
      phase: this.phase,
      stroking: options.pen.isDown,
    });
    const { pending } = renderer.planes;
    const { strokes } = renderer;
    const strokeAt = pending === 0 || from === 'strokes' ? strokes.unseen : null;
    if (patches.length > 0 && strokeAt !== null) strokes.unseen = null;
    this.deliver(patches, { strokeAt, urgent: from === 'coarse' });
    if (pending === 0) this.advance('exact');
    if (pending > 0 && isWaiting(this.phase) && pending < before) this.schedule();
  }

  /** A running stroke has reached tiles. */
  painted({ sheetId, planes: keys, rects, at }: Reached): void {
    const { planes, helpers, strokes } = this.renderer;
    strokes.unseen = at;
    planes.changed();
    for (const rect of rects)
      for (const key of keys) {
        helpers.tell(key, rect.tile);
        planes.markPaint(sheetId, key, rect.tile, rect);
      }
  }

  private deliver(patches: readonly PixelPatch[], { strokeAt, urgent }: { strokeAt: number | null; urgent: boolean }): void {
    const waiting = isWaiting(this.phase);
    this.delivery.send(patches, {
      strokeAt,
      exact: !this.busy,
      urgent:
        urgent ||
        strokeAt !== null ||
        this.options.pen.isDown ||
        lacksTexels(this.phase) ||
        // Nothing more is rendered until something arrives.
        (waiting && patches.length === 0),
    });
    // A helper that comes back may find more to do.
    if (this.renderer.planes.pending > 0 && !waiting) this.schedule();
  }
}

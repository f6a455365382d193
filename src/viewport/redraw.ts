/**
 * When which pane is drawn: only when something in it changed, never while the card still works at the frame before, and what nobody
 * waits for seldom enough that drawing takes a small share of the time. Without a card the processor that evaluates draws too.
 */
export type PaneName = 'model' | 'flat';

/** What nobody waits for is drawn after this many times what a frame takes … */
const REST = 4;
/** … but this late at the latest, in milliseconds. */
const LATEST_MS = 1500;

export class Redraw {
  private asked = new Map<PaneName, { waited: boolean; since: number }>();
  private frame = 0;
  /** The card's answer when it is through with the last frame. */
  private fence: WebGLSync | null = null;
  private begunAt = 0;
  /** What the last frame in which a pane was drawn took until the card was through with it. */
  private took: Record<PaneName, number>;
  private begunPanes: PaneName[] = [];
  /** There is nothing to be seen yet: nothing is drawn. */
  private held = true;

  constructor(
    private gl: Pick<WebGL2RenderingContext, 'fenceSync' | 'flush' | 'clientWaitSync' | 'deleteSync'> &
      Record<FenceNames, number>,
    private draw: (panes: PaneName[]) => void,
    private frames: Frames = PAGE,
    /** A guess at what a frame takes, until one was drawn. */
    expectedMs = 0,
  ) {
    this.took = { model: expectedMs, flat: expectedMs };
  }

  /** Something was drawn already. */
  get begun(): boolean {
    return this.begunAt > 0;
  }

  /** From now on there is something to be seen. */
  release(): void {
    this.held = false;
    if (this.asked.size > 0) this.next();
  }

  /** `waited`: it is drawn with the next frame. */
  ask(pane: PaneName, waited = true): void {
    const before = this.asked.get(pane);
    this.asked.set(pane, {
      waited: (waited && !this.held) || (before?.waited ?? false),
      since: before?.since ?? this.frames.now(),
    });
    if (!this.held) this.next();
  }

  /** What was asked for so far is waited for from now on. */
  hurry(): void {
    for (const pane of this.asked.keys()) this.ask(pane);
  }

  private next(): void {
    this.frame ||= this.frames.request(() => {
      this.frame = 0;
      this.turn();
    });
  }

  private turn(): void {
    const { gl } = this;
    const now = this.frames.now();
    if (this.fence) {
      if (gl.clientWaitSync(this.fence, 0, 0) === gl.TIMEOUT_EXPIRED) return this.next();
      gl.deleteSync(this.fence);
      this.fence = null;
      for (const pane of this.begunPanes) this.took[pane] = now - this.begunAt;
    }
    if (this.asked.size === 0) return;
    const rest = (pane: PaneName) => Math.min(LATEST_MS, REST * this.took[pane]);
    const panes = [...this.asked].filter(([p, { waited, since }]) => waited || now - since >= rest(p)).map(([pane]) => pane);
    if (panes.length === 0) return this.next();
    for (const pane of panes) this.asked.delete(pane);
    this.begunAt = now;
    this.begunPanes = panes;
    this.draw(panes);
    this.fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    // To learn what it took, whether or not there is more to draw.
    this.next();
  }

  stop(): void {
    this.frames.cancel(this.frame);
    if (this.fence) this.gl.deleteSync(this.fence);
    this.fence = null;
    this.asked.clear();
  }
}

type FenceNames = 'SYNC_GPU_COMMANDS_COMPLETE' | 'TIMEOUT_EXPIRED';

/** The page's own frames and clock. */
interface Frames {
  request(callback: () => void): number;
  cancel(frame: number): void;
  now(): number;
}
const PAGE: Frames = {
  request: (callback) => requestAnimationFrame(callback),
  cancel: (frame) => cancelAnimationFrame(frame),
  now: () => performance.now(),
};

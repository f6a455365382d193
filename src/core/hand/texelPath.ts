/**
 * The way of a tip that is locked to the texel grid: each texel once as the pen passes, and no doubles at corners. Where the pen
 * turns from one texel through its neighbour to the one beside both, that neighbour is left out, and of steps that alternate the
 * one that the pen came less near to: straight lines come out as Bresenham has them (Algorithm for computer control of a digital
 * plotter, 1965).
 */
interface Step<T> {
  x: number;
  y: number;
  item: T;
  /** How far off its middle the pen passed at least, along both axes together, texels. */
  off: number;
}

const apartBy = (a: Step<unknown>, b: Step<unknown>, x: number, y: number): boolean =>
  Math.abs(a.x - b.x) === x && Math.abs(a.y - b.y) === y;

/** Along one axis, then along the other. */
const isCorner = (a: Step<unknown>, b: Step<unknown>, c: Step<unknown>): boolean =>
  (apartBy(a, b, 1, 0) && apartBy(b, c, 0, 1)) || (apartBy(a, b, 0, 1) && apartBy(b, c, 1, 0));

export class TexelPath<T> {
  private laid: Step<T> | null = null;
  /** One, or two that make a corner with the last one laid, wait for where the pen goes from there. */
  private waiting: Step<T>[] = [];

  /**
   * The pen is at a place of which the middles of texels are whole numbers; what is to be laid now, or null. The first is laid at
   * once.
   */
  add(atX: number, atY: number, item: T): T | null {
    const [x, y] = [Math.round(atX), Math.round(atY)];
    const off = Math.abs(atX - x) + Math.abs(atY - y);
    const { laid, waiting } = this;
    const here = waiting.at(-1) ?? laid;
    if (here && here.x === x && here.y === y) {
      here.off = Math.min(here.off, off);
      return null;
    }
    const next = { x, y, item, off };
    if (!laid) return (this.laid = next).item;
    const [b, c] = waiting;
    waiting.push(next);
    if (!b) return null;
    if (!c) return isCorner(laid, b, next) ? null : this.lay(0);
    const first = isCorner(b, c, next) && b.off <= c.off;
    return this.lay(first ? 0 : 1, first ? 2 : 1);
  }

  /** Of those that wait, one is laid; those before it, and up to `kept`, are left out. */
  private lay(which: number, kept = which + 1): T {
    this.laid = this.waiting[which];
    this.waiting = this.waiting.slice(Math.max(kept, which + 1));
    return this.laid.item;
  }

  /** The pen is up: what is still to be laid, or null. */
  end(): T | null {
    const last = this.waiting.at(-1);
    this.waiting = [];
    return last?.item ?? null;
  }
}

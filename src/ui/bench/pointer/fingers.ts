/** Fingers: two of them turn, slide and zoom what lies under them; none counts while a pen is near. */
import { Vector3 } from 'three';
import { sendViewing } from '../store';
import type { Pane } from './pane';
import { panePoint } from './samples';

/** A palm lands before and after the pen it belongs to. */
const PEN_NEAR_MS = 700;

interface Finger {
  x: number;
  y: number;
}

export class Fingers {
  private down = new Map<number, Finger>();
  private penAt = -Infinity;

  /** A pen was seen, hovering too. */
  pen(time: number): void {
    this.penAt = time;
  }

  isPalm(e: PointerEvent): boolean {
    return e.pointerType === 'touch' && e.timeStamp - this.penAt < PEN_NEAR_MS;
  }

  /** How many are down after this one. */
  press(e: PointerEvent, { box }: Pane): number {
    this.down.set(e.pointerId, panePoint(e, box));
    return this.down.size;
  }

  lift(e: PointerEvent): void {
    this.down.delete(e.pointerId);
    if (this.down.size === 0) sendViewing();
  }

  get count(): number {
    return this.down.size;
  }

  /** Two fingers: both panes slide and zoom and turn. */
  move(e: PointerEvent, pane: Pane): void {
    const { viewport, name, box } = pane;
    const at = this.down.get(e.pointerId);
    if (!at) return;
    const before = this.pair();
    const now = panePoint(e, box);
    at.x = now.x;
    at.y = now.y;
    const after = this.pair();
    if (!before || !after) return;
    const [dx, dy] = [after.x - before.x, after.y - before.y];
    const factor = before.apart / Math.max(1, after.apart);
    if (name === 'flat') {
      viewport.flatCamera.pan(dx, dy);
      viewport.flatCamera.zoomAt(factor, after.x, after.y);
      viewport.flatCamera.turn(after.angle - before.angle, after.x, after.y);
    } else {
      const hit = viewport.hitAt(after.x, after.y);
      viewport.modelCamera.zoom(factor, hit ? new Vector3(...hit.point) : null);
      // Twisting turns it around its upright axis; sliding slides.
      viewport.modelCamera.orbit(((after.angle - before.angle) * box.clientHeight) / 3, 0, box.clientHeight);
      viewport.modelCamera.pan(dx, dy, box.clientHeight);
    }
    viewport.invalidate(name);
  }

  private pair(): { x: number; y: number; apart: number; angle: number } | null {
    const [a, b] = [...this.down.values()];
    if (!b) return null;
    return {
      x: (a.x + b.x) / 2,
      y: (a.y + b.y) / 2,
      apart: Math.hypot(a.x - b.x, a.y - b.y),
      angle: Math.atan2(b.y - a.y, b.x - a.x),
    };
  }
}

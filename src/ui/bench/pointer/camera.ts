/** Turning, sliding and zooming by the pointer, and the light. */
import { Vector3 } from 'three';
import { hintDone } from '../top/hints';
import { sendViewing, useBench } from '../store';
import type { Gesture, Pane } from './pane';
import { panePoint } from './samples';

/** Degrees that the light turns for each pixel. */
const LIGHT_DEGREES = 0.5;

/** Calls `by` with how far the pointer went since the last time. */
function dragging(start: PointerEvent, by: (dx: number, dy: number) => void): Gesture['move'] {
  let { clientX: x, clientY: y } = start;
  return (e) => {
    by(e.clientX - x, e.clientY - y);
    [x, y] = [e.clientX, e.clientY];
  };
}

export function orbit({ viewport, box }: Pane, start: PointerEvent): Gesture {
  const move = dragging(start, (dx, dy) => {
    viewport.modelCamera.orbit(dx, dy, box.clientHeight);
    viewport.invalidate('model');
  });
  return { hidesRing: true, move, up: () => hintDone('turn') };
}

export function pan({ name, viewport, box }: Pane, start: PointerEvent): Gesture {
  const move = dragging(start, (dx, dy) => {
    if (name === 'flat') viewport.flatCamera.pan(dx, dy);
    else viewport.modelCamera.pan(dx, dy, box.clientHeight);
    viewport.invalidate(name);
  });
  return { hidesRing: true, move, up: sendViewing };
}

/** Turns the flat sheet around the pane's middle. */
export function turnSheet({ viewport, box }: Pane, start: PointerEvent): Gesture {
  const [cx, cy] = [box.clientWidth / 2, box.clientHeight / 2];
  const angleAt = (e: PointerEvent) => {
    const { x, y } = panePoint(e, box);
    return Math.atan2(y - cy, x - cx);
  };
  let last = angleAt(start);
  return {
    hidesRing: true,
    move: (e) => {
      const now = angleAt(e);
      viewport.flatCamera.turn(now - last);
      last = now;
      viewport.invalidate('flat');
    },
    up: sendViewing,
  };
}

export function turnLight(start: PointerEvent): Gesture {
  return {
    move: dragging(start, (dx) => useBench.setState((s) => ({ light: (((s.light + dx * LIGHT_DEGREES) % 360) + 360) % 360 }))),
  };
}

/** A notch of the wheel is a sixth nearer or farther; what is under the pointer stays there. */
export function zoom({ name, viewport, box }: Pane, e: WheelEvent): void {
  const factor = Math.exp(Math.sign(e.deltaY) * Math.min(60, Math.abs(e.deltaY)) * 0.0028);
  const { x, y } = panePoint(e, box);
  if (name === 'flat') viewport.flatCamera.zoomAt(factor, x, y);
  else {
    const hit = viewport.hitAt(x, y);
    viewport.modelCamera.zoom(factor, hit ? new Vector3(...hit.point) : null);
  }
  viewport.invalidate(name);
  sendViewing();
}

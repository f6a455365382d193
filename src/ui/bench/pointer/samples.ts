/** Pointer events to the samples that strokes are made of. */
import type { Sample } from '@/core/hand/sample';
import { useBench } from '../store';
import type { Pane } from './pane';
import { Pressure } from './pen';

/** Pane pixels of a pointer event. */
export function panePoint(e: { clientX: number; clientY: number }, pane: HTMLElement): { x: number; y: number } {
  const box = pane.getBoundingClientRect();
  return { x: e.clientX - box.left, y: e.clientY - box.top };
}

const pressure = new Pressure();

/** `at`: pane pixels, if it counts as being elsewhere. */
export function sampleOf(
  e: PointerEvent,
  { name, box, viewport, isCanvas }: Pane,
  at: { x: number; y: number } | null = null,
): Sample | null {
  const { x, y } = at ?? panePoint(e, box);
  const pen = { pressure: pressure.of(e, useBench.getState().pen), tiltX: e.tiltX, tiltY: e.tiltY, time: e.timeStamp };
  if (name === 'flat') {
    const { flatCamera } = viewport;
    const turn = { ...(flatCamera.angle && { turn: flatCamera.angle }), ...(flatCamera.flipped && { flip: true as const }) };
    return { pane: 'flat', ...flatCamera.texelAt(x, y), texelsPerPixel: 1 / flatCamera.zoom, ...turn, ...pen };
  }
  if (isCanvas) {
    const texel = viewport.planeTexelAt(x, y);
    return texel && { pane: 'flat', ...texel, ...pen };
  }
  const ray = viewport.rayAt(x, y);
  return ray && { pane: 'model', ...ray, ...pen };
}

/** All that a pointer event stands for, in order. `onto`: moves them elsewhere. */
export function samplesOf(
  e: PointerEvent,
  pane: Pane,
  onto: (e: PointerEvent) => { x: number; y: number } | null = () => null,
): Sample[] {
  const events = e.getCoalescedEvents?.() ?? [];
  return (events.length ? events : [e]).map((c) => sampleOf(c, pane, onto(c))).filter((s): s is Sample => s !== null);
}

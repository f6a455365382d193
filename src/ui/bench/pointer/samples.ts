/** Pointer events to the samples that strokes are made of. */
import type { Sample } from '@/core/hand/sample';
import type { Pane } from './pane';

/** Pane pixels of a pointer event. */
export function panePoint(e: { clientX: number; clientY: number }, pane: HTMLElement): { x: number; y: number } {
  const box = pane.getBoundingClientRect();
  return { x: e.clientX - box.left, y: e.clientY - box.top };
}

/** Mice report half pressure while a button is down: for them every press is a full one. */
const pressureOf = (e: PointerEvent) => (e.pointerType === 'pen' ? e.pressure : 1);

export function sampleOf(e: PointerEvent, { name, box, viewport, isCanvas }: Pane): Sample | null {
  const { x, y } = panePoint(e, box);
  const pen = { pressure: pressureOf(e), tiltX: e.tiltX, tiltY: e.tiltY, time: e.timeStamp };
  if (name === 'flat') {
    const { flatCamera } = viewport;
    return { pane: 'flat', ...flatCamera.texelAt(x, y), texelsPerPixel: 1 / flatCamera.zoom, ...pen };
  }
  if (isCanvas) {
    const texel = viewport.planeTexelAt(x, y);
    return texel && { pane: 'flat', ...texel, ...pen };
  }
  const ray = viewport.rayAt(x, y);
  return ray && { pane: 'model', ...ray, ...pen };
}

/** All that a pointer event stands for, in order. */
export function samplesOf(e: PointerEvent, pane: Pane): Sample[] {
  const events = e.getCoalescedEvents?.() ?? [];
  return (events.length ? events : [e]).map((c) => sampleOf(c, pane)).filter((s): s is Sample => s !== null);
}

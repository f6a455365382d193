/** Pointer events to the samples that strokes are made of. */
import type { Sample } from '@/core/hand/brush';
import type { BenchViewport } from '@/viewport/benchViewport';

export type PaneName = 'model' | 'flat';

/** Pane pixels of a pointer event. */
export function panePoint(e: { clientX: number; clientY: number }, pane: HTMLElement): { x: number; y: number } {
  const box = pane.getBoundingClientRect();
  return { x: e.clientX - box.left, y: e.clientY - box.top };
}

/** Mice report half pressure while a button is down: for them every press is a full one. */
const pressureOf = (e: PointerEvent) => (e.pointerType === 'pen' ? e.pressure : 1);

export function sampleOf(
  e: PointerEvent,
  pane: PaneName,
  element: HTMLElement,
  viewport: BenchViewport,
  isCanvas: boolean,
): Sample | null {
  const { x, y } = panePoint(e, element);
  const pen = { pressure: pressureOf(e), tiltX: e.tiltX, tiltY: e.tiltY, time: e.timeStamp };
  if (pane === 'flat') {
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

export function samplesOf(
  e: PointerEvent,
  pane: PaneName,
  element: HTMLElement,
  viewport: BenchViewport,
  isCanvas: boolean,
): Sample[] {
  const events = e.getCoalescedEvents?.() ?? [];
  return (events.length ? events : [e])
    .map((c) => sampleOf(c, pane, element, viewport, isCanvas))
    .filter((s): s is Sample => s !== null);
}

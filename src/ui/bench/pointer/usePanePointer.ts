'use client';
/** What the pointer does in a pane: which gesture begins where it goes down, and the brush's ring. */
import { useEffect, type RefObject } from 'react';
import { STROKES } from '../areas/laying';
import { pickInto } from '../mask/steps';
import { say, takesFromElsewhere, useBench } from '../store';
import { holder } from '../panes/viewportHolder';
import { pickFaces, quickFence } from '../fence/picking';
import { drawArea, followPolygon } from './area';
import { orbit, pan, turnLight, turnSheet, zoom } from './camera';
import { capture, useCapture } from './capture';
import { Fingers } from './fingers';
import { held } from './heldKeys';
import { isEraser, paint, REST_MS } from './paint';
import type { Gesture, Pane, PaneName } from './pane';
import { pick, pickLinePoint, pickSource, placeOf } from './pick';
import { usePointed } from './pointed';
import { ringAt } from './ring';
import { paced } from './paced';
import { panePoint } from './samples';
import { sizeByDrag } from './sizing';
import { moveStencil, scaleStencil } from './stencil';

const [LEFT, MIDDLE, RIGHT] = [0, 1, 2];

/** The gesture that begins here, if any. */
function begin(pane: Pane, e: PointerEvent): Gesture | null {
  const { picking, pickBy, tool, laying } = useBench.getState();
  if (e.button === RIGHT || (e.button === LEFT && held.has(' '))) {
    if (pane.name === 'flat' && e.shiftKey) return turnSheet(pane, e);
    return pane.name === 'model' && !e.shiftKey ? orbit(pane, e) : pan(pane, e);
  }
  if (e.button === MIDDLE) return pan(pane, e);
  if (e.button === LEFT && useCapture.getState().on) return capture(pane, e);
  if (e.button === LEFT && held.has('l')) return turnLight(e);
  if (e.button === LEFT && held.has('z')) return sizeByDrag(e);
  if (e.button === LEFT && held.has('p')) return pickLinePoint(pane, e);
  if (e.button === LEFT && held.has('/')) return moveStencil(pane, e);
  if (e.button === LEFT && held.has('o')) return quickFence(pane, e);
  if (e.button === LEFT && picking && pickBy !== 'click') return pickFaces(pane, e);
  if (e.button === LEFT && picking) {
    const place = placeOf(pane, e);
    if (place) void pickInto(place).catch((error: unknown) => say((error as Error).message));
    return null;
  }
  if (e.button === LEFT && e.altKey && takesFromElsewhere()) return pickSource(pane, e);
  if (e.button === LEFT && (tool === 'pick' || e.altKey)) return pick(pane, e);
  if (e.button !== LEFT && !isEraser(e)) return null;
  return laying === STROKES ? paint(pane, e) : drawArea(pane, e);
}

/** A tenth of a texel is told only of small brushes. */
const rounded = (texels: number | null): number | null =>
  texels === null ? null : texels < 10 ? Math.round(texels * 10) / 10 : Math.round(texels);

function showRing({ name, box, viewport }: Pane, group: SVGGElement, e: PointerEvent | null): void {
  group.style.display = e ? '' : 'none';
  if (!e) return;
  const { x, y } = panePoint(e, box);
  const { path, texels, sheetId } = ringAt(viewport, name, x, y);
  group.style.opacity = name === 'model' && texels === null && useBench.getState().laying === STROKES ? '0.35' : '1';
  for (const p of group.querySelectorAll('path')) p.setAttribute('d', path);
  const now = usePointed.getState();
  const next = rounded(texels);
  if (now.texels !== next || now.sheetId !== sheetId) usePointed.setState({ texels: next, sheetId });
}

export function usePanePointer(
  name: PaneName,
  element: RefObject<HTMLDivElement | null>,
  ring: RefObject<SVGGElement | null>,
): void {
  useEffect(() => {
    const box = element.current;
    if (!box) return;
    const leaving = new AbortController();
    const { signal } = leaving;
    let gesture: Gesture | null = null;
    let pointerId = -1;
    let heldAt: PointerEvent | null = null;
    const fingers = new Fingers();
    const pane = (): Pane | null => {
      const { viewport } = holder;
      return viewport && { name, box, viewport, isCanvas: !useBench.getState().geometry };
    };
    const ringed = paced((e: PointerEvent | null) => {
      const now = pane();
      // Where the pointer will be by the time that this is seen; strokes are made of where it was.
      const next = gesture?.holdsRing ? heldAt : (e?.getPredictedEvents?.().at(-1) ?? e);
      if (now && ring.current) showRing(now, ring.current, gesture?.hidesRing ? null : next);
    });
    signal.addEventListener('abort', ringed.stop);
    const point = (e: PointerEvent | null) => {
      const { viewport } = holder;
      ringed.show(e, viewport?.costlyPage && viewport.paintedIn === name ? viewport.drawn : null);
    };
    const cancel = () => {
      gesture?.cancel?.();
      gesture = null;
    };
    /** The pointer is gone, or the window: what is done so far stays. */
    const lose = () => {
      const ended = gesture;
      gesture = null;
      if (ended?.lost) ended.lost();
      else ended?.cancel?.();
    };
    let resting = 0;
    const stopResting = () => clearInterval(resting);
    signal.addEventListener('abort', stopResting);
    /** A gesture that goes on while the pointer rests is told so, until it is over. */
    const watchRest = () => {
      stopResting();
      if (gesture?.rest) resting = window.setInterval(() => (gesture?.rest ? gesture.rest() : stopResting()), REST_MS);
    };
    box.addEventListener(
      'pointerdown',
      (e) => {
        const now = pane();
        if (!now || fingers.isPalm(e)) return;
        if (e.pointerType === 'touch' && fingers.press(e, now) > 1) return cancel();
        if (gesture) return;
        box.focus({ preventScroll: true });
        box.setPointerCapture(e.pointerId);
        heldAt = e;
        pointerId = e.pointerId;
        gesture = begin(now, e);
        watchRest();
        e.preventDefault();
      },
      { signal },
    );
    box.addEventListener(
      'pointermove',
      (e) => {
        if (e.pointerType === 'pen') fingers.pen(e.timeStamp);
        const now = pane();
        if (now && e.pointerType === 'touch' && fingers.count > 1) return fingers.move(e, now);
        if (gesture && e.pointerId !== pointerId) return;
        point(e);
        if (!gesture && now) followPolygon(now, e);
        gesture?.move(e);
      },
      { signal },
    );
    box.addEventListener(
      'pointerup',
      (e) => {
        fingers.lift(e);
        if (gesture && e.pointerId !== pointerId) return;
        const ended = gesture;
        gesture = null;
        ended?.up?.(e);
        point(e);
      },
      { signal },
    );
    const gone = (e: PointerEvent) => {
      fingers.lift(e);
      if (e.pointerId === pointerId) lose();
    };
    box.addEventListener('pointercancel', gone, { signal });
    box.addEventListener('lostpointercapture', gone, { signal });
    window.addEventListener('blur', lose, { signal });
    box.addEventListener('pointerleave', () => !gesture && point(null), { signal });
    box.addEventListener(
      'wheel',
      (e) => {
        e.preventDefault();
        const now = pane();
        if (held.has('/') && scaleStencil(e)) return;
        if (now) zoom(now, e);
      },
      { passive: false, signal },
    );
    box.addEventListener('contextmenu', (e) => e.preventDefault(), { signal });
    window.addEventListener('keydown', (e) => e.key === 'Escape' && cancel(), { signal });
    return () => leaving.abort();
  }, [name, element, ring]);
}

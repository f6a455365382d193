/** Dragging the brush larger and smaller, harder and softer, while its ring stays where the drag began. */
import { setBrush, useBench } from '../store';
import type { Gesture } from './pane';

/** So many pixels double the size. */
const DOUBLES = 120;
/** Flow goes over its whole range in so many. */
const WHOLE = 240;

export function sizeByDrag(start: PointerEvent): Gesture {
  const { size, flow } = useBench.getState().brush;
  return {
    holdsRing: true,
    move: (e) => {
      const grown = size * 2 ** ((e.clientX - start.clientX) / DOUBLES);
      const stronger = flow + (start.clientY - e.clientY) / WHOLE;
      setBrush({
        size: Math.round(Math.min(1024, Math.max(1, grown)) * 10) / 10,
        flow: Math.round(Math.min(1, Math.max(0.01, stronger)) * 100) / 100,
      });
    },
    cancel: () => setBrush({ size, flow }),
  };
}

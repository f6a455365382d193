/** The stencil moved by the pen itself while its key is held: a drag slides it, with Shift turns it, with Ctrl scales it. */
import { dropDrag, setStencil, showStencil } from '../stencil/commands';
import { middleAt, placeIn, unitIn } from '../stencil/ghost';
import { currentSheet, keptStencil, say, useBench } from '../store';
import type { Gesture, Pane } from './pane';
import { panePoint } from './samples';

/** So many pixels double the size. */
const DOUBLES = 120;
/** Degrees a pixel. */
const TURN = 0.5;

export function moveStencil(pane: Pane, start: PointerEvent): Gesture | null {
  const kept = useBench.getState().stencil?.on ? keptStencil() : null;
  if (!kept) return (say('There is no stencil on: press the key to put one on.'), null);
  const { stencil } = kept;
  const unit = unitIn(pane.viewport, pane.name, stencil, currentSheet().width);
  if (!unit) return (say(`The stencil lies over the ${stencil.over === 'view' ? 'model' : 'flat sheet'}: move it there.`), null);
  const from = panePoint(start, pane.box);
  const middle = placeIn(stencil, unit);
  return {
    hidesRing: true,
    move: (e) => {
      const at = panePoint(e, pane.box);
      const [dx, dy] = [at.x - from.x, at.y - from.y];
      if (e.shiftKey) showStencil({ angle: stencil.angle + dx * TURN });
      else if (e.ctrlKey) showStencil({ size: Math.min(100, Math.max(0.005, stencil.size * 2 ** ((dx - dy) / DOUBLES))) });
      else showStencil(middleAt(unit, middle.x + dx, middle.y + dy));
    },
    up: () => setStencil({}, 'moved'),
    cancel: dropDrag,
    lost: () => setStencil({}, 'moved'),
  };
}

/** A notch of the wheel while the key is held. */
export function scaleStencil(e: WheelEvent): boolean {
  const kept = useBench.getState().stencil?.on ? keptStencil() : null;
  if (!kept) return false;
  const size = kept.stencil.size * Math.exp(-Math.sign(e.deltaY) * 0.06);
  setStencil({ size: Math.min(100, Math.max(0.005, size)) }, 'scaled');
  return true;
}

/** Where strokes are held to: lines at whole steps of 15° from where they began, and lines that run to one point. */
import { pixelOf } from './places';
import type { Pane } from './pane';
import { panePoint } from './samples';
import { useLines } from './lines';

interface Place {
  x: number;
  y: number;
}

const STEP = Math.PI / 12;
/** A hand that has gone this far says where it goes. */
const DECIDED = 10;

/** Onto the line through `from` that lies nearest to the way to `to`, at whole steps of 15°. */
export function atSteps(from: Place, to: Place, angle?: number): Place & { angle: number } {
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  const a = angle ?? Math.round(Math.atan2(dy, dx) / STEP) * STEP;
  const along = dx * Math.cos(a) + dy * Math.sin(a);
  return { x: from.x + Math.cos(a) * along, y: from.y + Math.sin(a) * along, angle: a };
}

/** Onto the line through `from` and `point`. */
export function towards(from: Place, to: Place, point: Place): Place {
  const [px, py] = [point.x - from.x, point.y - from.y];
  const l2 = px * px + py * py;
  if (l2 < 1) return to;
  const along = ((to.x - from.x) * px + (to.y - from.y) * py) / l2;
  return { x: from.x + px * along, y: from.y + py * along };
}

/** Moves pointer events of one stroke onto its line: with Ctrl held at steps of 15°, else to the point that lines run to. */
export function steadied(pane: Pane, start: PointerEvent): (e: PointerEvent) => Place | null {
  const from = panePoint(start, pane.box);
  const { point, on } = useLines.getState();
  let angle: number | undefined;
  return (e) => {
    const at = panePoint(e, pane.box);
    if (e.ctrlKey) {
      const held = atSteps(from, at, angle);
      if (Math.hypot(at.x - from.x, at.y - from.y) > DECIDED) angle ??= held.angle;
      return held;
    }
    const runsTo = on && point ? pixelOf(pane, point) : null;
    return runsTo ? towards(from, at, runsTo) : null;
  };
}

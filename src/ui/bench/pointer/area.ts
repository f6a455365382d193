/** Areas from where the pointer goes down: shapes that are dragged or clicked together, gradients, fills by a click. */
import { COLOUR_MAP } from '@/core/kinds/maps';
import { create } from 'zustand';
import { areaWay } from '@/core/hand/areas';
import type { AreaGesture, Point } from '@/core/hand/areas/area';
import { OUTLINES } from '@/core/hand/areas/outline';
import { TOOLS } from '@/core/hand/tools';
import { hintDone } from '../top/hints';
import type { Laying } from '../areas/laying';
import { bench, brushInHand, rememberColour, say, useBench } from '../store';
import { isEraser, readyToPaint } from './paint';
import type { Gesture, Pane, PaneName } from './pane';
import { panePoint, sampleOf } from './samples';
import { atSteps } from './steady';

export interface PanePoint {
  x: number;
  y: number;
}

/** What is drawn at the moment, pane pixels; null: nothing. */
interface Drawing {
  pane: PaneName;
  gesture: AreaGesture;
  /** SVG path data. */
  outline: (points: readonly Point[]) => string;
  points: PanePoint[];
  /** Of corners: where the pointer is. */
  next: PanePoint | null;
}
export const useArea = create<{ drawing: Drawing | null }>(() => ({ drawing: null }));
const show = (drawing: Drawing | null) => useArea.setState({ drawing });

/** Less is a slip of the hand, in pixels. */
const LEAST = 2;
/** Points of a lasso lie so far apart at least. */
const APART = 3;
/** As many corners as a lasso or a polygon has at most. */
const MOST_POINTS = 4000;

/** The corner opposite to where a drag began, and that itself: Shift makes sides alike, Alt begins in the middle. */
export function cornersOf(
  from: PanePoint,
  to: PanePoint,
  { shiftKey, altKey }: { shiftKey: boolean; altKey: boolean },
): [PanePoint, PanePoint] {
  let [dx, dy] = [to.x - from.x, to.y - from.y];
  if (shiftKey) {
    const side = Math.max(Math.abs(dx), Math.abs(dy));
    [dx, dy] = [side * (dx < 0 ? -1 : 1), side * (dy < 0 ? -1 : 1)];
  }
  const end = { x: from.x + dx, y: from.y + dy };
  return altKey ? [{ x: from.x - dx, y: from.y - dy }, end] : [from, end];
}

/** Lays an area at points of a pane, with the tool in hand; says why where it cannot be. */
function lay(pane: Pane, e: PointerEvent, laying: Laying, points: readonly PanePoint[]): void {
  // What is drawn lies on the sheet at work, wherever it ends; a click takes up the sheet that it meets, as strokes do.
  const on = readyToPaint(pane, points.length === 1 ? e : null);
  if (!on) return;
  const { areas, view, tool: inHand, sheetId } = useBench.getState();
  const tool = isEraser(e) || inHand === 'pick' ? 'erase' : inHand;
  if (TOOLS[tool].needsPath)
    return say(`${TOOLS[tool].label} goes along strokes: choose another tool for areas, or lay strokes.`);
  const samples = points.map((at) => sampleOf(e, pane, at)).filter((s) => s !== null);
  if (samples.length < points.length) return say('A part of that lies beside the canvas: stay within it.');
  const brush = brushInHand(tool);
  // Its sides stand as the screen's do, whichever way the sheet is turned.
  const angle = pane.name === 'flat' ? -pane.viewport.flatCamera.angle : 0;
  const way = areaWay(laying)!;
  const area = way.area(areas, { map: view === 'lit' ? COLOUR_MAP : view, angle: (angle * 180) / Math.PI });
  if (TOOLS[tool].usesWell && brush.writes[COLOUR_MAP]?.on) rememberColour();
  const at = e.timeStamp;
  bench().send({ type: 'stroke-begin', sheetId, layerId: on, brush: { ...brush, area }, samples, at });
  bench().send({ type: 'stroke-end', samples: [], at });
  hintDone('paint');
}

/** The gesture of an area; null: it was done at once, or cannot be. */
export function drawArea(pane: Pane, start: PointerEvent): Gesture | null {
  const { laying } = useBench.getState();
  switch (areaWay(laying)!.gesture) {
    case 'click':
      lay(pane, start, laying, [panePoint(start, pane.box)]);
      return null;
    case 'corners':
      return corner(pane, start, laying);
    case 'lasso':
      return lasso(pane, start, (points, e) => lay(pane, e, laying, points));
    case 'box':
    case 'line':
      return dragged(pane, start, laying);
  }
}

function dragged(pane: Pane, start: PointerEvent, laying: Laying): Gesture {
  const { gesture, outline = OUTLINES[gesture] } = areaWay(laying)!;
  const from = panePoint(start, pane.box);
  const ends = (e: PointerEvent): [PanePoint, PanePoint] => {
    const to = panePoint(e, pane.box);
    if (gesture === 'box') return cornersOf(from, to, e);
    const end = e.shiftKey ? atSteps(from, to) : to;
    return e.altKey
      ? [
          { x: 2 * from.x - end.x, y: 2 * from.y - end.y },
          { x: end.x, y: end.y },
        ]
      : [from, { x: end.x, y: end.y }];
  };
  return {
    hidesRing: true,
    move: (e) => show({ pane: pane.name, gesture, outline, points: ends(e), next: null }),
    up: (e) => {
      show(null);
      const points = ends(e);
      if (Math.hypot(points[1].x - points[0].x, points[1].y - points[0].y) < LEAST)
        return say('That is too small to be seen: drag further.');
      lay(pane, e, laying, points);
    },
    cancel: () => show(null),
    lost: () => show(null),
  };
}

/** Draws around something; `done` gets the points. */
export function lasso(pane: Pane, start: PointerEvent, done: (points: PanePoint[], e: PointerEvent) => void): Gesture {
  const points = [panePoint(start, pane.box)];
  const add = (e: PointerEvent) => {
    for (const c of e.getCoalescedEvents?.().length ? e.getCoalescedEvents() : [e]) {
      const at = panePoint(c, pane.box);
      const last = points.at(-1)!;
      if (Math.hypot(at.x - last.x, at.y - last.y) >= APART && points.length < MOST_POINTS) points.push(at);
    }
  };
  return {
    hidesRing: true,
    move: (e) => {
      add(e);
      show({ pane: pane.name, gesture: 'lasso', outline: OUTLINES.lasso, points: [...points], next: null });
    },
    up: (e) => {
      show(null);
      if (points.length < 3) return say('A lasso goes around something: draw further.');
      done(points, e);
    },
    cancel: () => show(null),
    lost: () => show(null),
  };
}

/** A box that is dragged; `done` gets its corners in order. */
export function box(pane: Pane, start: PointerEvent, done: (points: PanePoint[], e: PointerEvent) => void): Gesture {
  const from = panePoint(start, pane.box);
  return {
    hidesRing: true,
    move: (e) => {
      const points = cornersOf(from, panePoint(e, pane.box), e);
      show({ pane: pane.name, gesture: 'box', outline: OUTLINES.box, points, next: null });
    },
    up: (e) => {
      show(null);
      const [a, b] = cornersOf(from, panePoint(e, pane.box), e);
      if (Math.min(Math.abs(a.x - b.x), Math.abs(a.y - b.y)) < LEAST) return say('That box is empty: drag further.');
      done([a, { x: b.x, y: a.y }, b, { x: a.x, y: b.y }], e);
    },
    cancel: () => show(null),
    lost: () => show(null),
  };
}

/** Two clicks at one place within this, in pixels, close a polygon. */
const SAME_PLACE = 4;

interface Polygon {
  pane: Pane;
  laying: Laying;
  last: PointerEvent;
}
let open: Polygon | null = null;

/** One more corner of the polygon that is open in this pane. */
function corner(pane: Pane, e: PointerEvent, laying: Laying): Gesture | null {
  const { drawing } = useArea.getState();
  const { gesture, outline = OUTLINES[gesture] } = areaWay(laying)!;
  const at = panePoint(e, pane.box);
  const points = open?.laying === laying && polygonOpen() && drawing!.pane === pane.name ? drawing!.points : [];
  const last = points.at(-1);
  open = { pane, laying, last: e };
  if (last && Math.hypot(at.x - last.x, at.y - last.y) < SAME_PLACE) return (closePolygon(), null);
  if (points.length >= MOST_POINTS) return (say(`A polygon has up to ${MOST_POINTS} corners: close it first.`), null);
  show({ pane: pane.name, gesture, outline, points: [...points, at], next: at });
  return null;
}

export const polygonOpen = (): boolean => open !== null && useArea.getState().drawing?.gesture === 'corners';

/** The pointer moves while a polygon is open. */
export function followPolygon(pane: Pane, e: PointerEvent): void {
  const { drawing } = useArea.getState();
  if (polygonOpen() && drawing!.pane === pane.name) show({ ...drawing!, next: panePoint(e, pane.box) });
}

export function closePolygon(): void {
  const { drawing } = useArea.getState();
  const of = open;
  open = null;
  show(null);
  if (!of || drawing?.gesture !== 'corners') return;
  if (drawing.points.length < 3) return say('A polygon has three corners at least: click further ones.');
  lay(of.pane, of.last, of.laying, drawing.points);
}

/** Takes the last corner back; without any corner left the polygon is given up. */
export function undoCorner(): void {
  const { drawing } = useArea.getState();
  if (!polygonOpen()) return;
  const points = drawing!.points.slice(0, -1);
  if (points.length === 0) return endPolygon();
  show({ ...drawing!, points });
}

export function endPolygon(): void {
  open = null;
  show(null);
}

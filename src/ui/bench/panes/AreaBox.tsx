'use client';
/** What is drawn at the moment over a pane: the shape, and how large it is. */
import { useEffect } from 'react';
import type { AreaGesture } from '@/core/hand/areas/area';
import { areaWay } from '@/core/hand/areas';
import { closePolygon, endPolygon, undoCorner, useArea, type PanePoint } from '../pointer/area';
import type { PaneName } from '../pointer/pane';
import { useBench } from '../store';
import { holder } from './viewportHolder';

export function AreaBox({ pane }: { pane: PaneName }) {
  const drawing = useArea((s) => s.drawing);
  const laying = useBench((s) => s.laying);
  const isPolygon = drawing?.gesture === 'corners';
  useEffect(() => {
    if (!isPolygon) return;
    const key = (e: KeyboardEvent) => {
      const act = { Enter: closePolygon, Escape: endPolygon, Backspace: undoCorner }[e.key];
      if (!act) return;
      e.preventDefault();
      e.stopPropagation();
      act();
    };
    window.addEventListener('keydown', key, { capture: true });
    return () => window.removeEventListener('keydown', key, { capture: true });
  }, [isPolygon]);
  // Another way of laying paint gives an open polygon up.
  useEffect(() => {
    if (areaWay(laying)?.gesture !== 'corners') endPolygon();
  }, [laying]);
  if (drawing?.pane !== pane) return null;
  const { points, next, gesture, outline } = drawing;
  const [a, b] = [points[0], points.at(-1)!];
  const d = outline(next ? [...points, next] : points);
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="area">
      <path d={d} fill="white" fillOpacity={gesture === 'line' ? 0 : 0.12} stroke="black" strokeOpacity="0.6" strokeWidth="2.5" />
      <path d={d} fill="none" stroke="white" strokeDasharray="5 4" />
      {isPolygon &&
        points.map((p, n) => <circle key={n} cx={p.x} cy={p.y} r="3" fill="white" stroke="black" strokeOpacity="0.7" />)}
      <Figures pane={pane} a={a} b={isPolygon ? (next ?? b) : b} gesture={gesture} count={points.length} />
    </svg>
  );
}

interface FiguresProps {
  pane: PaneName;
  a: PanePoint;
  b: PanePoint;
  gesture: AreaGesture;
  count: number;
}

/** Sides, or length and angle: pixels in the model pane, texels in the flat sheet. */
function Figures({ pane, a, b, gesture, count }: FiguresProps) {
  const scale = pane === 'flat' ? 1 / (holder.viewport?.flatCamera.zoom ?? 1) : 1;
  const unit = pane === 'flat' ? 'tx' : 'px';
  const [dx, dy] = [Math.abs(b.x - a.x) * scale, Math.abs(b.y - a.y) * scale];
  const round = (v: number) => (v < 10 ? v.toFixed(1) : String(Math.round(v)));
  const angle = Math.round((Math.atan2(a.y - b.y, b.x - a.x) * 180) / Math.PI);
  const text = {
    box: `${round(dx)} × ${round(dy)} ${unit}`,
    line: `${round(Math.hypot(dx, dy))} ${unit} · ${angle}°`,
    corners: `${count} corner${count === 1 ? '' : 's'}`,
    lasso: '',
    click: '',
  }[gesture];
  if (!text) return null;
  return (
    <text
      x={b.x + 12}
      y={b.y + 20}
      className="figures text-[12px]"
      fill="white"
      stroke="black"
      strokeOpacity="0.7"
      strokeWidth="3"
      paintOrder="stroke"
    >
      {text}
    </text>
  );
}

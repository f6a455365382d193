'use client';
/** What is drawn at the moment over a pane: the shape, and how large it is. */
import { useEffect } from 'react';
import { closePolygon, endPolygon, undoCorner, useArea, type PanePoint } from './pointer/area';
import type { PaneName } from './pointer/pane';
import { useBench } from './store';
import { holder } from './viewportHolder';

const path = (points: readonly PanePoint[], end: string) =>
  points.length ? `M${points.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}${end}` : '';

export function AreaBox({ pane }: { pane: PaneName }) {
  const drawing = useArea((s) => s.drawing);
  const laying = useBench((s) => s.laying);
  const isPolygon = drawing?.laying === 'polygon';
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
    if (laying !== 'polygon') endPolygon();
  }, [laying]);
  if (drawing?.pane !== pane) return null;
  const { points, next } = drawing;
  const [a, b] = [points[0], points.at(-1)!];
  const d =
    drawing.laying === 'rectangle'
      ? path([a, { x: b.x, y: a.y }, b, { x: a.x, y: b.y }], 'Z')
      : drawing.laying === 'ellipse'
        ? ellipsePath(a, b)
        : drawing.laying === 'lasso'
          ? path(points, 'Z')
          : path(next ? [...points, next] : points, '');
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="area">
      <path
        d={d}
        fill="white"
        fillOpacity={drawing.laying === 'line' || drawing.laying === 'gradient' ? 0 : 0.12}
        stroke="black"
        strokeOpacity="0.6"
        strokeWidth="2.5"
      />
      <path d={d} fill="none" stroke="white" strokeDasharray="5 4" />
      {isPolygon &&
        points.map((p, n) => <circle key={n} cx={p.x} cy={p.y} r="3" fill="white" stroke="black" strokeOpacity="0.7" />)}
      <Figures pane={pane} a={a} b={isPolygon ? (next ?? b) : b} kind={drawing.laying} count={points.length} />
    </svg>
  );
}

function ellipsePath(a: PanePoint, b: PanePoint): string {
  const [rx, ry] = [Math.abs(b.x - a.x) / 2, Math.abs(b.y - a.y) / 2];
  const [left, y] = [Math.min(a.x, b.x), (a.y + b.y) / 2];
  return `M${left} ${y}a${rx} ${ry} 0 1 0 ${rx * 2} 0a${rx} ${ry} 0 1 0 ${-rx * 2} 0Z`;
}

/** Sides, or length and angle: pixels in the model pane, texels in the flat sheet. */
function Figures({ pane, a, b, kind, count }: { pane: PaneName; a: PanePoint; b: PanePoint; kind: string; count: number }) {
  const scale = pane === 'flat' ? 1 / (holder.viewport?.flatCamera.zoom ?? 1) : 1;
  const unit = pane === 'flat' ? 'tx' : 'px';
  const [dx, dy] = [Math.abs(b.x - a.x) * scale, Math.abs(b.y - a.y) * scale];
  const round = (v: number) => (v < 10 ? v.toFixed(1) : String(Math.round(v)));
  const angle = Math.round((Math.atan2(a.y - b.y, b.x - a.x) * 180) / Math.PI);
  const text =
    kind === 'rectangle' || kind === 'ellipse'
      ? `${round(dx)} × ${round(dy)} ${unit}`
      : kind === 'line' || kind === 'gradient'
        ? `${round(Math.hypot(dx, dy))} ${unit} · ${angle}°`
        : kind === 'polygon'
          ? `${count} corner${count === 1 ? '' : 's'}`
          : '';
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

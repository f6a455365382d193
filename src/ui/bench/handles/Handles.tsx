'use client';
/** The handles over a pane: drag to move, arrow keys to nudge; what follows is drawn as it moves. */
import { useRef } from 'react';
import { HandleDot } from './HandleDot';
import { handlesOf, moveHandle, owned, type Handle } from '.';
import type { PaneName } from '../pointer/pane';
import { currentSheet, edit, preview, useBench } from '../store';
import { useView } from '../panes/useView';

type Vec = [number, number, number];

export function Handles({ pane }: { pane: PaneName }) {
  const owner = useBench((s) => s.handles);
  const sheet = useBench((s) => currentSheet(s));
  const drag = useRef<{ id: Handle['id']; at: Vec; normal: Vec | null } | null>(null);
  const { viewport, redraw } = useView(owner !== null);
  const record = owner && owned(owner, sheet);
  if (!record || !viewport) return null;
  const now = drag.current
    ? { ...record, ...moveHandle(record, sheet, drag.current.id, drag.current.at, drag.current.normal) }
    : record;
  const handles = handlesOf(now, sheet).filter((h) => h.pane === pane);
  const screen = (at: Vec) => (pane === 'model' ? viewport.project(at) : viewport.flatCamera.pixelAt(at[0], at[1]));
  const points = handles.map((h) => ({ ...h, ...(screen(h.at) ?? { x: -99, y: -99 }) }));
  const place = (h: Handle, x: number, y: number): Vec => {
    if (pane === 'model') return viewport.unproject(h.at, x, y);
    const t = viewport.flatCamera.texelAt(x, y);
    return [t.x, t.y, 0];
  };
  /** A middle that sticks goes over the surface, and turns with it. */
  const onSurface = (h: Handle, x: number, y: number): { at: Vec; normal: Vec | null } => {
    const hit = h.id === 'centre' && record.sticks && pane === 'model' ? viewport.hitAt(x, y) : null;
    return hit ? { at: [...hit.point], normal: [...hit.normal] } : { at: place(h, x, y), normal: null };
  };
  const commit = (id: Handle['id'], { at, normal }: { at: Vec; normal: Vec | null }, label: string) =>
    edit(record.change(moveHandle(record, sheet, id, at, normal)), label);
  const shown = (id: Handle['id']) => !record.only || record.only.includes(id);
  const dot = (h: Handle) => ({
    onDrag: (x: number, y: number) => {
      drag.current = { id: h.id, ...onSurface(h, x, y) };
      preview(record.change(moveHandle(record, sheet, h.id, drag.current.at, drag.current.normal)));
      redraw();
    },
    onDrop: () => {
      const done = drag.current;
      drag.current = null;
      if (done) commit(done.id, done, `Placement: ${h.label.toLowerCase()}`);
    },
    onNudge: (x: number, y: number) => commit(h.id, onSurface(h, x, y), `Placement: ${h.label.toLowerCase()}`),
  });
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid={`handles-${pane}`}>
      {points
        .slice(1)
        .filter((p) => shown(p.id))
        .map((p) => (
          <g key={p.id}>
            <line x1={points[0].x} y1={points[0].y} x2={p.x} y2={p.y} stroke="black" strokeOpacity="0.5" strokeWidth="3" />
            <line
              x1={points[0].x}
              y1={points[0].y}
              x2={p.x}
              y2={p.y}
              stroke="white"
              strokeDasharray={p.id === 'size' ? '4 3' : undefined}
            />
          </g>
        ))}
      {points
        .filter((p) => shown(p.id))
        .map((p) => (
          <HandleDot
            key={p.id}
            id={p.id}
            label={p.label}
            x={p.x}
            y={p.y}
            look={p.id === 'size' ? 'size' : p.id === 'axis' || p.id === 'to' ? 'other' : 'main'}
            {...dot(p)}
          />
        ))}
    </svg>
  );
}

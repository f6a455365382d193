'use client';
/** The handles over a pane: drag to move, arrow keys to nudge; what follows is drawn as it moves. */
import { useEffect, useReducer, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { handlesOf, moveHandle, owned, type Handle } from './handles';
import type { PaneName } from './pointer/pane';
import { currentSheet, edit, preview, useBench } from './store';
import { holder } from './viewportHolder';

type Vec = [number, number, number];

export function Handles({ pane }: { pane: PaneName }) {
  const owner = useBench((s) => s.handles);
  const sheet = useBench((s) => currentSheet(s));
  const [, redraw] = useReducer((n: number) => n + 1, 0);
  const drag = useRef<{ id: Handle['id']; at: Vec; moved: boolean } | null>(null);
  useEffect(() => {
    const { viewport } = holder;
    if (!owner || !viewport) return;
    const stop = viewport.drawn.listen(redraw);
    redraw();
    return stop;
  }, [owner]);
  const { viewport } = holder;
  const record = owner && owned(owner, sheet);
  if (!record || !viewport) return null;
  const now = drag.current ? { ...record, ...moveHandle(record, sheet, drag.current.id, drag.current.at) } : record;
  const handles = handlesOf(now, sheet).filter((h) => h.pane === pane);
  const screen = (at: Vec) => (pane === 'model' ? viewport.project(at) : viewport.flatCamera.pixelAt(at[0], at[1]));
  const points = handles.map((h) => ({ ...h, ...(screen(h.at) ?? { x: -99, y: -99 }) }));
  const place = (h: Handle, x: number, y: number): Vec => {
    if (pane === 'model') return viewport.unproject(h.at, x, y);
    const t = viewport.flatCamera.texelAt(x, y);
    return [t.x, t.y, 0];
  };
  const commit = (id: Handle['id'], at: Vec, label: string) => edit(record.change(moveHandle(record, sheet, id, at)), label);
  const follow = (h: Handle) => ({
    onPointerDown: (e: PointerEvent<SVGGElement>) => {
      if (e.button !== 0) return;
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
      drag.current = { id: h.id, at: h.at, moved: false };
    },
    onPointerMove: (e: PointerEvent<SVGGElement>) => {
      if (!drag.current || !e.currentTarget.hasPointerCapture(e.pointerId)) return;
      const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
      drag.current = { id: h.id, at: place(h, e.clientX - box.left, e.clientY - box.top), moved: true };
      preview(record.change(moveHandle(record, sheet, h.id, drag.current.at)));
      redraw();
    },
    onPointerUp: () => {
      const done = drag.current;
      drag.current = null;
      if (done?.moved) commit(done.id, done.at, `Placement: ${h.label.toLowerCase()}`);
    },
    onKeyDown: (e: KeyboardEvent) => {
      const step = { ArrowLeft: [-4, 0], ArrowRight: [4, 0], ArrowUp: [0, -4], ArrowDown: [0, 4] }[e.key];
      if (!step) return;
      e.preventDefault();
      e.stopPropagation();
      const p = screen(h.at);
      if (p) commit(h.id, place(h, p.x + step[0], p.y + step[1]), `Placement: ${h.label.toLowerCase()}`);
    },
  });
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid={`handles-${pane}`}>
      {points.slice(1).map((p) => (
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
      {points.map((p) => (
        <g
          key={p.id}
          role="slider"
          tabIndex={0}
          aria-label={`${p.label}: drag, or arrow keys`}
          aria-valuenow={0}
          data-handle={p.id}
          className="pointer-events-auto cursor-grab outline-none [&:focus-visible>circle]:stroke-[3]"
          {...follow(p)}
        >
          <title>{p.label}</title>
          <circle cx={p.x} cy={p.y} r="11" fill="transparent" />
          {p.id === 'size' ? (
            <rect x={p.x - 5} y={p.y - 5} width="10" height="10" fill="white" stroke="black" strokeOpacity="0.7" />
          ) : (
            <circle
              cx={p.x}
              cy={p.y}
              r="6"
              fill={p.id === 'axis' || p.id === 'to' ? 'white' : 'var(--accent)'}
              stroke={p.id === 'axis' || p.id === 'to' ? 'black' : 'white'}
              strokeOpacity="0.8"
              strokeWidth="1.5"
            />
          )}
        </g>
      ))}
    </svg>
  );
}

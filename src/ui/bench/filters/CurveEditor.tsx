'use client';
/** A curve over the histogram: drag points, click to add one, drag it out of the box or press Delete to remove it. */
import { useRef, useState, type PointerEvent } from 'react';
import { monotoneCurve } from '@/core/kinds/filters/curves';
import type { FilterOf } from '@/core/kinds/filters';
import type { EditorProps } from './editor';
import { barsPath, shareOf, useHistogram } from './useHistogram';

type Curve = FilterOf<'curve'>;
const MOST = 16;
/** Points keep this distance, so that the curve stays one. */
const APART = 0.01;

export function CurveEditor({ filter, onPreview, onCommit, histogram }: EditorProps<Curve>) {
  const bars = useHistogram(histogram);
  return (
    <CurveBox
      given={filter.points}
      bars={bars ? barsPath(bars.value) : null}
      onPreview={(points) => onPreview({ type: 'curve', points })}
      onCommit={(points) => onCommit({ type: 'curve', points })}
    />
  );
}

interface CurveBoxProps {
  given: Curve['points'];
  /** A path of 256 × 64 behind it. */
  bars?: string | null;
  onPreview: (points: Curve['points']) => void;
  onCommit: (points: Curve['points']) => void;
  className?: string;
}

/** The curve itself, for whatever goes along one. */
export function CurveBox({ given, bars = null, onPreview, onCommit, className = 'h-36' }: CurveBoxProps) {
  const box = useRef<SVGSVGElement>(null);
  const [draft, setDraft] = useState<Curve['points'] | null>(null);
  const drag = useRef<number | null>(null);
  const points = draft ?? given;
  const curve = monotoneCurve(points);
  const line = Array.from(
    { length: 65 },
    (_, i) => `${i ? 'L' : 'M'}${(i / 64) * 100} ${(100 - curve(i / 64) * 100).toFixed(2)}`,
  ).join('');

  const placed = (n: number, x: number, y: number): Curve['points'] => {
    const low = n > 0 ? points[n - 1][0] + APART : 0;
    const high = n < points.length - 1 ? points[n + 1][0] - APART : 1;
    return points.with(n, [Math.min(high, Math.max(low, x)), y]);
  };
  const down = (e: PointerEvent<SVGSVGElement>) => {
    const { x, y } = shareOf(e, box.current!.getBoundingClientRect());
    let n = points.findIndex(([px, py]) => Math.hypot(px - x, py - y) < 0.06);
    let next = points;
    if (n < 0) {
      if (points.length >= MOST || points.some(([px]) => Math.abs(px - x) < APART)) return;
      n = points.findIndex(([px]) => px > x);
      if (n < 0) n = points.length;
      next = points.toSpliced(n, 0, [x, y]);
    }
    drag.current = n;
    e.currentTarget.setPointerCapture(e.pointerId);
    setDraft(next);
    onPreview(next);
  };
  const move = (e: PointerEvent<SVGSVGElement>) => {
    if (drag.current === null) return;
    const { x, y } = shareOf(e, box.current!.getBoundingClientRect());
    const next = placed(drag.current, x, y);
    setDraft(next);
    onPreview(next);
  };
  const up = (e: PointerEvent<SVGSVGElement>) => {
    if (drag.current === null) return;
    const r = box.current!.getBoundingClientRect();
    const outside = e.clientY < r.top - 24 || e.clientY > r.bottom + 24;
    const next = outside && points.length > 2 ? points.toSpliced(drag.current, 1) : points;
    drag.current = null;
    setDraft(null);
    onCommit(next);
  };
  const key = (n: number) => (e: React.KeyboardEvent) => {
    const [x, y] = points[n];
    const step = e.shiftKey ? 0.05 : 0.01;
    const to = { ArrowLeft: [x - step, y], ArrowRight: [x + step, y], ArrowUp: [x, y + step], ArrowDown: [x, y - step] }[e.key];
    if (to) onCommit(placed(n, to[0], Math.min(1, Math.max(0, to[1]))));
    else if ((e.key === 'Delete' || e.key === 'Backspace') && points.length > 2) onCommit(points.toSpliced(n, 1));
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <div className="relative mx-1.5">
      <svg
        ref={box}
        viewBox="0 0 100 100"
        preserveAspectRatio="none"
        className={`w-full touch-none rounded-sm bg-field ${className}`}
        aria-label="Curve: click to add a point, drag it out to remove it"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
      >
        {bars && <path d={bars} transform="scale(0.392 1.5625)" className="fill-ink-soft" opacity="0.35" />}
        <path d="M0 100L100 0" className="stroke-line" vectorEffect="non-scaling-stroke" />
        <path d={line} fill="none" className="stroke-ink" strokeWidth="1.5" vectorEffect="non-scaling-stroke" />
      </svg>
      {points.map(([x, y], n) => (
        <span
          key={n}
          tabIndex={0}
          role="slider"
          aria-label={`Point ${n + 1}`}
          aria-valuenow={Math.round(y * 100)}
          aria-valuemin={0}
          aria-valuemax={100}
          onKeyDown={key(n)}
          className="pointer-events-none absolute h-2.5 w-2.5 -translate-x-1/2 translate-y-1/2 rounded-full border border-ink bg-raised focus:border-accent"
          style={{ left: `${x * 100}%`, bottom: `${y * 100}%` }}
        />
      ))}
    </div>
  );
}

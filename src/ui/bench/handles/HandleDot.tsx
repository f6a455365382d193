'use client';
/** A handle over a pane: drag it, or nudge it with the arrow keys. */
import { useRef, type KeyboardEvent, type PointerEvent } from 'react';

/** Pixels that an arrow key moves it by. */
const NUDGE = 4;
const STEPS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-NUDGE, 0],
  ArrowRight: [NUDGE, 0],
  ArrowUp: [0, -NUDGE],
  ArrowDown: [0, NUDGE],
};

interface HandleDotProps {
  id: string;
  label: string;
  /** Pane pixels. */
  x: number;
  y: number;
  /** `main`: the one that moves all of it. `size`: square. */
  look?: 'main' | 'other' | 'size';
  /** Told of each place it is dragged to, pane pixels. */
  onDrag: (x: number, y: number) => void;
  /** It was dragged, and let go. */
  onDrop: () => void;
  /** It was nudged to there. */
  onNudge: (x: number, y: number) => void;
}

export function HandleDot({ id, label, x, y, look = 'main', onDrag, onDrop, onNudge }: HandleDotProps) {
  const drag = useRef<{ moved: boolean } | null>(null);
  const follow = {
    onPointerDown: (e: PointerEvent<SVGGElement>) => {
      if (e.button !== 0) return;
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
      drag.current = { moved: false };
    },
    onPointerMove: (e: PointerEvent<SVGGElement>) => {
      if (!drag.current || !e.currentTarget.hasPointerCapture(e.pointerId)) return;
      const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
      drag.current.moved = true;
      onDrag(e.clientX - box.left, e.clientY - box.top);
    },
    onPointerUp: () => {
      const done = drag.current;
      drag.current = null;
      if (done?.moved) onDrop();
    },
    onKeyDown: (e: KeyboardEvent) => {
      const step = STEPS[e.key];
      if (!step) return;
      e.preventDefault();
      e.stopPropagation();
      onNudge(x + step[0], y + step[1]);
    },
  };
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={`${label}: drag, or arrow keys`}
      aria-valuenow={0}
      data-handle={id}
      className="pointer-events-auto cursor-grab outline-none [&:focus-visible>circle]:stroke-[3]"
      {...follow}
    >
      <title>{label}</title>
      <circle cx={x} cy={y} r="11" fill="transparent" />
      {look === 'size' ? (
        <rect x={x - 5} y={y - 5} width="10" height="10" fill="white" stroke="black" strokeOpacity="0.7" />
      ) : (
        <circle
          cx={x}
          cy={y}
          r="6"
          fill={look === 'other' ? 'white' : 'var(--accent)'}
          stroke={look === 'other' ? 'black' : 'white'}
          strokeOpacity="0.8"
          strokeWidth="1.5"
        />
      )}
    </g>
  );
}

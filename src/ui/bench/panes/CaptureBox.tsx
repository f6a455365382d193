'use client';
/** The rectangle that becomes a tip, while it is dragged; and what to do. */
import { useEffect } from 'react';
import { endCapture, useCapture } from '../pointer/capture';
import type { PaneName } from '../pointer/pane';

export function CaptureBox({ pane }: { pane: PaneName }) {
  const { on, box } = useCapture();
  useEffect(() => {
    if (!on) return;
    const key = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return;
      e.stopPropagation();
      endCapture();
    };
    window.addEventListener('keydown', key, { capture: true });
    return () => window.removeEventListener('keydown', key, { capture: true });
  }, [on]);
  if (!on) return null;
  if (!box)
    return (
      <p className="pointer-events-none absolute bottom-3 left-1/2 -translate-x-1/2 rounded bg-panel px-2.5 py-1.5 whitespace-nowrap shadow">
        Drag over what is to be the tip. Esc: not now.
      </p>
    );
  if (box.pane !== pane) return null;
  return (
    <div
      data-testid="capture"
      className="pointer-events-none absolute border border-white outline outline-black/60"
      style={{ left: box.x, top: box.y, width: box.width, height: box.height }}
    />
  );
}

'use client';
/** A hint beside what it is about. */
import { X } from 'lucide-react';
import { IconButton } from '../common/controls';
import { hintDone, HINTS, useHints, type Hint } from './hints';

const TEXT: Record<Hint, string> = {
  turn: 'Right drag turns the model, the wheel zooms.',
  paint: 'Drag to paint. The brush is below, its colours at the right.',
  layers: 'Rows are layers, columns are maps: strokes go onto the selected row.',
};

/** Shown while it is the next one. */
export function HintCard({ hint, className }: { hint: Hint; className: string }) {
  const done = useHints((s) => s.done);
  const next = HINTS.find((h) => !done.includes(h));
  if (next !== hint) return null;
  return (
    <div
      role="note"
      className={`pointer-events-none absolute z-20 flex w-64 items-start gap-1 rounded-md border border-line bg-panel py-1.5 pr-1 pl-3 shadow-lg ${className}`}
    >
      <p className="flex-1">{TEXT[hint]}</p>
      <span className="pointer-events-auto">
        <IconButton label="Put this hint away" className="h-6 w-6" onClick={() => hintDone(hint)}>
          <X size={13} />
        </IconButton>
      </span>
    </div>
  );
}

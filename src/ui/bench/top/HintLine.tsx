'use client';
/** The next hint for who is here for the first time: in a free line of the hand, over neither the work nor any control. */
import { Lightbulb, X } from 'lucide-react';
import { IconButton } from '../../kit/Button';
import { STROKES } from '../areas/laying';
import { hintDone, HINTS, useHints, type Hint } from './hints';
import { useBench } from '../store';

const TEXT: Record<Hint, string> = {
  turn: 'Right drag turns the model, the wheel zooms.',
  paint: 'Drag to paint with the brush and colours below.',
  layers: 'At the left, rows are layers and columns are maps.',
};

export function HintLine() {
  const done = useHints((s) => s.done);
  const onModel = useBench((s) => s.geometry !== null);
  // Areas have their settings in this line.
  const isFree = useBench((s) => s.laying === STROKES);
  const next = HINTS.find((hint) => !done.includes(hint) && (onModel || hint !== 'turn'));
  if (!next || !isFree) return null;
  return (
    <div role="note" className="flex min-w-0 items-center gap-1.5 pl-2 text-ink-soft">
      <Lightbulb size={13} className="shrink-0" />
      <p className="truncate">{TEXT[next]}</p>
      <IconButton label="Put this hint away" className="h-6 w-6" onClick={() => hintDone(next)}>
        <X size={13} />
      </IconButton>
    </div>
  );
}

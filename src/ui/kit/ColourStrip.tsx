'use client';
/** Colours side by side of which one is taken: one stop of the tab key, arrows go from one to the next. */
import { useId, useState, type KeyboardEvent } from 'react';

interface StripProps {
  label: string;
  colours: readonly string[];
  /** The one that is taken now; −1: none of them. */
  taken: number;
  onTake: (n: number) => void;
  nameOf: (n: number) => string;
  titleOf?: (n: number) => string;
  className: string;
  chipClass: (n: number) => string;
}

export function ColourStrip({ label, colours, taken, onTake, nameOf, titleOf, className, chipClass }: StripProps) {
  const id = useId();
  const [at, setAt] = useState<number | null>(null);
  const current = Math.min(colours.length - 1, Math.max(0, at ?? taken));
  const keys = (e: KeyboardEvent) => {
    if (e.altKey || e.ctrlKey || e.metaKey || colours.length === 0) return;
    const steps: Record<string, number> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };
    if (e.key === 'Home') setAt(0);
    else if (e.key === 'End') setAt(colours.length - 1);
    else if (e.key === 'Enter' || e.key === ' ') onTake(current);
    else if (steps[e.key]) setAt((current + steps[e.key] + colours.length) % colours.length);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  if (colours.length === 0) return null;
  return (
    <div
      role="listbox"
      aria-label={label}
      aria-orientation="horizontal"
      tabIndex={0}
      aria-activedescendant={`${id}-${current}`}
      onKeyDown={keys}
      onBlur={() => setAt(null)}
      className={`group/strip rounded-sm outline-offset-2 ${className}`}
    >
      {colours.map((colour, n) => (
        <span
          key={n}
          id={`${id}-${n}`}
          role="option"
          aria-selected={n === taken}
          aria-label={nameOf(n)}
          title={titleOf?.(n) ?? colour}
          onClick={() => onTake(n)}
          className={`cursor-pointer ${n === current ? 'group-focus-visible/strip:outline-2 group-focus-visible/strip:outline-accent' : ''} ${chipClass(n)}`}
          style={{ background: colour }}
        />
      ))}
    </div>
  );
}

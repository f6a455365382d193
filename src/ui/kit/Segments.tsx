'use client';
import { Tip } from './Tip';

/** A choice of one out of a few, as a row of buttons; the arrow keys choose the next one. */
export function Segments<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly { value: T; label: string; hint?: string; keys?: string }[];
  onChange: (value: T) => void;
}) {
  const move = (step: number) => {
    const at = options.findIndex((o) => o.value === value);
    onChange(options[(at + step + options.length) % options.length].value);
  };
  return (
    <div role="radiogroup" aria-label={label} className="inline-flex rounded border border-line bg-raised p-px">
      {options.map((o) => {
        const button = (
          <button
            key={o.value}
            type="button"
            role="radio"
            aria-checked={o.value === value}
            tabIndex={o.value === value ? 0 : -1}
            onClick={() => onChange(o.value)}
            onKeyDown={(e) => {
              if (e.altKey || e.ctrlKey) return;
              if (e.key === 'ArrowRight' || e.key === 'ArrowDown') move(1);
              else if (e.key === 'ArrowLeft' || e.key === 'ArrowUp') move(-1);
              else return;
              e.preventDefault();
              e.stopPropagation();
            }}
            className={`h-6 rounded-[3px] px-2.5 whitespace-nowrap transition-colors ${o.value === value ? 'bg-ink text-panel' : 'hover:bg-field'}`}
          >
            {o.label}
          </button>
        );
        return o.hint ? (
          <Tip key={o.value} label={o.hint} keys={o.keys}>
            {button}
          </Tip>
        ) : (
          button
        );
      })}
    </div>
  );
}

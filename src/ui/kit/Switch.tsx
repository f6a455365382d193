'use client';
import { Tip } from './Tip';

/** On or off, at once. */
export function Switch({
  label,
  checked,
  onChange,
  hint,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
  hint?: string;
}) {
  const body = (
    <button
      type="button"
      role="switch"
      aria-checked={checked}
      onClick={() => onChange(!checked)}
      className="inline-flex h-6 items-center gap-1.5 rounded px-1 hover:bg-field"
    >
      <span className={`relative h-3.5 w-6 rounded-full transition-colors ${checked ? 'bg-accent' : 'bg-line'}`}>
        <span
          className={`absolute top-0.5 h-2.5 w-2.5 rounded-full bg-white transition-all ${checked ? 'left-3' : 'left-0.5'}`}
        />
      </span>
      {label}
    </button>
  );
  return hint ? <Tip label={hint}>{body}</Tip> : body;
}

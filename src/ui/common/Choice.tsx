'use client';
/** A labelled list to choose from, as wide as the numbers beside it. */
export function Choice<T extends string>({
  label,
  value,
  options,
  labelWidth = '68px',
  onChange,
}: {
  label: string;
  value: T;
  options: readonly { value: T; label: string }[];
  labelWidth?: string;
  onChange: (value: T) => void;
}) {
  return (
    <label className="flex h-7 items-center gap-2">
      <span className="shrink-0 text-ink-soft" style={{ width: labelWidth }}>
        {label}
      </span>
      <select
        aria-label={label}
        value={value}
        onChange={(e) => onChange(e.target.value as T)}
        className="h-6 min-w-0 flex-1 rounded border border-line bg-raised px-1"
      >
        {options.map((o) => (
          <option key={o.value} value={o.value}>
            {o.label}
          </option>
        ))}
      </select>
    </label>
  );
}

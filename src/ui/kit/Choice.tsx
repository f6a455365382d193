'use client';
interface Option<T extends string> {
  value: T;
  label: string;
}

/** A list to choose from; its label is told, not shown. */
export function Select<T extends string>({
  label,
  value,
  options,
  className = '',
  onChange,
}: {
  label: string;
  value: T;
  options: readonly Option<T>[];
  className?: string;
  onChange: (value: T) => void;
}) {
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(e) => onChange(e.target.value as T)}
      className={`h-6 rounded border border-line bg-raised px-1 ${className}`}
    >
      {options.map((o) => (
        <option key={o.value} value={o.value}>
          {o.label}
        </option>
      ))}
    </select>
  );
}

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
  options: readonly Option<T>[];
  labelWidth?: string;
  onChange: (value: T) => void;
}) {
  return (
    <label className="flex h-7 items-center gap-2">
      <span className="shrink-0 text-ink-soft" style={{ width: labelWidth }}>
        {label}
      </span>
      <Select label={label} value={value} options={options} onChange={onChange} className="min-w-0 flex-1" />
    </label>
  );
}

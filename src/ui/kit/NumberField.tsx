'use client';
/**
 * A number that can be dragged, typed, stepped with the arrows and reset with a double click, with its unit.
 * `onPreview` follows the drag; `onCommit` comes once at its end.
 */
import { useId, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';

export interface NumberFieldProps {
  label: string;
  /** What it is called where no label is seen. */
  name?: string;
  value: number;
  min: number;
  max: number;
  /** What one arrow key step changes. */
  step?: number;
  unit?: string;
  digits?: number;
  /** Where a double click goes back to. */
  reset: number;
  /** Small numbers get more of the track. */
  curve?: 'even' | 'fine';
  onPreview?: (value: number) => void;
  onCommit: (value: number) => void;
  labelWidth?: string;
  bar?: boolean;
  hint?: string;
  disabled?: boolean;
}

export function NumberField(props: NumberFieldProps) {
  const { label, name, value, min, max, step = 1, unit = '', digits = 0, reset, curve = 'even', onCommit, disabled } = props;
  const [dragged, setDragged] = useState<number | null>(null);
  const [typed, setTyped] = useState<string | null>(null);
  const track = useRef<HTMLDivElement>(null);
  const id = useId();
  const shown = dragged ?? value;
  const power = curve === 'fine' ? 2.5 : 1;
  const toShare = (v: number) => Math.pow(Math.max(0, (v - min) / (max - min)), 1 / power);
  const fromShare = (s: number) => min + Math.pow(Math.min(1, Math.max(0, s)), power) * (max - min);
  const clean = (v: number) => Number(Math.min(max, Math.max(min, v)).toFixed(digits + 2));

  const follow = (e: PointerEvent) => {
    const box = track.current!.getBoundingClientRect();
    const next = clean(fromShare((e.clientX - box.left) / box.width));
    setDragged(next);
    props.onPreview?.(next);
    return next;
  };
  const drag = {
    onPointerDown: (e: PointerEvent) => {
      if (e.button !== 0 || disabled) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      follow(e);
    },
    onPointerMove: (e: PointerEvent) => void (e.currentTarget.hasPointerCapture(e.pointerId) && follow(e)),
    onPointerUp: (e: PointerEvent) => {
      if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
      const next = follow(e);
      setDragged(null);
      if (next !== value) onCommit(next);
    },
    onPointerCancel: () => {
      setDragged(null);
      props.onPreview?.(value);
    },
    onDoubleClick: () => !disabled && onCommit(reset),
  };
  const keys = (e: KeyboardEvent) => {
    const steps: Record<string, number> = {
      ArrowUp: step,
      ArrowRight: step,
      ArrowDown: -step,
      ArrowLeft: -step,
      PageUp: step * 10,
      PageDown: -step * 10,
    };
    const by = steps[e.key];
    if (by !== undefined) onCommit(clean(value + by * (e.shiftKey ? 10 : 1)));
    else if (e.key === 'Home') onCommit(min);
    else if (e.key === 'End') onCommit(max);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const letGo = useRef(false);
  const acceptTyped = () => {
    const digitsOnly = (typed ?? '')
      .replace(',', '.')
      .replace('−', '-')
      .replace(/[^0-9.+-]/g, '');
    setTyped(null);
    if (!letGo.current && digitsOnly !== '' && Number.isFinite(Number(digitsOnly))) onCommit(clean(Number(digitsOnly)));
    letGo.current = false;
  };
  const text = shown.toFixed(digits).replace('-', '−');
  return (
    <div className={`flex items-center gap-2 ${disabled ? 'opacity-40' : ''}`} title={props.hint}>
      {label && (
        <label htmlFor={id} className="shrink-0 text-ink-soft" style={{ width: props.labelWidth }}>
          {label}
        </label>
      )}
      <div
        ref={track}
        role="slider"
        aria-label={label || name}
        aria-valuemin={min}
        aria-valuemax={max}
        aria-valuenow={shown}
        aria-valuetext={`${text}${unit ? ` ${unit}` : ''}`}
        tabIndex={disabled ? -1 : 0}
        onKeyDown={keys}
        {...drag}
        className="group relative h-6 min-w-8 flex-1 cursor-ew-resize touch-none"
      >
        <span className="absolute inset-x-0 top-1/2 h-[3px] -translate-y-1/2 rounded bg-line" />
        <span
          className="absolute top-1/2 left-0 h-[3px] -translate-y-1/2 rounded bg-ink"
          style={{ width: `${toShare(shown) * 100}%` }}
        />
        <span
          className="absolute top-1/2 h-3 w-3 -translate-x-1/2 -translate-y-1/2 rounded-full border border-ink bg-raised group-hover:border-accent"
          style={{ left: `${toShare(shown) * 100}%` }}
        />
      </div>
      <span className="flex shrink-0 items-baseline gap-0.5">
        <input
          id={id}
          aria-label={label ? undefined : name}
          inputMode="decimal"
          disabled={disabled}
          value={typed ?? text}
          onFocus={(e) => e.currentTarget.select()}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={acceptTyped}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === 'Enter') e.currentTarget.blur();
            else if (e.key === 'Escape') {
              letGo.current = true;
              e.currentTarget.blur();
            } else if (e.key === 'ArrowUp' || e.key === 'ArrowDown') keys(e);
          }}
          className="figures h-6 w-9 rounded bg-transparent text-right hover:bg-field focus:bg-raised"
        />
        <span className="min-w-4 text-[11px] whitespace-nowrap text-ink-soft">{unit}</span>
      </span>
    </div>
  );
}

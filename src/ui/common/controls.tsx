'use client';
/** Small controls that every page shares. */
import { Tooltip } from 'radix-ui';
import type { ButtonHTMLAttributes, ReactNode } from 'react';

/** How every drop-down looks; how wide it is at least is said where it stands. */
/** No higher than the window has room for: what is too long scrolls. */
export const MENU =
  'z-40 max-h-(--radix-dropdown-menu-content-available-height) overflow-y-auto rounded-md border border-line bg-panel p-1 shadow-xl';
export const MENU_BOX = `${MENU} min-w-48`;
export const MENU_ITEM =
  'flex h-7 cursor-pointer items-center justify-between gap-4 rounded px-2 outline-none data-[highlighted]:bg-field';

export function Tip({ label, keys, children }: { label: string; keys?: string; children: ReactNode }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={6}
          collisionPadding={8}
          className="z-50 max-w-64 rounded bg-ink px-2 py-1 text-[12px] leading-4 text-panel shadow-lg"
        >
          {label}
          {keys && <kbd className="figures ml-2 opacity-75">{keys}</kbd>}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

type ButtonProps = ButtonHTMLAttributes<HTMLButtonElement>;

export function IconButton({
  label,
  keys,
  active,
  className = '',
  ...rest
}: ButtonProps & { label: string; keys?: string; active?: boolean }) {
  return (
    <Tip label={label} keys={keys}>
      <button
        type="button"
        aria-label={label}
        aria-pressed={active}
        className={`inline-flex h-7 w-7 shrink-0 items-center justify-center rounded transition-colors hover:bg-field disabled:opacity-35 disabled:hover:bg-transparent ${
          active ? 'bg-accent-wash text-accent-ink' : 'text-ink'
        } ${className}`}
        {...rest}
      />
    </Tip>
  );
}

export function Button({ kind = 'plain', className = '', ...rest }: ButtonProps & { kind?: 'plain' | 'main' | 'quiet' }) {
  const look = {
    plain: 'border border-line bg-raised hover:bg-field',
    main: 'bg-ink text-panel hover:opacity-85',
    quiet: 'hover:bg-field',
  }[kind];
  return (
    <button
      type="button"
      className={`inline-flex h-8 items-center gap-1.5 rounded px-3 font-medium transition-colors disabled:opacity-40 ${look} ${className}`}
      {...rest}
    />
  );
}

/** One of a few: a row of buttons, arrow keys move. */
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

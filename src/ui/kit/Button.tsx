'use client';
/** Buttons: with words, and with an icon alone. */
import type { ButtonHTMLAttributes } from 'react';
import { Tip } from './Tip';

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

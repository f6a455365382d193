'use client';
/** The buttons of the interface. */
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

/** A button at the foot of the bench that names a setting of the hand, highlighted while the setting is on. */
export function Chip({ on, className = '', ...rest }: ButtonProps & { on: boolean }) {
  return (
    <button
      type="button"
      className={`inline-flex h-6 items-center gap-1 rounded border px-2 hover:bg-field data-[state=open]:border-accent ${
        on ? 'border-accent bg-accent-wash text-accent-ink' : 'border-line bg-raised'
      } ${className}`}
      {...rest}
    />
  );
}

/** A button with an icon and small text over a pane, highlighted while what it opens changes the view. */
export function PaneButton({ active = false, ...rest }: ButtonProps & { active?: boolean }) {
  return (
    <button
      type="button"
      className={`inline-flex h-7 items-center gap-1 rounded px-1.5 text-[12px] hover:bg-field ${active ? 'text-accent-ink' : ''}`}
      {...rest}
    />
  );
}

'use client';
/** A tooltip: says on hover and on focus what a control does, with its shortcut. */
import { Tooltip } from 'radix-ui';
import type { ReactNode } from 'react';

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

'use client';
/** The box of a popover above a chip or a button at the foot of the bench; the panes and their keys work on beside it. */
import { Popover } from 'radix-ui';
import type { ComponentProps, ReactNode } from 'react';

interface Props {
  label: string;
  /** A width as a class. */
  width: string;
  align?: 'start' | 'end';
  onInteractOutside?: ComponentProps<typeof Popover.Content>['onInteractOutside'];
  children: ReactNode;
}

export function BesideBox({ label, width, align = 'end', onInteractOutside, children }: Props) {
  return (
    <Popover.Portal>
      <Popover.Content
        side="top"
        align={align}
        sideOffset={8}
        collisionPadding={8}
        aria-label={label}
        data-beside=""
        onInteractOutside={onInteractOutside}
        // The box itself has the keys at first: a control would show its hint over the work at once.
        onOpenAutoFocus={(e) => {
          e.preventDefault();
          (e.currentTarget as HTMLElement).focus();
        }}
        onKeyDown={(e) => e.key !== 'Escape' && e.stopPropagation()}
        className={`z-30 outline-none max-h-(--radix-popover-content-available-height) overflow-y-auto rounded-md border border-line bg-panel p-3 shadow-xl ${width} space-y-2`}
      >
        {children}
      </Popover.Content>
    </Popover.Portal>
  );
}

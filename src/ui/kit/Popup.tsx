'use client';
/** The box that a chip or a button opens beside itself, with controls in it. */
import { Popover } from 'radix-ui';
import type { ReactElement, ReactNode } from 'react';
import { Tip } from './Tip';

interface PopupProps {
  /** The name of the box for screen readers. */
  label: string;
  /** The button that opens the box. */
  trigger: ReactElement;
  /** What the button says on hover. */
  tip?: string;
  /** The shortcut shown with the tip. */
  keys?: string;
  side?: 'top' | 'right' | 'bottom';
  align?: 'start' | 'center' | 'end';
  /** The pane's shortcuts go on working while the box is open. */
  beside?: boolean;
  /** Width and spacing, as Tailwind classes. */
  className?: string;
  /** The greatest height, in CSS units; by default the room that the window has. */
  maxHeight?: string;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  onInteractOutside?: (event: Event) => void;
  children: ReactNode;
}

const ROOM = 'var(--radix-popover-content-available-height)';

export function Popup(props: PopupProps) {
  const {
    label,
    trigger,
    tip,
    keys,
    side = 'bottom',
    align = 'start',
    beside = false,
    maxHeight,
    className = 'w-72 space-y-2 p-3',
    children,
  } = props;
  const opener = <Popover.Trigger asChild>{trigger}</Popover.Trigger>;
  return (
    <Popover.Root open={props.open} onOpenChange={props.onOpenChange}>
      {tip ? (
        <Tip label={tip} keys={keys}>
          {opener}
        </Tip>
      ) : (
        opener
      )}
      <Popover.Portal>
        <Popover.Content
          side={side}
          align={align}
          sideOffset={8}
          collisionPadding={8}
          aria-label={label}
          data-beside={beside ? '' : undefined}
          onInteractOutside={props.onInteractOutside}
          // The box itself takes the focus: a focused control would show its tip over the work at once.
          onOpenAutoFocus={(e) => {
            if (!beside) return;
            e.preventDefault();
            (e.currentTarget as HTMLElement).focus();
          }}
          onKeyDown={(e) => e.key !== 'Escape' && e.stopPropagation()}
          className={`z-40 overflow-y-auto rounded-md border border-line bg-panel shadow-xl outline-none ${className}`}
          style={{ maxHeight: maxHeight ? `min(${maxHeight}, ${ROOM})` : ROOM }}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

'use client';
/** Popovers: a box of controls that opens next to the button that opens it. */
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
  /** The shortcuts of the bench work while the box is open and the focus is outside it. */
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
    className = '',
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

type FootPopupProps = Omit<PopupProps, 'side' | 'beside' | 'className' | 'maxHeight'> & {
  /** A Tailwind class. */
  width: string;
};

/** A popover of the tools at the foot of the bench: it opens upwards, and the panes stay in use beside it. */
export function FootPopup({ width, align = 'end', ...rest }: FootPopupProps) {
  return <Popup side="top" align={align} beside className={`${width} space-y-2 p-3`} {...rest} />;
}

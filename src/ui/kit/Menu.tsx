'use client';
/** Drop-down menus: a button opens one, and choosing an item closes it. */
import { DropdownMenu } from 'radix-ui';
import type { ReactElement, ReactNode } from 'react';

const BOX = 'z-40 overflow-y-auto rounded-md border border-line bg-panel p-1 shadow-xl';
const ITEM =
  'flex h-7 cursor-pointer items-center justify-between gap-4 rounded px-2 outline-none data-[highlighted]:bg-field data-[disabled]:opacity-40';
/** Never higher than the window has room for; what does not fit scrolls. */
const height = (most?: string) => {
  const room = 'var(--radix-dropdown-menu-content-available-height)';
  return { maxHeight: most ? `min(${most}, ${room})` : room };
};

interface MenuProps {
  /** The button that opens the menu. */
  trigger: ReactElement;
  side?: 'top' | 'bottom';
  align?: 'start' | 'end';
  /** The least width, as a Tailwind class. */
  width?: string;
  /** The greatest height, in CSS units. */
  maxHeight?: string;
  onOpenChange?: (open: boolean) => void;
  /** Runs after the menu has closed and before the focus returns to the trigger; `preventDefault` leaves the focus where it is. */
  onCloseAutoFocus?: (event: Event) => void;
  children: ReactNode;
}

export function Menu(props: MenuProps) {
  const {
    trigger,
    side = 'bottom',
    align = 'start',
    width = 'min-w-48',
    maxHeight,
    onOpenChange,
    onCloseAutoFocus,
    children,
  } = props;
  return (
    <DropdownMenu.Root onOpenChange={onOpenChange}>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          side={side}
          align={align}
          sideOffset={4}
          collisionPadding={8}
          onCloseAutoFocus={onCloseAutoFocus}
          className={`${BOX} ${width}`}
          style={height(maxHeight)}
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

interface MenuItemProps {
  onSelect: () => void;
  /** Shown on hover. */
  hint?: string;
  /** The shortcut that does the same. */
  keys?: string;
  disabled?: boolean;
  /** Runs when the Delete key is pressed on the item. */
  onDelete?: () => void;
  className?: string;
  children: ReactNode;
}

export function MenuItem({ onSelect, hint, keys, disabled, onDelete, className = '', children }: MenuItemProps) {
  return (
    <DropdownMenu.Item
      className={`${ITEM} ${className}`}
      title={hint}
      disabled={disabled}
      onSelect={onSelect}
      onKeyDown={(e) => e.key === 'Delete' && onDelete?.()}
    >
      {children}
      {keys && <kbd className="figures text-ink-soft">{keys}</kbd>}
    </DropdownMenu.Item>
  );
}

/** An item that is a link to another page; the link is its only child. */
export function MenuLink({ children }: { children: ReactElement }) {
  return (
    <DropdownMenu.Item className={ITEM} asChild>
      {children}
    </DropdownMenu.Item>
  );
}

/** An item that is on or off; the menu stays open, so that several can be set. */
export function MenuCheck({
  checked,
  onChange,
  children,
}: {
  checked: boolean;
  onChange: (checked: boolean) => void;
  children: ReactNode;
}) {
  return (
    <DropdownMenu.CheckboxItem checked={checked} className={ITEM} onSelect={(e) => e.preventDefault()} onCheckedChange={onChange}>
      {children}
      <DropdownMenu.ItemIndicator>✓</DropdownMenu.ItemIndicator>
    </DropdownMenu.CheckboxItem>
  );
}

/** The heading of the items below it. */
export const MenuLabel = ({ children }: { children: ReactNode }) => (
  <DropdownMenu.Label className="px-2 pt-1.5 pb-0.5 text-[12px] text-ink-soft">{children}</DropdownMenu.Label>
);

/** Text instead of items, while the menu loads or when there is nothing to choose. */
export const MenuNote = ({ children }: { children: ReactNode }) => <p className="px-2 py-1 text-ink-soft">{children}</p>;

export const MenuSeparator = () => <DropdownMenu.Separator className="my-1 h-px bg-line" />;

/** An item that opens a menu of its own beside it. */
export function SubMenu({ label, children }: { label: string; children: ReactNode }) {
  return (
    <DropdownMenu.Sub>
      <DropdownMenu.SubTrigger className={ITEM}>
        {label} <span className="text-ink-soft">▸</span>
      </DropdownMenu.SubTrigger>
      <DropdownMenu.Portal>
        <DropdownMenu.SubContent sideOffset={2} collisionPadding={8} className={`${BOX} min-w-48`} style={height('18rem')}>
          {children}
        </DropdownMenu.SubContent>
      </DropdownMenu.Portal>
    </DropdownMenu.Sub>
  );
}

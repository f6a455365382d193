'use client';
/** Every command by name, with its key. */
import { Command } from 'cmdk';
import { Dialog } from 'radix-ui';
import { COMMANDS } from './commands';
import { keysOf } from './keymap';
import { shownKey } from './keys';

export function CommandSearch({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const groups = [...new Set(COMMANDS.map((c) => c.group))];
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-24 left-1/2 z-50 w-[460px] -translate-x-1/2 overflow-hidden rounded-lg border border-line bg-panel shadow-2xl"
        >
          <Dialog.Title className="sr-only">Find a command</Dialog.Title>
          <Command label="Commands" onKeyDown={(e) => e.key !== 'Escape' && e.stopPropagation()}>
            <Command.Input
              placeholder="What do you want to do?"
              className="h-11 w-full border-b border-line bg-transparent px-4 text-[15px] outline-none"
            />
            <Command.List className="max-h-80 overflow-auto p-1.5">
              <Command.Empty className="px-3 py-6 text-center text-ink-soft">No command of that name.</Command.Empty>
              {groups.map((group) => (
                <Command.Group
                  key={group}
                  heading={group}
                  className="[&_[cmdk-group-heading]]:px-2.5 [&_[cmdk-group-heading]]:py-1 [&_[cmdk-group-heading]]:text-[11px] [&_[cmdk-group-heading]]:text-ink-soft"
                >
                  {COMMANDS.filter((c) => c.group === group).map((c) => (
                    <Command.Item
                      key={c.id}
                      value={`${c.label} ${c.id}`}
                      onSelect={() => {
                        onOpenChange(false);
                        c.run();
                      }}
                      className="flex h-8 cursor-pointer items-center justify-between rounded px-2.5 data-[selected=true]:bg-accent-wash"
                    >
                      {c.label}
                      <kbd className="figures text-ink-soft">{keysOf(c).map(shownKey).join(' or ')}</kbd>
                    </Command.Item>
                  ))}
                </Command.Group>
              ))}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

'use client';
/** Asks before a mask goes from several layers. */
import { AlertDialog } from 'radix-ui';
import type { Layer, Mask } from '@/core/document/schema';
import { Button } from '../../common/controls';
import { deleteMask } from './commands';

interface DeleteMaskProps {
  mask: Mask;
  users: Layer[];
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

export function DeleteMask({ mask, users, open, onOpenChange }: DeleteMaskProps) {
  return (
    <AlertDialog.Root open={open} onOpenChange={onOpenChange}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <AlertDialog.Content className="fixed top-1/2 left-1/2 z-50 w-[420px] -translate-x-1/2 -translate-y-1/2 rounded-lg bg-panel p-5 shadow-2xl">
          <AlertDialog.Title className="text-[16px] font-semibold">
            {mask.name} is used by {users.length} layers
          </AlertDialog.Title>
          <AlertDialog.Description className="mt-2 text-ink-soft">
            {users.map((u) => u.name).join(', ')} would show all over without it. Undo brings it back.
          </AlertDialog.Description>
          <div className="mt-5 flex justify-end gap-2">
            <AlertDialog.Cancel asChild>
              <Button>Keep it</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button kind="main" onClick={() => deleteMask(mask)}>
                Delete it everywhere
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}

'use client';
/** Asks before a mask goes from several layers. */
import { AlertDialog } from 'radix-ui';
import type { Layer, Mask } from '@/core/document/schema';
import { AskBox } from '../../kit/AskBox';
import { Button } from '../../kit/Button';
import { deleteMask } from './commands';

interface DeleteMaskProps {
  mask: Mask;
  users: Layer[];
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

export function DeleteMask({ mask, users, open, onOpenChange }: DeleteMaskProps) {
  return (
    <AskBox
      open={open}
      onOpenChange={onOpenChange}
      width={420}
      title={`${mask.name} is used by ${users.length} layers`}
      about={`${users.map((u) => u.name).join(', ')} would show all over without it. Undo brings it back.`}
    >
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
    </AskBox>
  );
}

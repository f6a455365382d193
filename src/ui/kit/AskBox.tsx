'use client';
/** A question that has to be answered before work goes on: what it is about, and below it the ways out. */
import { AlertDialog } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import { Button } from './Button';

interface AskBoxProps {
  open: boolean;
  onOpenChange?: (open: boolean) => void;
  title: ReactNode;
  about: ReactNode;
  /** Between the question and its ways out. */
  more?: ReactNode;
  width?: 420 | 480;
  children: ReactNode;
}

const WIDTHS = { 420: 'w-[420px]', 480: 'w-[480px]' };

export function AskBox({ open, onOpenChange, title, about, more, width = 480, children }: AskBoxProps) {
  return (
    <AlertDialog.Root open={open} onOpenChange={onOpenChange}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <AlertDialog.Content
          className={`fixed top-1/2 left-1/2 z-50 ${WIDTHS[width]} -translate-x-1/2 -translate-y-1/2 rounded-lg bg-panel p-5 shadow-2xl`}
        >
          <AlertDialog.Title className="text-[16px] font-semibold">{title}</AlertDialog.Title>
          <AlertDialog.Description className="mt-2 text-ink-soft">{about}</AlertDialog.Description>
          {more}
          {children}
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}

interface KeepOrLoseProps {
  keep: string;
  onKeep: () => void;
  lose: string;
  /** Losing asks once more. */
  sure: string;
  yes: string;
  onLose: () => void;
}

/** Two ways out: one keeps all, the other loses something and asks once more. */
export function KeepOrLose({ keep, onKeep, lose, sure, yes, onLose }: KeepOrLoseProps) {
  const [losing, setLosing] = useState(false);
  if (losing)
    return (
      <div className="mt-4 flex items-center justify-end gap-2">
        <span className="min-w-0 flex-1">{sure}</span>
        <Button onClick={() => setLosing(false)}>Back</Button>
        <Button kind="main" onClick={onLose}>
          {yes}
        </Button>
      </div>
    );
  return (
    <div className="mt-4 flex justify-end gap-2">
      <Button onClick={() => setLosing(true)}>{lose}</Button>
      <AlertDialog.Action asChild>
        <Button kind="main" onClick={onKeep}>
          {keep}
        </Button>
      </AlertDialog.Action>
    </div>
  );
}

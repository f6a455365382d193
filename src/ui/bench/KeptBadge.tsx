'use client';
/** Whether what was painted is safe, and what to do when somebody else changed the piece. */
import { AlertDialog } from 'radix-ui';
import { useEffect, useState } from 'react';
import { ago } from '../common/api';
import { Button, Tip } from '../common/controls';
import { bench, useBench } from './store';

export function KeptBadge() {
  const kept = useBench((s) => s.kept);
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  const strokes = `${kept.waiting} change${kept.waiting === 1 ? '' : 's'}`;
  const shown = {
    kept: {
      dot: 'bg-kept',
      text: `Kept ${ago(kept.at, Math.max(now, kept.at))}`,
      tone: 'text-kept',
      hint: 'Everything is in the house’s database. There is nothing to save.',
    },
    keeping: { dot: 'bg-ink-soft', text: 'Keeping …', tone: 'text-ink-soft', hint: `${strokes} on the way to the database.` },
    offline: {
      dot: 'bg-fault',
      text: `Offline, ${kept.waiting} waiting`,
      tone: 'text-fault',
      hint: `The server does not answer. ${strokes} wait in this browser’s journal and are sent when it is back; closing the tab loses nothing. Click to try now.`,
    },
    conflict: { dot: 'bg-fault', text: 'Changed elsewhere', tone: 'text-fault', hint: 'Choose what happens to your changes.' },
  }[kept.state];
  return (
    <>
      <Tip label={shown.hint}>
        <button
          type="button"
          data-testid="kept"
          data-state={kept.state}
          data-waiting={kept.waiting}
          onClick={() => bench().send({ type: 'retry' })}
          className={`inline-flex h-7 min-w-28 items-center gap-1.5 rounded px-1.5 ${shown.tone}`}
        >
          <span className={`h-2 w-2 rounded-full ${shown.dot}`} />
          {shown.text}
        </button>
      </Tip>
      <ConflictDialog />
    </>
  );
}

export function ConflictDialog() {
  const kept = useBench((s) => s.kept);
  const resolve = (choice: 'copy' | 'discard') => bench().send({ type: 'resolve-conflict', choice });
  return (
    <AlertDialog.Root open={kept.state === 'conflict'}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <AlertDialog.Content className="fixed top-1/2 left-1/2 z-50 w-[440px] -translate-x-1/2 -translate-y-1/2 rounded-lg bg-panel p-5 shadow-2xl">
          <AlertDialog.Title className="text-[16px] font-semibold">This piece was changed elsewhere</AlertDialog.Title>
          <AlertDialog.Description className="mt-2 text-ink-soft">
            Another tab or window kept changes since you opened it. {kept.waiting} of your changes{' '}
            {kept.waiting === 1 ? 'is' : 'are'} safe in this browser, but not in the piece yet.
          </AlertDialog.Description>
          <div className="mt-5 flex justify-end gap-2">
            <AlertDialog.Action asChild>
              <Button onClick={() => resolve('discard')}>Drop mine, open the other</Button>
            </AlertDialog.Action>
            <AlertDialog.Action asChild>
              <Button kind="main" onClick={() => resolve('copy')}>
                Keep mine in a copy
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}

'use client';
/** The piece moved on without this browser, or the house was set back: the ways out, and what they concern. */
import { AlertDialog } from 'radix-ui';
import { useState } from 'react';
import { Button } from '../common/controls';
import { bench, useBench } from './store';

export function ConflictDialog() {
  const behind = useBench((s) => s.kept.state === 'behind');
  return behind ? <SetBackDialog /> : <ElsewhereDialog />;
}

const BOX = 'fixed top-1/2 left-1/2 z-50 w-[480px] -translate-x-1/2 -translate-y-1/2 rounded-lg bg-panel p-5 shadow-2xl';

/** The house has lost what it had kept, and this page still shows it. */
function SetBackDialog() {
  const { lost = 0, waiting } = useBench((s) => s.kept);
  const [dropping, setDropping] = useState(false);
  const entries = useBench((s) => s.kept.entries) ?? [];
  const drop = () => bench().send({ type: 'resolve-conflict', choice: 'drop', ids: entries.map((e) => e.id) });
  return (
    <AlertDialog.Root open>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <AlertDialog.Content className={BOX}>
          <AlertDialog.Title className="text-[16px] font-semibold">The house was set back to an older state</AlertDialog.Title>
          <AlertDialog.Description className="mt-2 text-ink-soft">
            Its database, restored from a backup perhaps, does not have {lost === 1 ? 'one change' : `${lost} changes`} any more
            that it had kept{waiting > 0 ? `; ${waiting} more ${waiting === 1 ? 'waits' : 'wait'} in this browser` : ''}. This
            page still has all of it.
          </AlertDialog.Description>
          {dropping ? (
            <div className="mt-4 flex items-center justify-end gap-2">
              <span className="min-w-0 flex-1">Lose what this page shows and the house does not have?</span>
              <Button onClick={() => setDropping(false)}>Back</Button>
              <Button kind="main" onClick={drop}>
                Lose it
              </Button>
            </div>
          ) : (
            <div className="mt-4 flex justify-end gap-2">
              <Button onClick={() => setDropping(true)}>Open what the house has</Button>
              <AlertDialog.Action asChild>
                <Button kind="main" onClick={() => bench().send({ type: 'resolve-conflict', choice: 'give-back' })}>
                  Give it back
                </Button>
              </AlertDialog.Action>
            </div>
          )}
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}

function ElsewhereDialog() {
  const kept = useBench((s) => s.kept);
  const [dropping, setDropping] = useState(false);
  const entries = kept.entries ?? [];
  const others = entries.filter((e) => !e.own).length;
  const n = entries.length || kept.waiting;
  const drop = () => bench().send({ type: 'resolve-conflict', choice: 'drop', ids: entries.map((e) => e.id) });
  return (
    <AlertDialog.Root open={kept.state === 'conflict'}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <AlertDialog.Content className={BOX}>
          <AlertDialog.Title className="text-[16px] font-semibold">This piece was changed elsewhere</AlertDialog.Title>
          <AlertDialog.Description className="mt-2 text-ink-soft">
            Another browser kept changes that this one has not seen. {n === 1 ? 'One change' : `${n} changes`} of yours{' '}
            {n === 1 ? 'is' : 'are'} safe in this browser, but not in the piece
            {others > 0 && others < n ? `; ${others} of them from another tab or an earlier visit` : ''}:
          </AlertDialog.Description>
          <ul className="mt-3 max-h-44 list-none overflow-auto border-y border-line py-1" data-testid="conflict-entries">
            {entries.map((e) => (
              <li key={e.id} className="flex justify-between gap-3 py-0.5">
                <span className="truncate">{e.label}</span>
                {!e.own && <span className="shrink-0 text-ink-soft">not of this tab</span>}
              </li>
            ))}
          </ul>
          {dropping ? (
            <div className="mt-4 flex items-center justify-end gap-2">
              <span className="min-w-0 flex-1">Drop {n === 1 ? 'this change' : `these ${n} changes`} for good?</span>
              <Button onClick={() => setDropping(false)}>Back</Button>
              <Button kind="main" onClick={drop}>
                Drop {n === 1 ? 'it' : 'them'}
              </Button>
            </div>
          ) : (
            <div className="mt-4 flex justify-end gap-2">
              <Button onClick={() => setDropping(true)}>Drop mine, open the other</Button>
              <AlertDialog.Action asChild>
                <Button kind="main" onClick={() => bench().send({ type: 'resolve-conflict', choice: 'copy' })}>
                  Keep mine in a copy
                </Button>
              </AlertDialog.Action>
            </div>
          )}
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}

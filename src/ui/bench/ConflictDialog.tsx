'use client';
/** The piece moved on without this browser: both ways out, and what they concern, by name. */
import { AlertDialog } from 'radix-ui';
import { useState } from 'react';
import { Button } from '../common/controls';
import { bench, useBench } from './store';

export function ConflictDialog() {
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
        <AlertDialog.Content className="fixed top-1/2 left-1/2 z-50 w-[480px] -translate-x-1/2 -translate-y-1/2 rounded-lg bg-panel p-5 shadow-2xl">
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

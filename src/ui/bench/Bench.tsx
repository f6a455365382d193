'use client';
/** The bench: strata at the left, the work in the middle, the hand under it. */
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { Button } from '../common/controls';
import { Mark } from '../common/Mark';
import { CommandSearch } from './CommandSearch';
import { COMMANDS, digitOpacity, keyOf } from './commands';
import { Hand } from './Hand';
import { watchHeldKeys } from './heldKeys';
import { JobBar } from './JobBar';
import { ConflictDialog } from './KeptBadge';
import { Panes } from './Panes';
import { offerSet } from './pictureSet';
import { PictureSetDialog } from './PictureSetDialog';
import { openBench, useBench } from './store';
import { Strata } from './Strata';
import { TopBar } from './TopBar';
import { useCardPicture } from './useCardPicture';

/** Opens the piece's engine for as long as the page is there. */
export function useOpenPiece(pieceId: string): void {
  const router = useRouter();
  useEffect(
    () =>
      openBench(pieceId, (next) => {
        if (next === pieceId) window.location.reload();
        else router.replace(`/pieces/${next}`);
      }),
    [pieceId, router],
  );
  const notice = useBench((s) => s.notice);
  useEffect(() => {
    if (notice) toast(notice.message, { id: 'bench-notice' });
  }, [notice]);
}

export function Bench({ pieceId }: { pieceId: string }) {
  useOpenPiece(pieceId);
  const phase = useBench((s) => s.phase);
  const [searching, setSearching] = useState(false);
  useEffect(watchHeldKeys, []);
  useEffect(() => {
    if (phase !== 'open') return;
    const onKey = (e: KeyboardEvent) => {
      const key = keyOf(e);
      if (key === 'ctrl+k') {
        e.preventDefault();
        return setSearching(true);
      }
      if (e.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName)) return;
      if (document.querySelector('[role="dialog"],[role="alertdialog"],[role="menu"]')) return;
      const command = COMMANDS.find((c) => c.keys.includes(key));
      if (command) {
        e.preventDefault();
        command.run();
      } else if (/^[0-9]$/.test(key)) digitOpacity(Number(key));
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [phase]);
  if (phase !== 'open') return <Waiting pieceId={pieceId} />;
  return (
    <div
      className="flex h-dvh flex-col overflow-hidden"
      data-testid="bench"
      onDragOver={(e) => e.dataTransfer.types.includes('Files') && e.preventDefault()}
      onDrop={(e) => {
        const files = [...e.dataTransfer.files];
        if (files.length === 0) return;
        e.preventDefault();
        offerSet(files, null);
      }}
    >
      <TopBar onSearch={() => setSearching(true)} />
      <div className="flex min-h-0 flex-1">
        <Strata />
        <main className="flex min-w-0 flex-1 flex-col">
          <Panes />
          <Hand />
        </main>
      </div>
      <JobBar />
      <Thumbnails pieceId={pieceId} />
      <PictureSetDialog />
      <CommandSearch open={searching} onOpenChange={setSearching} />
    </div>
  );
}

function Thumbnails({ pieceId }: { pieceId: string }) {
  useCardPicture(pieceId);
  return null;
}

export function Waiting({ pieceId }: { pieceId: string }) {
  const phase = useBench((s) => s.phase);
  const { what, done, total } = useBench((s) => s.opening);
  const failure = useBench((s) => s.failure);
  return (
    <div className="flex h-dvh flex-col items-center justify-center gap-4 bg-work text-white">
      <ConflictDialog />
      <Mark size={44} />
      {phase === 'failed' ? (
        <>
          <p role="alert" className="max-w-md text-center text-[15px]">
            {failure}
          </p>
          <div className="flex gap-2 text-ink">
            <Button onClick={() => window.location.reload()} key={pieceId}>
              Try again
            </Button>
            <Link href="/" className="inline-flex h-8 items-center rounded border border-line bg-raised px-3 font-medium">
              All pieces
            </Link>
          </div>
        </>
      ) : (
        <>
          <p className="text-[14px]">{what} …</p>
          <div className="h-1 w-56 overflow-hidden rounded bg-white/25">
            <div
              className="h-full bg-white transition-all"
              style={{ width: `${Math.max(4, (100 * done) / Math.max(1, total))}%` }}
            />
          </div>
        </>
      )}
    </div>
  );
}

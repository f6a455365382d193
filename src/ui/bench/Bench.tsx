'use client';
/** The bench: strata at the left, the work in the middle, the hand under it. */
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { Bakes } from './bakes/BakesCard';
import { CommandSearch } from './keys/CommandSearch';
import { COMMANDS, digitOpacity } from './keys/commands';
import { keysOf, useKeyMap } from './keys/keymap';
import { listenToKeys } from './keys/keys';
import { holdTools } from './keys/holdTools';
import { KeySheet } from './keys/KeySheet';
import { Hand } from './hand/Hand';
import { LastBrushes } from './hand/LastBrushes';
import { PenSheet } from './hand/PenSheet';
import { watchHeldKeys } from './pointer/heldKeys';
import { JobBar } from './top/JobBar';
import type { LastLook } from '@/core/piece/look';
import { Notices } from './top/Notices';
import { Panes } from './panes/Panes';
import { offerSet } from './pictures/pictureSet';
import { PictureSetDialog } from './pictures/PictureSetDialog';
import { Pins } from './pins/Pins';
import { openBench, useBench } from './store';
import { Strata } from './strata/Strata';
import { TopBar } from './top/TopBar';
import { useCardPicture } from './pictures/useCardPicture';
import { Waiting } from './kept/Waiting';

/** Commands that go on while their key is held. */
const REPEATS = new Set(['smaller', 'larger', 'undo', 'redo', 'next-view', 'last-view']);

/** Opens the piece's engine for as long as the page is there. Returns how to take it from a tab that does not answer. */
export function useOpenPiece(pieceId: string): () => void {
  const router = useRouter();
  const [tries, setTries] = useState(0);
  const [force, setForce] = useState(false);
  useEffect(
    () =>
      openBench(
        pieceId,
        (next) => {
          if (next === pieceId) setTries((n) => n + 1);
          else router.replace(`/pieces/${next}`);
        },
        force,
      ),
    [pieceId, router, tries, force],
  );
  // Asked for once, by the first piece that is opened: the browser then does not clear the journal on its own.
  useEffect(() => void navigator.storage?.persist?.(), []);
  const notice = useBench((s) => s.notice);
  useEffect(() => {
    if (notice) toast(notice.message, { id: 'bench-notice' });
  }, [notice]);
  return () => setForce(true);
}

export function Bench({ pieceId, look }: { pieceId: string; look: LastLook | null }) {
  const takeOver = useOpenPiece(pieceId);
  const phase = useBench((s) => s.phase);
  const ready = useBench((s) => s.ready);
  const [searching, setSearching] = useState(false);
  const keyMap = useKeyMap((s) => s.own);
  const over = useBench((s) => s.sheet);
  const closeSheet = () => useBench.setState({ sheet: null });
  useEffect(watchHeldKeys, []);
  useEffect(() => {
    if (phase !== 'open') return;
    const search = { keys: ['ctrl+k'], run: () => setSearching(true), always: true };
    const digits = Array.from({ length: 10 }, (_, n) => ({ keys: [String(n)], run: () => digitOpacity(n) }));
    const own = COMMANDS.map((c) => ({
      keys: keysOf(c, keyMap),
      run: (e: KeyboardEvent) => (!e.repeat || REPEATS.has(c.id)) && c.run(),
    }));
    const stop = listenToKeys([...own, ...digits, search]);
    const letGo = holdTools(keyMap);
    return () => {
      stop();
      letGo();
    };
  }, [phase, keyMap]);
  if (phase !== 'open') return <Waiting pieceId={pieceId} look={look} onTakeOver={takeOver} />;
  return (
    <div
      className="flex h-dvh flex-col overflow-hidden"
      data-testid="bench"
      data-ready={ready}
      onDragOver={(e) => e.dataTransfer.types.includes('Files') && e.preventDefault()}
      onDrop={(e) => {
        const files = [...e.dataTransfer.files];
        if (files.length === 0) return;
        e.preventDefault();
        offerSet(files, null);
      }}
    >
      <TopBar onSearch={() => setSearching(true)} />
      <Notices />
      <div className="flex min-h-0 flex-1">
        <Strata />
        <main className="flex min-w-0 flex-1 flex-col">
          <Panes pieceId={pieceId} look={look} />
          <Hand />
        </main>
      </div>
      <JobBar />
      <Thumbnails pieceId={pieceId} />
      <PictureSetDialog />
      <LastBrushes />
      <Pins pieceId={pieceId} />
      <Bakes />
      {over === 'keys' && <KeySheet onClose={closeSheet} />}
      {over === 'pen' && <PenSheet onClose={closeSheet} />}
      <CommandSearch open={searching} onOpenChange={setSearching} />
    </div>
  );
}

function Thumbnails({ pieceId }: { pieceId: string }) {
  useCardPicture(pieceId);
  return null;
}

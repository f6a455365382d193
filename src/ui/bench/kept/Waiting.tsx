'use client';
/** What stands where the bench is not: opening, failed, deleted, at work in another tab. */
import Link from 'next/link';
import { useState, type ReactNode } from 'react';
import { ask } from '../../common/api';
import { Button } from '../../kit/Button';
import { Mark } from '../../kit/Mark';
import { ConflictDialog } from './ConflictDialog';
import type { LastLook } from '@/core/piece/look';
import { LookPicture } from '../panes/LookPicture';
import { useBench } from '../store';

const AllPieces = () => (
  <Link href="/" className="inline-flex h-8 items-center rounded border border-line bg-raised px-3 font-medium">
    All pieces
  </Link>
);

export function Waiting({ pieceId, look, onTakeOver }: { pieceId: string; look: LastLook | null; onTakeOver: () => void }) {
  const phase = useBench((s) => s.phase);
  // The bench as it will be, with the picture that it was left with.
  if (phase === 'opening' && look && (look.left || look.hasThumbnail)) {
    const { left, bottom } = look.left?.insets ?? { left: 344, bottom: 172 };
    return (
      <main className="relative h-dvh overflow-hidden bg-work text-ink">
        <h1 className="sr-only">The bench</h1>
        <ConflictDialog />
        <div className="absolute inset-x-0 top-0 h-10 border-b border-line bg-panel" />
        <div className="absolute top-10 bottom-0 left-0 border-r border-line bg-panel" style={{ width: left }} />
        <div className="absolute right-0 bottom-0 border-t border-line bg-panel" style={{ left, height: bottom }} />
        <LookPicture pieceId={pieceId} look={look} />
        <div className="absolute bottom-0 left-0 flex w-84 flex-col gap-2 p-3">
          <Opening />
        </div>
      </main>
    );
  }
  return (
    <main className="flex h-dvh flex-col items-center justify-center gap-4 bg-work text-ink">
      <h1 className="sr-only">The bench</h1>
      <ConflictDialog />
      <Mark size={44} />
      {phase === 'failed' ? (
        <Failed pieceId={pieceId} />
      ) : phase === 'elsewhere' ? (
        <Said text="This piece is being painted in another tab now. Everything from here was handed over.">
          <Button onClick={() => window.location.reload()}>Paint here</Button>
          <AllPieces />
        </Said>
      ) : phase === 'busy' ? (
        <Said text="Another tab has this piece and does not answer. Taken over from it, the piece has everything up to the last stroke that was finished there.">
          <Button onClick={onTakeOver}>Take it over</Button>
          <Button onClick={() => window.location.reload()}>Ask again</Button>
          <AllPieces />
        </Said>
      ) : (
        <Opening />
      )}
    </main>
  );
}

function Said({ text, children }: { text: string; children: ReactNode }) {
  return (
    <>
      <p role="alert" className="max-w-md text-center text-[15px]">
        {text}
      </p>
      <div className="flex gap-2">{children}</div>
    </>
  );
}

function Failed({ pieceId }: { pieceId: string }) {
  const failure = useBench((s) => s.failure);
  const { deleted, waiting } = useBench((s) => s.failed);
  const [trouble, setTrouble] = useState('');
  const waits =
    waiting > 0 ? ` ${waiting === 1 ? 'One change of it waits' : `${waiting} changes of it wait`} in this browser.` : '';
  const restore = () =>
    ask(`/api/pieces/${pieceId}`, { method: 'PATCH', body: JSON.stringify({ deleted: false }) }).then(
      () => window.location.reload(),
      (error: Error) => setTrouble(error.message),
    );
  return (
    <Said text={`${failure}${waits}${trouble ? ` ${trouble}` : ''}`}>
      {deleted ? (
        <Button onClick={() => void restore()}>Bring it back</Button>
      ) : (
        <Button onClick={() => window.location.reload()}>Try again</Button>
      )}
      <AllPieces />
    </Said>
  );
}

function Opening() {
  const { what, done, total } = useBench((s) => s.opening);
  return (
    <>
      <p className="text-[14px]">{what} …</p>
      <div className="h-1 w-56 overflow-hidden rounded bg-ink/25">
        <div className="h-full bg-ink transition-all" style={{ width: `${Math.max(4, (100 * done) / Math.max(1, total))}%` }} />
      </div>
    </>
  );
}

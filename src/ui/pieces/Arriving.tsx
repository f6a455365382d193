'use client';
/** Demo pieces that are still being imported. */
import { LoaderCircle, TriangleAlert } from 'lucide-react';
import { useEffect, useState } from 'react';
import { ask } from '../common/api';
import { onUpdate } from '@/engine/updates';
import { onceAtATime } from '../common/onceAtATime';

interface ArrivingPiece {
  name: string;
  title: string;
  fault: string | null;
}

/** The pieces that are being imported. `onArrived` (has to stay the same function) loads those that are there. */
export function useArriving(onArrived: () => Promise<unknown>): ArrivingPiece[] {
  const [pieces, setPieces] = useState<ArrivingPiece[]>([]);
  useEffect(() => {
    let left = false;
    let before = 0;
    const look = onceAtATime(async () => {
      const now = await ask<ArrivingPiece[]>('/api/arriving').catch(() => null);
      if (left) return;
      if (now) {
        // Loads the card of a piece before its placeholder goes, so that the piece is always to be seen.
        if (now.length < before) await onArrived();
        before = now.length;
        setPieces(now);
      }
    });
    look();
    const stop = onUpdate('arriving', look);
    return () => {
      left = true;
      stop();
    };
  }, [onArrived]);
  return pieces;
}

export function ArrivingCard({ piece: { title, fault } }: { piece: ArrivingPiece }) {
  return (
    <li className="overflow-hidden rounded-lg border border-dashed border-line bg-raised" data-testid="arriving-card">
      <div className="flex aspect-[4/3] items-center justify-center bg-work text-white/80" aria-hidden="true">
        {fault ? <TriangleAlert size={28} /> : <LoaderCircle size={28} className="animate-spin motion-reduce:animate-none" />}
      </div>
      <div className="px-3 py-2">
        <p className="truncate text-[14px] font-semibold">{title}</p>
        {fault ? (
          <p role="alert" className="text-[12px] text-fault">
            Not imported: {fault}
          </p>
        ) : (
          <p role="status" className="text-[12px] text-ink-soft">
            Being imported …
          </p>
        )}
      </div>
    </li>
  );
}

'use client';
/** Dispatch: what goes out, at which size, under which names. */
import { ArrowLeft } from 'lucide-react';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { dispatchSchema, type DispatchOptions } from '@/core/deliver/options';
import { offersOf } from '@/core/deliver/outputs';
import { planDispatch } from '@/core/deliver/plan';
import type { Piece } from '@/core/document/schema';
import { useOpenPiece } from '../bench/Bench';
import { ConflictDialog } from '../bench/kept/ConflictDialog';
import { JobBar } from '../bench/top/JobBar';
import { useBench } from '../bench/store';
import { Waiting } from '../bench/kept/Waiting';
import { Archive } from './Archive';
import { Options } from './Options';

export function Dispatch({ pieceId }: { pieceId: string }) {
  const takeOver = useOpenPiece(pieceId);
  const phase = useBench((s) => s.phase);
  const piece = useBench((s) => s.document);
  if (phase !== 'open' || !piece) return <Waiting pieceId={pieceId} look={null} onTakeOver={takeOver} />;
  return <DispatchPage piece={piece} />;
}

function DispatchPage({ piece }: { piece: Piece }) {
  const [options, setOptions] = useState<DispatchOptions>(() => ({
    ...dispatchSchema.parse({}),
    sheets: piece.sheets.map((s) => s.id),
    maps: offersOf(piece)
      .filter((o) => o.atStart)
      .map((o) => o.id),
  }));
  const change = (next: Partial<DispatchOptions>) => setOptions({ ...options, ...next });
  const plan = useMemo(
    () =>
      options.sheets.length === 0
        ? { ok: false as const, message: 'No sheet is chosen: choose at least one.' }
        : planDispatch(piece, options),
    [piece, options],
  );
  return (
    <div className="min-h-dvh">
      <ConflictDialog />
      <header className="flex h-14 items-center gap-3 border-b border-line px-6">
        <Link href={`/pieces/${piece.id}`} aria-label="Back to the bench" className="rounded p-1 hover:bg-field">
          <ArrowLeft size={18} />
        </Link>
        <h1 className="text-[17px] font-semibold">Dispatch</h1>
        <span className="text-[15px] text-ink-soft">{piece.name}</span>
      </header>
      <main className="mx-auto grid max-w-[1180px] grid-cols-[minmax(0,1fr)_minmax(0,440px)] gap-10 p-6">
        <Options piece={piece} options={options} change={change} />
        <Archive plan={plan} options={options} />
      </main>
      <JobBar />
    </div>
  );
}

'use client';
/** The queue of bakes: what runs, waits and ran, who works on it, and how they are. */
import { Square } from 'lucide-react';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { secondsLeft, type BakeStatus, type WorkerCard } from '@/core/kinds/bakes/status';
import { IconButton } from '../kit/Button';
import { Mark } from '../kit/Mark';
import { onUpdate } from '@/engine/updates';
import { onceAtATime } from '../common/onceAtATime';

/** A worker that dies says nothing: so long after the last answer it is asked whether they are still alive. */
const ALIVE_MS = 10_000;
const TONE = {
  waiting: 'text-ink-soft',
  running: 'text-ink',
  done: 'text-kept',
  failed: 'text-fault',
  cancelled: 'text-ink-soft',
};

export function Jobs() {
  const [found, setFound] = useState<{ bakes: BakeStatus[]; workers: WorkerCard[] } | null>(null);
  const [failing, setFailing] = useState(false);
  const [tick, setTick] = useState(0);
  useEffect(() => {
    let gone = false;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const ask = onceAtATime(async () => {
      const answer = await fetch('/api/bakes').catch(() => null);
      if (gone) return;
      setFailing(!answer?.ok);
      if (answer?.ok) setFound((await answer.json()) as typeof found);
      clearTimeout(timer);
      timer = setTimeout(ask, ALIVE_MS);
    });
    ask();
    const stop = [onUpdate('bakes', ask), onUpdate('workers', ask)];
    return () => {
      gone = true;
      clearTimeout(timer);
      for (const end of stop) end();
    };
  }, [tick]);
  const cancel = async (key: string) => {
    await fetch(`/api/bakes/${key}`, { method: 'DELETE' }).catch(() => null);
    setTick((n) => n + 1);
  };
  const alive = found?.workers.filter((w) => w.alive) ?? [];
  const waiting = found?.bakes.some((b) => b.state === 'waiting' || b.state === 'running') ?? false;
  return (
    <main className="mx-auto max-w-4xl px-6 pb-10">
      <header className="flex h-12 items-center gap-3">
        <Link href="/" aria-label="All pieces" className="rounded p-1 hover:bg-field">
          <Mark />
        </Link>
        <h1 className="text-[15px] font-semibold">Bakes on this server</h1>
      </header>
      {failing && (
        <p role="status" className="mb-3 rounded border border-line bg-raised px-3 py-2 text-fault">
          The server does not answer: what is under way goes on, and is shown again when it is back.
        </p>
      )}
      <section aria-label="Workers" className="mb-5">
        <h2 className="mb-1 font-semibold">Workers</h2>
        {found && alive.length === 0 && (
          <p className={waiting ? 'text-fault' : 'text-ink-soft'}>
            Nobody bakes just now{waiting ? ', and there is work' : ''}: ./brindle start brings a worker along, ./brindle worker
            adds one.
          </p>
        )}
        <ul>
          {found?.workers.map((w) => (
            <li key={w.id} className="flex h-7 items-center gap-2 border-b border-line">
              <span aria-hidden className={`h-2 w-2 rounded-full ${w.alive ? 'bg-kept' : 'bg-fault'}`} />
              <span className="figures flex-1 truncate">{w.id}</span>
              <span className="figures text-ink-soft">
                {w.cores} cores{w.alive ? '' : ', not seen for a while'}
              </span>
            </li>
          ))}
        </ul>
      </section>
      <section aria-label="Queue">
        <h2 className="mb-1 font-semibold">Queue</h2>
        {!found && <p className="text-ink-soft">Looking …</p>}
        {found?.bakes.length === 0 && (
          <p className="text-ink-soft">Nothing was baked yet: open a piece of a model, and its bakes.</p>
        )}
        <ul>
          {found?.bakes.map((b) => (
            <Row key={b.key} bake={b} onCancel={() => void cancel(b.key)} />
          ))}
        </ul>
      </section>
    </main>
  );
}

function Row({ bake: b, onCancel }: { bake: BakeStatus; onCancel: () => void }) {
  const busy = b.state === 'waiting' || b.state === 'running';
  const share = b.tiles > 0 ? b.done / b.tiles : 0;
  const left = secondsLeft(b);
  return (
    <li className="border-b border-line py-1">
      <div className="flex h-7 items-center gap-3">
        <span className={`w-20 shrink-0 ${TONE[b.state]}`}>{b.state}</span>
        <Link href={`/pieces/${b.pieceId}`} className="min-w-0 flex-1 truncate hover:underline">
          {b.label}
        </Link>
        <span className="figures text-ink-soft">
          {b.state === 'running' && `${Math.round(share * 100)} %${left === null ? '' : `, about ${left} s left`}`}
          {b.state === 'done' && b.seconds !== null && `${b.seconds.toFixed(1)} s`}
        </span>
        <span className="w-7">
          {busy && (
            <IconButton label={`Cancel ${b.label}`} className="h-6 w-6" onClick={onCancel}>
              <Square size={12} />
            </IconButton>
          )}
        </span>
      </div>
      {b.state === 'running' && (
        <div className="mb-1 ml-[92px] h-1 overflow-hidden rounded bg-line">
          <div className="h-full bg-accent" style={{ width: `${share * 100}%` }} />
        </div>
      )}
      {b.message && <p className="ml-[92px] text-fault">{b.message}</p>}
    </li>
  );
}

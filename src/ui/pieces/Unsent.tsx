'use client';
/** What waits in this browser, said where nobody can miss it: on the page of pieces. */
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { pageJournal } from '@/engine/client';

interface Waiting {
  pieceId: string;
  waiting: number;
  aside: number;
}

export function Unsent({ names }: { names: ReadonlyMap<string, string> }) {
  const [list, setList] = useState<Waiting[]>([]);
  useEffect(() => {
    pageJournal()
      .door.summary()
      .then(setList, () => setList([]));
  }, []);
  if (list.length === 0) return null;
  return (
    <ul className="mb-5 divide-y divide-line rounded-lg border border-fault/50 bg-raised" data-testid="unsent">
      {list.map(({ pieceId, waiting, aside }) => (
        <li key={pieceId} className="flex items-center gap-3 px-3 py-2">
          <span className="min-w-0 flex-1">
            <b className="font-semibold">{names.get(pieceId) ?? 'A piece that is not on the server any more'}</b>:{' '}
            {inWords(waiting, aside)}.
          </span>
          <Link href={`/pieces/${pieceId}`} className="rounded border border-line px-2 py-1 font-medium hover:bg-field">
            Open it
          </Link>
        </li>
      ))}
    </ul>
  );
}

export function inWords(waiting: number, aside: number): string {
  const changes = (n: number) => `${n} change${n === 1 ? '' : 's'}`;
  const parts = [
    waiting > 0
      ? `${changes(waiting)} ${waiting === 1 ? 'waits in this browser and goes' : 'wait in this browser and go'} to the server when it is opened`
      : '',
    aside > 0 ? `${changes(aside)} that the server refused ${aside === 1 ? 'is' : 'are'} set aside` : '',
  ];
  return parts.filter(Boolean).join('; ');
}

'use client';
/** More about keeping: room in this browser, and the changes that were set aside, each with its ways out. */
import { Download, RotateCcw, Trash2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { NamedEntry } from '@/engine/protocol';
import { ago, download } from '../../common/api';
import { Button, IconButton } from '../../kit/Button';
import { asideFile } from './asideFile';
import { exportPieceFile, keepAsNewPiece } from '../top/deliver';
import { bench, say, useBench } from '../store';

export function KeptPanel({ hint }: { hint: string }) {
  const kept = useBench((s) => s.kept);
  const room = useRoom();
  return (
    <div className="space-y-3">
      <p>{hint}</p>
      {kept.state === 'gone' && kept.forGood && (
        <div className="flex gap-2">
          <Button kind="main" onClick={() => void keepAsNewPiece()}>
            Keep it as a new piece
          </Button>
          <Button onClick={() => void exportPieceFile()}>Download the piece file</Button>
        </div>
      )}
      {kept.state === 'gone' && !kept.forGood && (
        <Button kind="main" onClick={() => bench().send({ type: 'restore' })}>
          Bring the piece back
        </Button>
      )}
      {kept.state === 'offline' && <Button onClick={() => bench().send({ type: 'retry' })}>Try now</Button>}
      {kept.entries && kept.entries.length > 0 && <EntryList title="Waiting in this browser" entries={kept.entries} />}
      {kept.aside.length > 0 && <EntryList title="Set aside" entries={kept.aside} actions />}
      {room && <p className="border-t border-line pt-2 text-ink-soft">{room}</p>}
    </div>
  );
}

function EntryList({ title, entries, actions = false }: { title: string; entries: readonly NamedEntry[]; actions?: boolean }) {
  return (
    <section>
      <h2 className="mb-1 font-semibold">{title}</h2>
      <ul className="max-h-56 divide-y divide-line overflow-auto border-t border-line">
        {entries.map((e) => (
          <EntryRow key={e.id} entry={e} actions={actions} />
        ))}
      </ul>
    </section>
  );
}

function EntryRow({ entry, actions }: { entry: NamedEntry; actions: boolean }) {
  const [dropping, setDropping] = useState(false);
  const { id, label, at, why } = entry;
  const send = (action: 'again' | 'drop') => bench().send({ type: 'aside', id, do: action });
  return (
    <li className="py-1.5" data-testid="kept-entry">
      <div className="flex items-center gap-1">
        <span className="min-w-0 flex-1 truncate font-medium" title={label}>
          {label}
        </span>
        {at > 0 && <span className="figures shrink-0 text-[11.5px] text-ink-soft">{ago(at)}</span>}
        <IconButton label="Download as a file" onClick={() => void save(id)}>
          <Download size={14} />
        </IconButton>
        {actions && (
          <>
            <IconButton label="Try again" onClick={() => send('again')}>
              <RotateCcw size={14} />
            </IconButton>
            <IconButton label="Drop for good" onClick={() => setDropping(true)}>
              <Trash2 size={14} />
            </IconButton>
          </>
        )}
      </div>
      {why && <p className="text-[12px] text-ink-soft">{why}</p>}
      {dropping && (
        <div className="mt-1 flex items-center gap-2">
          <span className="min-w-0 flex-1">Drop “{label}” for good?</span>
          <Button onClick={() => setDropping(false)}>Keep it</Button>
          <Button kind="main" onClick={() => send('drop')}>
            Drop it
          </Button>
        </div>
      )}
    </li>
  );
}

async function save(id: string): Promise<void> {
  const entry = (await bench().entries()).find((e) => e.id === id);
  if (!entry) return say('That change is not in this browser any more.');
  download(...asideFile(entry));
}

/** How much this browser has room for, and whether it has promised to keep it. */
function useRoom(): string {
  const [room, setRoom] = useState('');
  useEffect(() => {
    void roomInWords().then(setRoom);
  }, []);
  return room;
}

export async function roomInWords(storage: StorageManager | undefined = navigator.storage): Promise<string> {
  if (!storage?.estimate) return '';
  const { quota = 0, usage = 0 } = await storage.estimate();
  const safe = (await storage.persisted?.()) ?? false;
  const gigabytes = (n: number) => (n >= 1e9 ? `${(n / 1e9).toFixed(1)} GB` : `${Math.round(n / 1e6)} MB`);
  return `Room in this browser: ${gigabytes(quota - usage)} free, ${gigabytes(usage)} used. ${
    safe ? 'It has promised to keep it.' : 'It may clear it when its disk is full: what the server has taken is safe.'
  }`;
}

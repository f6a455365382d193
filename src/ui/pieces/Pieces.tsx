'use client';
/** Home: the pieces as cards. */
import { Copy, FolderInput, MoreHorizontal, Pencil, Plus, Search, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useCallback, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { Menu, MenuItem } from '../kit/Menu';
import { ago, ask } from '../common/api';
import { Button } from '../kit/Button';
import { SchemeButton } from '../bench/top/TopBar';
import { Mark } from '../kit/Mark';
import { NameInput } from '../kit/NameInput';
import { ArrivingCard, useArriving } from './Arriving';
import { Unsent } from './Unsent';

interface Card {
  id: string;
  name: string;
  kind: 'model' | 'canvas';
  sheets: { name: string; width: number; height: number }[];
  updatedAt: string;
  hasThumbnail: boolean;
}

export function Pieces() {
  const [cards, setCards] = useState<Card[] | null>(null);
  const [failure, setFailure] = useState('');
  const [query, setQuery] = useState('');
  const [importing, setImporting] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const load = useCallback(
    () =>
      ask<Card[]>('/api/pieces').then(
        (list) => {
          setCards(list);
          setFailure('');
        },
        (error: Error) => setFailure(error.message),
      ),
    [],
  );
  useEffect(() => void load(), [load]);
  const arriving = useArriving(load);

  const attempt = async (work: Promise<unknown>) => {
    try {
      await work;
    } catch (error) {
      toast.error((error as Error).message);
    }
    await load();
  };
  const remove = (card: Card) =>
    attempt(
      ask(`/api/pieces/${card.id}`, { method: 'DELETE' }).then(() =>
        toast(`"${card.name}" is deleted.`, {
          duration: 10_000,
          action: {
            label: 'Undo',
            onClick: () =>
              void attempt(ask(`/api/pieces/${card.id}`, { method: 'PATCH', body: JSON.stringify({ deleted: false }) })),
          },
        }),
      ),
    );
  const importFile = async (chosen: File | undefined) => {
    if (!chosen) return;
    setImporting(true);
    await attempt(ask('/api/pieces/import', { method: 'POST', body: chosen }).then(() => toast(`"${chosen.name}" is imported.`)));
    setImporting(false);
  };

  const shown = cards?.filter((c) => c.name.toLowerCase().includes(query.trim().toLowerCase()));
  return (
    <div
      className="min-h-dvh"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        void importFile(e.dataTransfer.files[0]);
      }}
    >
      <header className="flex h-14 items-center gap-3 border-b border-line px-6">
        <Mark size={26} />
        <h1 className="text-[17px] font-semibold">Pieces</h1>
        <label className="ml-6 flex h-8 w-64 items-center gap-2 rounded border border-line bg-raised px-2">
          <Search size={14} className="text-ink-soft" />
          <input
            aria-label="Search the pieces"
            placeholder="Search by name"
            value={query}
            onChange={(e) => setQuery(e.target.value)}
            className="min-w-0 flex-1 bg-transparent outline-none"
          />
        </label>
        <span className="flex-1" />
        <SchemeButton />
        <input
          ref={file}
          type="file"
          accept=".brindle"
          hidden
          onChange={(e) => void importFile(e.target.files?.[0]).then(() => (e.target.value = ''))}
        />
        <Button onClick={() => file.current?.click()} disabled={importing}>
          <FolderInput size={15} /> {importing ? 'Importing …' : 'Import a piece file'}
        </Button>
        <Link
          href="/new"
          className="inline-flex h-8 items-center gap-1.5 rounded bg-ink px-3 font-medium text-panel hover:opacity-85"
        >
          <Plus size={15} /> New piece
        </Link>
      </header>
      <main className="mx-auto max-w-[1240px] p-6">
        {failure && (
          <p role="alert" className="mb-4 flex items-center gap-3 text-fault">
            {failure} <Button onClick={() => void load()}>Try again</Button>
          </p>
        )}
        <Unsent names={new Map(cards?.map((c) => [c.id, c.name]))} />
        {!cards && !failure && <p className="text-ink-soft">Fetching the pieces …</p>}
        {cards?.length === 0 && arriving.length === 0 && (
          <div className="mx-auto mt-24 max-w-sm text-center">
            <p className="text-[15px] font-semibold">Nothing here yet</p>
            <p className="mt-1 text-ink-soft">
              Begin with a UV-mapped model or a tileable canvas. A piece file dropped on this page is imported.
            </p>
          </div>
        )}
        {shown && cards!.length > 0 && shown.length === 0 && (
          <p className="mt-16 text-center text-ink-soft">No piece has “{query}” in its name.</p>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(264px,1fr))] gap-5">
          {shown?.map((card) => (
            <PieceCard
              key={card.id}
              card={card}
              onRename={(name) => attempt(ask(`/api/pieces/${card.id}`, { method: 'PATCH', body: JSON.stringify({ name }) }))}
              onDuplicate={() => attempt(ask(`/api/pieces/${card.id}/duplicate`, { method: 'POST' }))}
              onDelete={() => remove(card)}
            />
          ))}
          {!query && arriving.map((piece) => <ArrivingCard key={piece.name} piece={piece} />)}
        </ul>
      </main>
    </div>
  );
}

function PieceCard({
  card,
  onRename,
  onDuplicate,
  onDelete,
}: {
  card: Card;
  onRename: (name: string) => void;
  onDuplicate: () => void;
  onDelete: () => void;
}) {
  const [naming, setNaming] = useState(false);
  /** The menu gives the focus back when it closes: only then can the name take it. */
  const wantsName = useRef(false);
  const first = card.sheets[0];
  return (
    <li
      className="group overflow-hidden rounded-lg border border-line bg-raised transition-colors hover:border-ink-soft"
      data-testid="piece-card"
    >
      <Link href={`/pieces/${card.id}`} aria-label={`Open ${card.name}`} className="block aspect-[4/3] bg-work">
        {card.hasThumbnail && (
          <img
            src={`/api/pieces/${card.id}/thumbnail?at=${card.updatedAt}`}
            alt=""
            width={320}
            height={240}
            className="h-full w-full object-cover"
          />
        )}
      </Link>
      <div className="flex items-start gap-1 px-3 py-2">
        <div className="min-w-0 flex-1">
          {naming ? (
            <NameInput
              name={card.name}
              label="Name of the piece"
              className="w-full px-1 text-[14px] font-semibold"
              onAccept={onRename}
              onRefuse={(message) => toast.error(message)}
              done={() => setNaming(false)}
            />
          ) : (
            <Link href={`/pieces/${card.id}`} className="block truncate text-[14px] font-semibold">
              {card.name}
            </Link>
          )}
          <p className="truncate text-[12px] text-ink-soft">
            {card.kind === 'canvas' ? 'Canvas' : `${card.sheets.length} sheet${card.sheets.length === 1 ? '' : 's'}`} ·{' '}
            <span className="figures">
              {first.width} × {first.height}
            </span>{' '}
            · {ago(card.updatedAt)}
          </p>
        </div>
        <Menu
          align="end"
          width="min-w-40"
          onCloseAutoFocus={(e) => {
            if (!wantsName.current) return;
            wantsName.current = false;
            e.preventDefault();
            setNaming(true);
          }}
          trigger={
            <button type="button" aria-label={`More for ${card.name}`} className="rounded p-1 hover:bg-field">
              <MoreHorizontal size={16} />
            </button>
          }
        >
          <MenuItem onSelect={() => void (wantsName.current = true)}>
            Rename <Pencil size={14} />
          </MenuItem>
          <MenuItem onSelect={onDuplicate}>
            Duplicate <Copy size={14} />
          </MenuItem>
          <MenuItem className="text-fault" onSelect={onDelete}>
            Delete <Trash2 size={14} />
          </MenuItem>
        </Menu>
      </div>
    </li>
  );
}

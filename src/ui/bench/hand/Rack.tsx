'use client';
/** The rack: brushes as cards with a stroke of their own, by groups; what is looked for, favourites, the last in hand. */
import { COLOUR_MAP } from '@/core/kinds/maps';
import { Download, Ellipsis, RotateCcw, Search, Star, Trash2, Upload } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import type { Brush } from '@/core/hand/brush';
import type { RackEntry } from '@/core/hand/rack/brushes';
import { Menu, MenuItem } from '../../kit/Menu';
import { FileButton } from '../../kit/FileButton';
import { IconButton } from '../../kit/Button';
import { SmallPictureView } from '../pictures/SmallPictureView';
import {
  dropBrush,
  exportBrushFile,
  importBrushFile,
  lastUsed,
  loadRack,
  markFavourite,
  takeBrush,
  useBench,
  useRack,
} from '../store';
import { useSmallPicture } from '../pictures/thumbnails';

/** On paper-coloured cards, whatever the wells hold: brushes are told by their strokes. */
const INK = [0.24, 0.22, 0.2];
const OTHER = [0.72, 0.58, 0.36];
const LAST = 4;

export const cardBrush = (brush: RackEntry['brush']): Brush => ({
  ...brush,
  second: OTHER,
  writes: { [COLOUR_MAP]: { on: true, value: INK, amount: 1 } },
});

export function Rack() {
  const entries = useRack((s) => s.entries);
  const failure = useRack((s) => s.failure);
  const [asked, setAsked] = useState('');
  useEffect(() => void loadRack(), []);
  const groups = useMemo(() => (entries ? grouped(entries, asked) : []), [entries, asked]);
  if (!entries)
    return (
      <p role={failure ? 'alert' : 'status'} className="py-6 text-center text-ink-soft">
        {failure ?? 'Fetching the brushes …'}
      </p>
    );
  return (
    <div className="space-y-2">
      <div className="sticky -top-3 z-10 -mx-3 -mt-3 flex items-center gap-1 bg-panel px-3 pt-3 pb-1">
        <label className="flex h-7 min-w-0 flex-1 items-center gap-1.5 rounded border border-line bg-raised px-2">
          <Search size={13} className="shrink-0 text-ink-soft" />
          <input
            aria-label="Find a brush"
            placeholder={`Find among ${entries.length}`}
            value={asked}
            onChange={(e) => setAsked(e.target.value)}
            className="min-w-0 flex-1 bg-transparent outline-none"
          />
        </label>
        <Files />
      </div>
      {groups.length === 0 && <p className="py-6 text-center text-ink-soft">No brush is called “{asked}”.</p>}
      {groups.map(({ name, brushes }) => (
        <section key={name} aria-label={name}>
          <h2 className="mb-1 text-ink-soft">{name}</h2>
          <ul className="grid grid-cols-2 gap-1.5">
            {brushes.map((entry) => (
              <Card key={entry.id} entry={entry} />
            ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

/** Favourites and the last in hand first; while something is looked for, only what is found. */
function grouped(entries: readonly RackEntry[], asked: string): { name: string; brushes: RackEntry[] }[] {
  const words = asked.trim().toLowerCase();
  if (words) {
    const found = entries.filter(({ name, group }) => `${name} ${group}`.toLowerCase().includes(words));
    return found.length ? [{ name: 'Found', brushes: found }] : [];
  }
  const groups = new Map<string, RackEntry[]>();
  for (const entry of entries) groups.set(entry.group, [...(groups.get(entry.group) ?? []), entry]);
  return [
    { name: 'Favourites', brushes: entries.filter((e) => e.favourite) },
    { name: 'Last in hand', brushes: lastUsed(entries, LAST) },
    ...[...groups].map(([name, brushes]) => ({ name, brushes })),
  ].filter(({ brushes }) => brushes.length > 0);
}

function Card({ entry }: { entry: RackEntry }) {
  const inHand = useBench((s) => s.brushId === entry.id);
  const picture = useSmallPicture({ of: 'stroke', brush: cardBrush(entry.brush) });
  return (
    <li className="group relative">
      <button
        type="button"
        aria-pressed={inHand}
        onClick={() => takeBrush(entry)}
        className={`block w-full overflow-hidden rounded border text-left ${inHand ? 'border-accent ring-1 ring-accent' : 'border-line hover:border-ink-soft'}`}
      >
        <span className="block h-[34px] bg-[#dcdad6]">
          {picture && <SmallPictureView picture={picture} className="h-full w-full object-cover" />}
        </span>
        <span className="flex h-[22px] items-center gap-1 truncate px-1.5 text-[12px]">
          <span className="truncate">{entry.name}</span>
          {entry.changed && <span className="text-ink-soft">changed</span>}
        </span>
      </button>
      <span className="absolute right-0 bottom-0 flex">
        <IconButton
          label={entry.favourite ? `No favourite any more: ${entry.name}` : `A favourite: ${entry.name}`}
          aria-pressed={entry.favourite}
          className={`h-[22px] w-[22px] ${entry.favourite ? 'text-accent-ink' : 'opacity-0 group-hover:opacity-100 focus-visible:opacity-100'}`}
          onClick={() => void markFavourite(entry)}
        >
          <Star size={12} fill={entry.favourite ? 'currentColor' : 'none'} />
        </IconButton>
        <CardMenu entry={entry} />
      </span>
    </li>
  );
}

function CardMenu({ entry }: { entry: RackEntry }) {
  return (
    <Menu
      align="end"
      trigger={
        <button
          type="button"
          aria-label={`More about ${entry.name}`}
          className="inline-flex h-[22px] w-[22px] items-center justify-center rounded opacity-0 group-hover:opacity-100 hover:bg-field focus-visible:opacity-100 data-[state=open]:opacity-100"
        >
          <Ellipsis size={12} />
        </button>
      }
    >
      <MenuItem onSelect={() => void exportBrushFile([entry.id], entry.name)}>
        Export <Download size={13} />
      </MenuItem>
      {entry.shipped ? (
        <MenuItem disabled={!entry.changed} onSelect={() => void dropBrush(entry)}>
          As it came <RotateCcw size={13} />
        </MenuItem>
      ) : (
        <MenuItem onSelect={() => void dropBrush(entry)}>
          Delete <Trash2 size={13} />
        </MenuItem>
      )}
    </Menu>
  );
}

function Files() {
  return (
    <>
      <FileButton
        label="Import brushes from a file"
        what="Brush file"
        accept=".zip"
        onFile={(file) => void importBrushFile(file)}
      >
        <Upload size={14} />
      </FileButton>
      <IconButton label="Export your own brushes, and those you have changed" onClick={() => void exportBrushFile([], 'brushes')}>
        <Download size={14} />
      </IconButton>
    </>
  );
}

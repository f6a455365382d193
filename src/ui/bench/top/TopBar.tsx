'use client';
import { ChevronDown, Moon, Redo2, Search, Sun, Undo2 } from 'lucide-react';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { Menu, MenuItem, MenuSeparator, MenuLink } from '../../kit/Menu';
import { IconButton } from '../../kit/Button';
import { Segments } from '../../kit/Segments';
import { Mark } from '../../kit/Mark';
import { NameInput } from '../../kit/NameInput';
import { NumberField } from '../../kit/NumberField';
import { toggleScheme } from '../../common/scheme';
import { exportPieceFile } from './deliver';
import { keysFor, viewsOf } from '../keys/commands';
import { SheetDialog } from '../sheet/SheetDialog';
import { KeptBadge } from '../kept/KeptBadge';
import { edit, redo, say, selectSheet, undo, useBench } from '../store';

export function TopBar({ onSearch }: { onSearch: () => void }) {
  const piece = useBench((s) => s.document!);
  const sheetId = useBench((s) => s.sheetId);
  const view = useBench((s) => s.view);
  const trail = useBench((s) => s.trail);
  const light = useBench((s) => s.light);
  const sheet = piece.sheets.find((s) => s.id === sheetId)!;
  const [naming, setNaming] = useState(false);
  const [shaping, setShaping] = useState(false);
  return (
    <header className="flex h-10 shrink-0 items-center gap-2 border-b border-line px-2 whitespace-nowrap">
      <h1 className="sr-only">{piece.name}</h1>
      <Link href="/" aria-label="All pieces" title="All pieces" className="rounded p-1 hover:bg-field">
        <Mark />
      </Link>
      {naming ? (
        <NameInput
          name={piece.name}
          label="Name of the piece"
          className="h-7 w-44 px-1.5 text-[14px] font-semibold"
          onAccept={(name) => edit({ type: 'set-piece', before: { name: piece.name }, after: { name } }, `Rename to ${name}`)}
          onRefuse={say}
          done={() => setNaming(false)}
        />
      ) : (
        <Menu
          trigger={
            <button
              type="button"
              className="inline-flex h-7 max-w-44 items-center gap-1 rounded px-1.5 text-[14px] font-semibold hover:bg-field"
            >
              <span className="truncate">{piece.name}</span> <ChevronDown size={13} />
            </button>
          }
        >
          <MenuItem onSelect={() => setTimeout(() => setNaming(true))}>Rename</MenuItem>
          <MenuItem onSelect={() => void exportPieceFile()}>Save a piece file (.brindle)</MenuItem>
          <MenuLink>
            <Link href="/">All pieces</Link>
          </MenuLink>
        </Menu>
      )}
      <Menu
        trigger={
          <button
            type="button"
            aria-label={`Sheet: ${sheet.name} ${sheet.width}`}
            className="inline-flex h-7 items-center gap-1 rounded px-1.5 text-ink-soft hover:bg-field"
          >
            {sheet.name} <span className="figures">{sheet.width}</span> <ChevronDown size={13} />
          </button>
        }
      >
        {piece.sheets.map((s) => (
          <MenuItem key={s.id} className={`${s.id === sheetId ? 'font-semibold' : ''}`} onSelect={() => selectSheet(s.id)}>
            {s.name}
            <span className="figures text-ink-soft">
              {s.width} × {s.height}
            </span>
          </MenuItem>
        ))}
        <MenuSeparator />
        <MenuItem onSelect={() => setTimeout(() => setShaping(true))}>Size, lie and maps …</MenuItem>
      </Menu>
      {shaping && <SheetDialog sheet={sheet} onClose={() => setShaping(false)} />}
      <div className="flex min-w-0 flex-1 justify-center">
        <Segments
          label="View"
          value={view}
          options={viewsOf(sheet).map((v) => ({ ...v, keys: 'V' }))}
          onChange={(v) => useBench.setState({ view: v })}
        />
      </div>
      <div className="w-40">
        <NumberField
          label="Light"
          unit="°"
          value={light}
          min={0}
          max={360}
          reset={0}
          hint="Turns the surroundings. Or hold L and drag over a pane."
          onPreview={(v) => useBench.setState({ light: v })}
          onCommit={(v) => useBench.setState({ light: v })}
        />
      </div>
      <IconButton
        label={`Undo${trail.position > 0 ? `: ${trail.labels[trail.position - 1]}` : ''}`}
        keys={keysFor('undo')}
        disabled={trail.position === 0}
        onClick={undo}
      >
        <Undo2 size={15} />
      </IconButton>
      <IconButton
        label={`Redo${trail.position < trail.labels.length ? `: ${trail.labels[trail.position]}` : ''}`}
        keys={keysFor('redo')}
        disabled={trail.position >= trail.labels.length}
        onClick={redo}
      >
        <Redo2 size={15} />
      </IconButton>
      <KeptBadge />
      <IconButton label="Find a command" keys="Ctrl K" onClick={onSearch}>
        <Search size={15} />
      </IconButton>
      <SchemeButton />
      <Link
        href={`/pieces/${piece.id}/dispatch`}
        className="inline-flex h-7 items-center rounded px-2 font-semibold hover:bg-field"
      >
        Dispatch
      </Link>
    </header>
  );
}

export function SchemeButton() {
  const [dark, setDark] = useState(false);
  useEffect(() => setDark(document.documentElement.dataset.scheme === 'slate'), []);
  return (
    <IconButton
      label={dark ? 'Plaster: light around the work' : 'Slate: dark around the work'}
      onClick={() => {
        toggleScheme();
        setDark(!dark);
      }}
    >
      {dark ? <Sun size={15} /> : <Moon size={15} />}
    </IconButton>
  );
}

'use client';
/** The bakes of the sheet at work, over the bench: what there is, how far it is, and how it is set. A card that floats, as the pinboard does. */
import { ListChecks, Play, Plus, X } from 'lucide-react';
import Link from 'next/link';
import { useEffect, useRef, type PointerEvent } from 'react';
import { bakeState, specOf } from '@/core/document/bake';
import { BAKES, BAKE_TYPES, type BakeType } from '@/core/kinds/bakes';
import { Menu, MenuItem, MenuLabel } from '../../kit/Menu';
import { IconButton } from '../../kit/Button';
import { Tip } from '../../kit/Tip';
import { keysFor } from '../keys/commands';
import { currentSheet, useBench } from '../store';
import { BakeRow } from './BakeRow';
import { addBake, endTries, putTryAway, readyTries, runAll } from './commands';
import { dropBakes } from './dropped';
import { useBakes, watchBakes } from './watch';

const WIDTH = 316;
/** What it leaves free below: the row of the strata that adds layers. */
const FOOT = 48;

export function Bakes() {
  const place = useBench((s) => s.bakes);
  useEffect(watchBakes, []);
  const { open } = place;
  useEffect(() => {
    if (open) readyTries();
    else putTryAway();
    return endTries;
  }, [open]);
  return open ? <Card /> : null;
}

function Card() {
  const place = useBench((s) => s.bakes);
  const onModel = useBench((s) => s.geometry !== null);
  const piece = useBench((s) => s.document!);
  useBench((s) => s.sheetId);
  const offline = useBakes((s) => s.offline);
  const sheet = currentSheet();
  const bakes = sheet.pictures.filter((p) => p.bake);
  const drag = useRef<{ x: number; y: number; from: typeof place } | null>(null);
  const set = (change: Partial<typeof place>) => useBench.setState((s) => ({ bakes: { ...s.bakes, ...change } }));
  const due = bakes.filter((p) => specOf(piece, sheet, p) && bakeState(piece, sheet, p) !== 'baked').length;
  const begin = (e: PointerEvent<HTMLElement>) => {
    if (e.button !== 0 || (e.target as HTMLElement).closest('button, a')) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    drag.current = { x: e.clientX, y: e.clientY, from: place };
  };
  const move = (e: PointerEvent) => {
    const d = drag.current;
    if (d) set({ x: Math.max(0, d.from.x + e.clientX - d.x), y: Math.max(0, d.from.y + e.clientY - d.y) });
  };
  const end = () => (drag.current = null);
  const top = Math.min(place.y, window.innerHeight - 160);
  return (
    <section
      aria-label="Bakes"
      className="fixed z-20 flex flex-col overflow-hidden rounded-md border border-line bg-panel shadow-xl"
      style={{
        left: Math.min(place.x, window.innerWidth - WIDTH),
        top,
        width: WIDTH,
        maxHeight: window.innerHeight - top - FOOT,
      }}
      onKeyDown={(e) => /^(INPUT|SELECT)$/.test((e.target as HTMLElement).tagName) && e.stopPropagation()}
      onDragOver={(e) => e.dataTransfer.types.includes('Files') && e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        dropBakes([...e.dataTransfer.files]);
      }}
    >
      <header
        className="flex h-8 shrink-0 cursor-grab touch-none items-center border-b border-line pr-0.5 pl-2.5"
        onPointerDown={begin}
        onPointerMove={move}
        onPointerUp={end}
        onPointerCancel={end}
      >
        <span className="min-w-0 flex-1 truncate font-semibold">
          Bakes <span className="font-normal text-ink-soft">of {sheet.name}</span>
        </span>
        <Tip label="All bakes on this server, and who works on them">
          <Link href="/jobs" target="_blank" aria-label="The queue of bakes" className="rounded p-1 hover:bg-field">
            <ListChecks size={14} />
          </Link>
        </Tip>
        <IconButton label="Put the bakes away" keys={keysFor('bakes')} className="h-6 w-6" onClick={() => set({ open: false })}>
          <X size={14} />
        </IconButton>
      </header>
      {offline && (
        <p role="status" className="border-b border-line px-2.5 py-1 text-fault">
          The server does not answer: bakes go on when it is back.
        </p>
      )}
      <div className="min-h-0 flex-1 overflow-y-auto">
        {bakes.map((p) => (
          <BakeRow key={p.id} sheet={sheet} picture={p} />
        ))}
        {bakes.length === 0 && (
          <p className="px-2.5 py-3 text-ink-soft">
            {onModel
              ? 'Nothing is baked on this sheet yet. Add a map: it is worked out from the model’s own shape, or from a dense one. Maps baked elsewhere can be dropped here.'
              : 'This piece is a canvas: there is no model to bake from. Maps baked elsewhere can be dropped here.'}
          </p>
        )}
      </div>
      <footer className="flex shrink-0 items-center gap-1 border-t border-line p-1">
        {onModel && <AddMenu />}
        <span className="flex-1" />
        {due > 0 && (
          <button
            type="button"
            onClick={runAll}
            className="inline-flex h-7 items-center gap-1 rounded bg-ink px-2.5 font-medium text-panel hover:opacity-85"
          >
            <Play size={12} /> Bake {due === 1 ? 'it' : `all ${due}`}
          </button>
        )}
      </footer>
    </section>
  );
}

function AddMenu() {
  const items = (types: readonly BakeType[]) =>
    types.map((t) => (
      <MenuItem key={t} hint={BAKES[t].hint} onSelect={() => addBake(t)}>
        {BAKES[t].label}
      </MenuItem>
    ));
  return (
    <Menu
      trigger={
        <button type="button" className="inline-flex h-7 items-center gap-1 rounded px-2 hover:bg-field">
          <Plus size={13} /> Add a map
        </button>
      }
    >
      <MenuLabel>From the model itself</MenuLabel>
      {items(BAKE_TYPES.filter((t) => BAKES[t].from.model))}
      <MenuLabel>From a dense model</MenuLabel>
      {items(BAKE_TYPES.filter((t) => !BAKES[t].from.model))}
    </Menu>
  );
}

'use client';
import { useDraggable } from '@dnd-kit/core';
import { ChevronDown, ChevronRight, Lock, LockOpen } from 'lucide-react';
import { useState, type KeyboardEvent, type MouseEvent } from 'react';
import { setLayerEdit } from '@/core/document/edits';
import type { MapId } from '@/core/kinds/maps';
import type { Layer, Sheet } from '@/core/document/schema';
import { NameInput } from '../../kit/NameInput';
import { cycleLock, LOCK_LABELS, toggleLayers } from '../layers/commands';
import { MaskPicture } from '../panes/MaskPicture';
import { RowDetails, TAG_COLOURS } from './RowDetails';
import type { TableRow } from './rows';
import { StrataCell } from './StrataCell';
import { chooseLayers, edit, say, useBench } from '../store';

export const ROW_HEIGHT = 33;
const INDENT = 13;

interface RowProps {
  sheet: Sheet;
  row: TableRow;
  maps: readonly MapId[];
  open: boolean;
  chosen: boolean;
  /** Where a dragged layer would land here. */
  drop: 'above' | 'into' | 'below' | null;
  onPick: (e: MouseEvent, id: string) => void;
  onStep: (by: number, extend: boolean) => void;
}

export function StrataRow({ sheet, row: { layer, depth }, maps, open, chosen, drop, onPick, onStep }: RowProps) {
  const drag = useDraggable({ id: layer.id, disabled: layer.lock === 'all' });
  const [naming, setNaming] = useState(false);
  const folded = useBench((s) => s.collapsed.includes(layer.id));
  const solo = useBench((s) => s.solo.includes(layer.id));
  const fold = () =>
    useBench.setState((s) => ({ collapsed: folded ? s.collapsed.filter((id) => id !== layer.id) : [...s.collapsed, layer.id] }));
  const keys = (e: KeyboardEvent) => {
    // What stands in the row has keys of its own.
    if (e.target !== e.currentTarget || e.altKey || e.ctrlKey || e.metaKey) return;
    if (e.key === 'F2' || (e.key === 'Enter' && open)) setNaming(true);
    else if (e.key === 'ArrowUp') onStep(-1, e.shiftKey);
    else if (e.key === 'ArrowDown') onStep(1, e.shiftKey);
    else if (e.key === 'ArrowLeft' && layer.kind === 'group' && !folded) fold();
    else if (e.key === 'ArrowRight' && layer.kind === 'group' && folded) fold();
    else if (e.key === 'ArrowLeft' && layer.parent) chooseLayers([layer.parent]);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <div
      className={`relative border-b border-line ${open ? 'bg-accent-wash' : chosen ? 'bg-field' : ''} ${drag.isDragging ? 'opacity-40' : ''}`}
      data-testid="layer-row"
      data-depth={depth}
      data-kind={layer.kind}
    >
      {open && <span className="absolute inset-y-0 left-0 w-[3px] bg-accent" />}
      {drop === 'above' && <span className="absolute inset-x-0 -top-px z-10 h-0.5 bg-accent" />}
      {drop === 'below' && <span className="absolute inset-x-0 -bottom-px z-10 h-0.5 bg-accent" />}
      {drop === 'into' && <span className="pointer-events-none absolute inset-0 z-10 border-2 border-accent" />}
      <div
        id={`layer-${layer.id}`}
        role="row"
        aria-level={depth + 1}
        aria-selected={chosen}
        aria-expanded={layer.kind === 'group' ? !folded : undefined}
        aria-label={`${layer.name}, ${layer.kind}`}
        tabIndex={open ? 0 : -1}
        onKeyDown={keys}
        className="flex items-center pr-2 pl-1 outline-offset-[-2px]"
        style={{ height: ROW_HEIGHT - 1 }}
      >
        <span role="gridcell" className="flex">
          <button
            type="button"
            aria-label={`${layer.visible ? 'Hide' : 'Show'} ${layer.name}`}
            aria-pressed={layer.visible}
            className="flex h-7 w-6 shrink-0 items-center justify-center rounded hover:bg-field"
            onClick={() => toggleLayers([layer])}
          >
            <span
              className={`h-2.5 w-2.5 rounded-full border ${solo ? 'border-accent bg-accent' : `border-ink ${layer.visible ? 'bg-ink' : 'bg-transparent opacity-50'}`}`}
            />
          </button>
        </span>
        <span role="gridcell" className="flex min-w-0 flex-1 items-center">
          <span style={{ width: depth * INDENT }} className="shrink-0" />
          {layer.kind === 'group' ? (
            <button
              type="button"
              aria-label={`${folded ? 'Unfold' : 'Fold'} ${layer.name}`}
              aria-expanded={!folded}
              className="flex h-7 w-6 shrink-0 items-center justify-center rounded hover:bg-field"
              onClick={fold}
            >
              {folded ? <ChevronRight size={13} /> : <ChevronDown size={13} />}
            </button>
          ) : (
            <span className="w-1 shrink-0" />
          )}
          {layer.tag > 0 && (
            <span className="mr-1 h-4 w-1 shrink-0 rounded-full" style={{ background: TAG_COLOURS[layer.tag] }} />
          )}
          {naming ? (
            <NameInput
              name={layer.name}
              label="Name of the layer"
              className="h-6 min-w-0 flex-1 px-1"
              onAccept={(name) => edit(setLayerEdit(sheet, layer, { name }), `Rename ${layer.name}`)}
              onRefuse={say}
              done={() => setNaming(false)}
            />
          ) : (
            <div
              ref={drag.setNodeRef}
              {...drag.listeners}
              onClick={(e) => {
                onPick(e, layer.id);
                document.getElementById(`layer-${layer.id}`)?.focus();
              }}
              onDoubleClick={() => setNaming(true)}
              data-testid="layer-name"
              className={`flex h-7 min-w-0 flex-1 items-center gap-1.5 rounded px-1 select-none ${layer.visible ? '' : 'opacity-55'}`}
              title={`${layer.name}${layer.note ? ` (${layer.note})` : ''}: double click to rename, drag to move`}
            >
              <span data-name="" className={`truncate text-[13.5px] ${open ? 'font-semibold' : ''}`}>
                {layer.name}
              </span>
              {layer.mask && <MaskChip sheet={sheet} layer={layer} />}
              {/* An open row shows both in its details, so that its name has more room here. */}
              {!open && (
                <span className="shrink-0 text-[11px] text-ink-soft">
                  {KIND_WORDS[layer.kind]}
                  {layer.opacity < 1 && <span className="figures"> {Math.round(layer.opacity * 100)}%</span>}
                </span>
              )}
            </div>
          )}
        </span>
        {(open || layer.lock !== 'none') && (
          <span role="gridcell" className="flex">
            <button
              type="button"
              aria-label={`${LOCK_LABELS[layer.lock]}: ${layer.name}. Click to change.`}
              title={LOCK_LABELS[layer.lock]}
              className={`flex h-7 w-6 shrink-0 items-center justify-center rounded hover:bg-field ${layer.lock === 'all' ? 'text-accent-ink' : 'text-ink-soft'}`}
              onClick={() => cycleLock([layer])}
            >
              {layer.lock === 'none' ? <LockOpen size={12} /> : <Lock size={12} strokeWidth={layer.lock === 'all' ? 2.6 : 1.6} />}
            </button>
          </span>
        )}
        {maps.map((map) => (
          <StrataCell key={map} sheet={sheet} layer={layer} map={map} />
        ))}
      </div>
      {open && (
        <div role="row" aria-level={depth + 1} aria-label={`How ${layer.name} blends, its mask and its settings`}>
          <div role="gridcell" aria-colspan={maps.length + 3}>
            <RowDetails sheet={sheet} layer={layer} />
          </div>
        </div>
      )}
    </div>
  );
}

/** Painted layers and coats show what they are in their cells; the others say it. */
const KIND_WORDS: Record<Layer['kind'], string> = { painted: '', coat: '', group: '', adjust: 'adjust', echo: 'echo' };

function MaskChip({ sheet, layer }: { sheet: Sheet; layer: Layer }) {
  const mask = sheet.masks.find((m) => m.id === layer.mask!.id);
  if (!mask) return null;
  return (
    <span
      title={mask.name}
      className={`relative h-4 w-4 shrink-0 overflow-hidden rounded-sm border border-ink-soft ${layer.mask!.on ? '' : 'opacity-35'}`}
    >
      <MaskPicture mask={mask} layerId={layer.id} />
    </span>
  );
}

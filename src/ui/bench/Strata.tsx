'use client';
/** The strata sheet: layers are rows, maps are columns. Which layer does what to which map is simply seen. */
import {
  DndContext,
  DragOverlay,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
  type DragMoveEvent,
} from '@dnd-kit/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Columns3, Copy, FolderPlus, Merge, Plus, Search, Trash2, X } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useMemo, useRef, useState, type MouseEvent } from 'react';
import { mapInfo, type MapId } from '@/core/kinds/maps';
import type { Sheet } from '@/core/document/schema';
import { membersOf, type Place } from '@/core/document/tree';
import { FILTERS, FILTER_TYPES } from '@/core/kinds/filters';
import { IconButton, Tip, MENU, MENU_ITEM } from '../common/controls';
import { keysFor } from './commands';
import { restrictToVertical } from './dragVertical';
import {
  addAdjust,
  addEcho,
  addLayer,
  deleteLayers,
  duplicateChosen,
  groupChosen,
  merge,
  moveTo,
  toggleSolo,
} from './layerCommands';
import { rowsOf, type TableRow } from './rows';
import { CELL_WIDTH } from './StrataCell';
import { ROW_HEIGHT, StrataRow } from './StrataRow';
import { chooseLayers, currentSheet, useBench } from './store';

const MENU_BOX = `${MENU} min-w-48`;

type Drop = { id: string; where: 'above' | 'into' | 'below' } | null;

export function Strata() {
  const sheet = useBench((s) => currentSheet(s));
  const selected = useBench((s) => s.selected[s.sheetId]);
  const chosen = useBench((s) => s.chosen);
  const collapsed = useBench((s) => s.collapsed);
  const hiddenColumns = useBench((s) => s.hiddenColumns);
  const solo = useBench((s) => s.solo.length);
  const [search, setSearch] = useState<string | null>(null);
  const rows = useMemo(() => rowsOf(sheet.layers, collapsed, search ?? ''), [sheet.layers, collapsed, search]);
  const maps = sheet.maps.filter((m) => !hiddenColumns.includes(m));
  // Wide enough for a name of eighteen letters beside the columns.
  const width = Math.min(560, Math.max(336, 210 + maps.length * CELL_WIDTH));
  const pick = (e: MouseEvent, id: string) => {
    if (e.shiftKey && selected) {
      const at = rows.findIndex((r) => r.layer.id === selected);
      const to = rows.findIndex((r) => r.layer.id === id);
      const between = rows.slice(Math.min(at, to), Math.max(at, to) + 1).map((r) => r.layer.id);
      chooseLayers([...between.filter((x) => x !== id), id]);
    } else if (e.ctrlKey || e.metaKey) {
      const without = chosen.filter((x) => x !== id);
      chooseLayers(chosen.includes(id) && without.length ? without : [...without, id]);
    } else chooseLayers([id]);
  };
  const step = (by: number, extend: boolean) => {
    const at = rows.findIndex((r) => r.layer.id === selected);
    const next = rows[Math.min(rows.length - 1, Math.max(0, at + by))]?.layer.id;
    if (!next) return;
    chooseLayers(extend ? [...chosen.filter((x) => x !== next), next] : [next]);
    requestAnimationFrame(() => document.getElementById(`layer-${next}`)?.focus());
  };
  return (
    <aside className="flex shrink-0 flex-col border-r border-line" style={{ width }} aria-label="Strata">
      <Head sheet={sheet} maps={maps} searching={search !== null} onSearch={() => setSearch(search === null ? '' : null)} />
      {search !== null && (
        <div className="flex h-8 shrink-0 items-center border-b border-line px-2">
          <input
            autoFocus
            aria-label="Search layers"
            placeholder="Name, note or kind"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === 'Escape') setSearch(null);
            }}
            className="h-6 min-w-0 flex-1 rounded border border-line bg-raised px-1.5"
          />
          <IconButton label="Close the search" onClick={() => setSearch(null)}>
            <X size={13} />
          </IconButton>
        </div>
      )}
      {solo > 0 && (
        <button
          type="button"
          onClick={toggleSolo}
          className="h-7 shrink-0 border-b border-line bg-accent-wash px-3 text-left text-accent-ink"
        >
          {solo === 1 ? 'One layer is' : `${solo} layers are`} shown alone: click to show all
        </button>
      )}
      <Rows sheet={sheet} rows={rows} maps={maps} selected={selected} chosen={chosen} onPick={pick} onStep={step} />
      <Foot sheet={sheet} selected={selected} />
    </aside>
  );
}

function Head({ sheet, maps, searching, onSearch }: { sheet: Sheet; maps: MapId[]; searching: boolean; onSearch: () => void }) {
  const view = useBench((s) => s.view);
  const hidden = useBench((s) => s.hiddenColumns);
  const toggle = (m: MapId) =>
    useBench.setState({ hiddenColumns: hidden.includes(m) ? hidden.filter((x) => x !== m) : [...hidden, m] });
  return (
    <div className="flex h-8 shrink-0 items-center border-b border-line pr-2 pl-3 text-ink-soft">
      <span className="flex-1">Strata</span>
      <IconButton label="Search layers" active={searching} onClick={onSearch}>
        <Search size={13} />
      </IconButton>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <span>
            <IconButton label="Columns" active={hidden.some((m) => sheet.maps.includes(m))}>
              <Columns3 size={13} />
            </IconButton>
          </span>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" sideOffset={4} className={MENU_BOX}>
            {sheet.maps.map((m) => (
              <DropdownMenu.CheckboxItem
                key={m}
                checked={!hidden.includes(m)}
                onSelect={(e) => e.preventDefault()}
                onCheckedChange={() => toggle(m)}
                className={MENU_ITEM}
              >
                {mapInfo(m, sheet.ownMaps).label}
                <span>{hidden.includes(m) ? '' : 'shown'}</span>
              </DropdownMenu.CheckboxItem>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {maps.map((map) => {
        const info = mapInfo(map, sheet.ownMaps);
        return (
          <Tip key={map} label={`${info.label} alone. ${info.hint}`}>
            <button
              type="button"
              aria-label={`View ${info.label}`}
              aria-pressed={view === map}
              style={{ width: CELL_WIDTH }}
              className={`h-6 rounded text-center hover:bg-field ${view === map ? 'font-semibold text-accent-ink' : ''}`}
              onClick={() => useBench.setState({ view: view === map ? 'lit' : map })}
            >
              {info.short}
            </button>
          </Tip>
        );
      })}
    </div>
  );
}

interface RowsProps {
  sheet: Sheet;
  rows: TableRow[];
  maps: MapId[];
  selected: string;
  chosen: string[];
  onPick: (e: MouseEvent, id: string) => void;
  onStep: (by: number, extend: boolean) => void;
}

function Rows({ sheet, rows, maps, selected, chosen, onPick, onStep }: RowsProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const [drop, setDrop] = useState<Drop>(null);
  const [dragged, setDragged] = useState<string | null>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    getItemKey: (i) => rows[i].layer.id,
    overscan: 12,
  });
  const at = rows.findIndex((r) => r.layer.id === selected);
  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at, { align: 'auto' });
    // Only when another layer is selected: not while rows change their height.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [selected]);

  /** Where the pointer is now: what is drawn may be some frames behind it, and a quick drop must not go where it was. */
  const pointerY = useRef(0);
  useEffect(() => {
    const follow = (e: PointerEvent) => void (pointerY.current = e.clientY);
    for (const type of ['pointermove', 'pointerup'] as const) window.addEventListener(type, follow, true);
    return () => {
      for (const type of ['pointermove', 'pointerup'] as const) window.removeEventListener(type, follow, true);
    };
  }, []);
  const dropNow = (active: string): Drop => {
    const box = scroller.current!.getBoundingClientRect();
    const y = pointerY.current - box.top + scroller.current!.scrollTop;
    const item = virtual.getVirtualItems().find((v) => y >= v.start && y < v.end);
    const row = item && rows[item.index];
    if (!row || row.layer.id === active) return null;
    const share = (y - item.start) / Math.min(ROW_HEIGHT, item.size);
    const group = row.layer.kind === 'group';
    return { id: row.layer.id, where: group && share > 0.3 && share < 0.75 ? 'into' : share < 0.5 ? 'above' : 'below' };
  };
  const move = ({ active }: DragMoveEvent) => {
    setDragged(String(active.id));
    setDrop(dropNow(String(active.id)));
  };
  const letGo = () => {
    setDrop(null);
    setDragged(null);
  };
  const end = ({ active }: DragEndEvent) => {
    const [id, drop] = [String(active.id), dropNow(String(active.id))];
    if (drop) moveTo(chosen.includes(id) ? chosen : [id], placeOf(sheet, drop));
    letGo();
  };
  const name = sheet.layers.find((l) => l.id === dragged)?.name;
  return (
    <DndContext sensors={sensors} modifiers={[restrictToVertical]} onDragMove={move} onDragEnd={end} onDragCancel={letGo}>
      <div
        ref={scroller}
        className="min-h-0 flex-1 overflow-y-auto"
        role="listbox"
        aria-label="Layers, top first"
        aria-multiselectable
      >
        <div className="relative w-full" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index];
            return (
              <div
                key={item.key}
                ref={virtual.measureElement}
                data-index={item.index}
                className="absolute inset-x-0 top-0"
                style={{ transform: `translateY(${item.start}px)` }}
              >
                <StrataRow
                  sheet={sheet}
                  row={row}
                  maps={maps}
                  open={row.layer.id === selected}
                  chosen={chosen.includes(row.layer.id)}
                  drop={drop?.id === row.layer.id ? drop.where : null}
                  onPick={onPick}
                  onStep={onStep}
                />
              </div>
            );
          })}
        </div>
        {rows.length === 0 && (
          <p className="p-4 text-ink-soft">
            {sheet.layers.length === 0
              ? 'No layers: the sheet shows its bare ground. Add a coat for an even base, or a painted layer.'
              : 'No layer has that in its name, its note or its kind.'}
          </p>
        )}
      </div>
      <DragOverlay dropAnimation={null}>
        {dragged && name && (
          <span className="inline-block max-w-52 truncate rounded bg-raised px-2 py-1 text-[13.5px] shadow-lg">
            {chosen.includes(dragged) && chosen.length > 1 ? `${chosen.length} layers` : name}
          </span>
        )}
      </DragOverlay>
    </DndContext>
  );
}

/** The list runs from the top down, places from the bottom up. */
function placeOf(sheet: Sheet, drop: NonNullable<Drop>): Place {
  const layer = sheet.layers.find((l) => l.id === drop.id)!;
  if (drop.where === 'into') return { parent: layer.id, above: membersOf(sheet.layers, layer.id).at(-1)?.id ?? null };
  if (drop.where === 'above') return { parent: layer.parent, above: layer.id };
  const siblings = membersOf(sheet.layers, layer.parent);
  return { parent: layer.parent, above: siblings[siblings.indexOf(layer) - 1]?.id ?? null };
}

function Foot({ sheet, selected }: { sheet: Sheet; selected: string }) {
  const more = 'inline-flex h-7 items-center gap-0.5 rounded px-1.5 hover:bg-field';
  return (
    <div className="flex h-9 shrink-0 items-center border-t border-line px-2">
      <Tip label="A layer to paint on" keys={keysFor('add-painted')}>
        <button type="button" className={more} onClick={() => addLayer('painted')}>
          <Plus size={13} /> Painted
        </button>
      </Tip>
      <Tip label="One value a map, or a picture, all over" keys={keysFor('add-coat')}>
        <button type="button" className={more} onClick={() => addLayer('coat')}>
          <Plus size={13} /> Coat
        </button>
      </Tip>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className={more} aria-label="Add a layer of another kind">
          <Plus size={13} /> More
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="start" side="top" sideOffset={4} className={MENU_BOX}>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={addEcho}>
              Echo of the selected layer
            </DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 h-px bg-line" />
            <DropdownMenu.Label className="px-2 py-1 text-ink-soft">Adjust what lies below</DropdownMenu.Label>
            {FILTER_TYPES.map((t) => (
              <DropdownMenu.Item key={t} className={MENU_ITEM} title={FILTERS[t].hint} onSelect={() => addAdjust(t)}>
                {FILTERS[t].label}
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <span className="flex-1" />
      <IconButton label="Group the chosen layers" keys={keysFor('group')} onClick={groupChosen}>
        <FolderPlus size={14} />
      </IconButton>
      <IconButton label="Duplicate" keys={keysFor('duplicate')} disabled={!selected} onClick={duplicateChosen}>
        <Copy size={14} />
      </IconButton>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <span>
            <IconButton label="Merge" disabled={!selected}>
              <Merge size={14} />
            </IconButton>
          </span>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" side="top" sideOffset={4} className={MENU_BOX}>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => merge('down')}>
              Merge down <kbd className="figures text-ink-soft">{keysFor('merge-down')}</kbd>
            </DropdownMenu.Item>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => merge('visible')}>
              Merged copy of the visible
            </DropdownMenu.Item>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => merge('flatten')}>
              Flatten the sheet
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <IconButton label="Delete" keys={keysFor('delete')} disabled={!selected} onClick={() => deleteLayers()}>
        <Trash2 size={14} />
      </IconButton>
      <span className="figures w-6 text-right text-ink-soft">{sheet.layers.length}</span>
    </div>
  );
}

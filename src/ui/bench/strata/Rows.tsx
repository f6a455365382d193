'use client';
/** The layers, top first; dragged to other places. */
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
import { useEffect, useRef, useState, type MouseEvent } from 'react';
import type { MapId } from '@/core/kinds/maps';
import type { Sheet } from '@/core/document/schema';
import { membersOf, type Place } from '@/core/document/tree';
import { restrictToVertical } from './dragVertical';
import { moveTo } from '../layers/commands';
import type { TableRow } from './rows';
import { ROW_HEIGHT, StrataRow } from './StrataRow';

type Drop = { id: string; where: 'above' | 'into' | 'below' } | null;

interface RowsProps {
  sheet: Sheet;
  rows: TableRow[];
  maps: MapId[];
  selected: string;
  chosen: string[];
  onPick: (e: MouseEvent, id: string) => void;
  onStep: (by: number, extend: boolean) => void;
}

export function Rows({ sheet, rows, maps, selected, chosen, onPick, onStep }: RowsProps) {
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
    const gone = new AbortController();
    const follow = (e: PointerEvent) => void (pointerY.current = e.clientY);
    for (const type of ['pointermove', 'pointerup'] as const)
      window.addEventListener(type, follow, { capture: true, signal: gone.signal });
    return () => gone.abort();
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
        role={rows.length > 0 ? 'treegrid' : undefined}
        aria-label="Layers, top first"
        aria-multiselectable={rows.length > 0 ? true : undefined}
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

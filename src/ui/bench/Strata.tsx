'use client';
/** The strata sheet: layers are rows, maps are columns. Which layer does what to which map is simply seen. */
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import { restrictToVertical } from './dragVertical';
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { Copy, Plus, Trash2 } from 'lucide-react';
import { MAPS } from '@/core/document/maps';
import { IconButton, Tip } from '../common/controls';
import { addLayer, copyLayer, deleteLayer, keysFor } from './commands';
import { StrataRow } from './StrataRow';
import { currentSheet, edit, selectLayer, useBench } from './store';

export const CELL_WIDTH = 30;

export function Strata() {
  const sheet = useBench((s) => currentSheet(s));
  const selected = useBench((s) => s.selected[s.sheetId]);
  const view = useBench((s) => s.view);
  const rows = [...sheet.layers].reverse();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 5 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const drop = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const from = sheet.layers.findIndex((l) => l.id === active.id);
    const to = sheet.layers.findIndex((l) => l.id === over.id);
    if (from >= 0 && to >= 0)
      edit({ type: 'move-layer', sheetId: sheet.id, layerId: String(active.id), from, to }, `Move ${sheet.layers[from].name}`);
  };
  const step = (by: number) => {
    const at = rows.findIndex((l) => l.id === selected);
    const next = rows[Math.min(rows.length - 1, Math.max(0, at + by))];
    if (!next) return;
    selectLayer(next.id);
    document.getElementById(`layer-${next.id}`)?.focus();
  };
  return (
    <aside className="flex w-[336px] shrink-0 flex-col border-r border-line" aria-label="Strata">
      <div className="flex h-8 shrink-0 items-center border-b border-line pr-2 pl-3 text-ink-soft">
        <span className="flex-1">Strata</span>
        {sheet.maps.map((map) => (
          <Tip key={map} label={`${MAPS[map].label} alone. ${MAPS[map].hint}`}>
            <button
              type="button"
              aria-label={`View ${MAPS[map].label}`}
              aria-pressed={view === map}
              style={{ width: CELL_WIDTH }}
              className={`h-6 rounded text-center hover:bg-field ${view === map ? 'font-semibold text-accent-ink' : ''}`}
              onClick={() => useBench.setState({ view: view === map ? 'lit' : map })}
            >
              {MAPS[map].short}
            </button>
          </Tip>
        ))}
      </div>
      <div
        className="min-h-0 flex-1 overflow-y-auto"
        role="listbox"
        aria-label="Layers, top first"
        onKeyDown={(e) => {
          if (e.altKey || e.target instanceof HTMLInputElement) return;
          if (e.key === 'ArrowUp') step(-1);
          else if (e.key === 'ArrowDown') step(1);
          else return;
          e.preventDefault();
        }}
      >
        <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop} modifiers={[restrictToVertical]}>
          <SortableContext items={rows.map((l) => l.id)} strategy={verticalListSortingStrategy}>
            {rows.map((layer) => (
              <StrataRow key={layer.id} sheet={sheet} layer={layer} open={layer.id === selected} />
            ))}
          </SortableContext>
        </DndContext>
        {rows.length === 0 && (
          <p className="p-4 text-ink-soft">
            No layers: the sheet shows its bare ground. Add a coat for an even base, or a painted layer.
          </p>
        )}
      </div>
      <div className="flex h-9 shrink-0 items-center gap-1 border-t border-line px-2">
        <Tip label="A layer to paint on" keys={keysFor('add-painted')}>
          <button
            type="button"
            className="inline-flex h-7 items-center gap-1 rounded px-1.5 hover:bg-field"
            onClick={() => addLayer('painted')}
          >
            <Plus size={13} /> Painted
          </button>
        </Tip>
        <Tip label="One value a map, all over" keys={keysFor('add-coat')}>
          <button
            type="button"
            className="inline-flex h-7 items-center gap-1 rounded px-1.5 hover:bg-field"
            onClick={() => addLayer('coat')}
          >
            <Plus size={13} /> Coat
          </button>
        </Tip>
        <span className="flex-1" />
        <IconButton label="Duplicate the layer" keys={keysFor('duplicate')} disabled={!selected} onClick={() => copyLayer()}>
          <Copy size={14} />
        </IconButton>
        <IconButton label="Delete the layer" keys={keysFor('delete')} disabled={!selected} onClick={() => deleteLayer()}>
          <Trash2 size={14} />
        </IconButton>
        <span className="figures w-6 text-right text-ink-soft">{sheet.layers.length}</span>
      </div>
    </aside>
  );
}

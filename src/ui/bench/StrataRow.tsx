'use client';
import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { useState } from 'react';
import { BLENDS, LAYER_BLENDS, type BlendId } from '@/core/colour/blend';
import { setLayerEdit } from '@/core/document/edits';
import type { Layer, Sheet } from '@/core/document/schema';
import { NameInput } from '../common/NameInput';
import { NumberField } from '../common/NumberField';
import { toggleLayer } from './commands';
import { StrataCell } from './StrataCell';
import { edit, preview, say, selectLayer } from './store';

export function StrataRow({ sheet, layer, open }: { sheet: Sheet; layer: Layer; open: boolean }) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: layer.id });
  const [naming, setNaming] = useState(false);
  return (
    <div
      ref={setNodeRef}
      style={{ transform: CSS.Transform.toString(transform), transition }}
      className={`relative border-b border-line ${open ? 'bg-accent-wash' : ''} ${isDragging ? 'z-10 bg-raised opacity-90 shadow-lg' : ''}`}
      data-testid="layer-row"
    >
      {open && <span className="absolute inset-y-0 left-0 w-[3px] bg-accent" />}
      <div className="flex h-[33px] items-center pr-2 pl-1.5">
        <button
          type="button"
          aria-label={`${layer.visible ? 'Hide' : 'Show'} ${layer.name}`}
          aria-pressed={layer.visible}
          className="flex h-7 w-6 shrink-0 items-center justify-center rounded hover:bg-field"
          onClick={() => toggleLayer(layer.id)}
        >
          <span
            className={`h-2.5 w-2.5 rounded-full border border-ink ${layer.visible ? 'bg-ink' : 'bg-transparent opacity-50'}`}
          />
        </button>
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
            id={`layer-${layer.id}`}
            {...attributes}
            {...listeners}
            role="option"
            aria-selected={open}
            aria-roledescription="layer"
            tabIndex={open ? 0 : -1}
            onClick={() => selectLayer(layer.id)}
            onDoubleClick={() => setNaming(true)}
            onKeyDown={(e) => {
              if (e.key === 'F2' || (e.key === 'Enter' && open)) setNaming(true);
              else if (!e.altKey) listeners?.onKeyDown?.(e);
            }}
            className={`flex h-7 min-w-0 flex-1 items-center gap-1.5 rounded px-1 outline-offset-[-2px] ${layer.visible ? '' : 'opacity-55'}`}
            title="Double click to rename, drag to move"
          >
            <span className={`truncate text-[13.5px] ${open ? 'font-semibold' : ''}`}>{layer.name}</span>
            <span className="shrink-0 text-[11px] text-ink-soft">
              {layer.kind}
              {layer.opacity < 1 && <span className="figures"> {Math.round(layer.opacity * 100)}%</span>}
            </span>
          </div>
        )}
        {sheet.maps.map((map) => (
          <StrataCell key={map} sheet={sheet} layer={layer} map={map} />
        ))}
      </div>
      {open && <RowDetails sheet={sheet} layer={layer} />}
    </div>
  );
}

function RowDetails({ sheet, layer }: { sheet: Sheet; layer: Layer }) {
  const set = (after: Partial<Layer>, label: string) => edit(setLayerEdit(sheet, layer, after), label);
  return (
    <div className="space-y-1 pr-3 pb-2 pl-[34px]">
      <label className="flex items-center gap-2">
        <span className="w-14 text-ink-soft">Blend</span>
        <select
          value={layer.blend}
          onChange={(e) => set({ blend: e.target.value as BlendId }, `${layer.name}: ${BLENDS[e.target.value as BlendId].label}`)}
          className="h-6 flex-1 rounded border border-line bg-raised px-1"
        >
          {LAYER_BLENDS.map((b) => (
            <option key={b} value={b}>
              {BLENDS[b].label}
            </option>
          ))}
        </select>
      </label>
      <NumberField
        label="Opacity"
        labelWidth="56px"
        unit="%"
        value={layer.opacity * 100}
        min={0}
        max={100}
        reset={100}
        onPreview={(v) => preview(setLayerEdit(sheet, layer, { opacity: v / 100 }))}
        onCommit={(v) => set({ opacity: v / 100 }, `${layer.name}: opacity ${Math.round(v)} %`)}
      />
    </div>
  );
}

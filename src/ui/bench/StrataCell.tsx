'use client';
/** One cell: what a layer does to a map. Click switches it; a coat's value opens with the small arrow or Alt. */
import { Popover } from 'radix-ui';
import { hexToSrgb, srgbToHex } from '@/core/colour/transfer';
import { setLayerEdit, type Edit } from '@/core/document/edits';
import { MAPS, type MapId } from '@/core/document/maps';
import type { Layer, Sheet } from '@/core/document/schema';
import { ColourField } from '../common/ColourField';
import { Tip } from '../common/controls';
import { NumberField } from '../common/NumberField';
import { edit, preview } from './store';

const WIDTH = 30;

export function StrataCell({ sheet, layer, map }: { sheet: Sheet; layer: Layer; map: MapId }) {
  const cell = layer.cells[map];
  const info = MAPS[map];
  const change = (next: Partial<NonNullable<typeof cell>>): Edit =>
    setLayerEdit(sheet, layer, { cells: { ...layer.cells, [map]: { on: false, ...cell, ...next } } });
  const toggle = () => edit(change({ on: !cell?.on }), `${layer.name}: ${info.label.toLowerCase()} ${cell?.on ? 'off' : 'on'}`);
  const says = `${layer.name} ${cell?.on ? `writes ${info.label.toLowerCase()}` : `leaves ${info.label.toLowerCase()} alone`}. Click to switch.`;
  return (
    <span className="flex shrink-0 justify-center" style={{ width: WIDTH }}>
      {layer.kind === 'coat' && cell?.on ? (
        <CoatCell layer={layer} map={map} value={cell.value!} change={change} toggle={toggle} />
      ) : (
        <Tip label={says}>
          <button
            type="button"
            aria-label={says}
            aria-pressed={cell?.on ?? false}
            data-cell={map}
            onClick={toggle}
            className="flex h-6 w-6 items-center justify-center rounded hover:bg-field"
          >
            {cell?.on ? <PaintGlyph /> : <span className="h-1 w-1 rounded-full bg-ink-soft opacity-55" />}
          </button>
        </Tip>
      )}
    </span>
  );
}

/** A dab: this layer carries paint of its own on the map. */
function PaintGlyph() {
  return (
    <svg width="20" height="20" viewBox="0 0 20 20" aria-hidden="true">
      <rect x="0.5" y="0.5" width="19" height="19" rx="4" className="fill-raised stroke-line" />
      <path
        d="M3.5 13.5c2.5-6 4-1.5 6-4.5s3-4.5 7-2.5"
        fill="none"
        className="stroke-ink"
        strokeWidth="3.4"
        strokeLinecap="round"
      />
    </svg>
  );
}

interface CoatCellProps {
  layer: Layer;
  map: MapId;
  value: readonly number[];
  change: (next: { on?: boolean; value?: number[] }) => Edit;
  toggle: () => void;
}

function CoatCell({ layer, map, value, change, toggle }: CoatCellProps) {
  const info = MAPS[map];
  const label = `${layer.name}, ${info.label.toLowerCase()}`;
  const hint = `${label}: click to change, Alt click to switch off.`;
  const altOff = (e: { altKey: boolean; preventDefault: () => void }) => {
    if (!e.altKey) return;
    e.preventDefault();
    toggle();
  };
  if (info.kind === 'colour') {
    const colour = srgbToHex(value);
    return (
      <ColourField
        colour={colour}
        label={label}
        onPreview={(c) => preview(change({ value: hexToSrgb(c) }))}
        onCommit={(c) => edit(change({ value: hexToSrgb(c) }), `${label} ${c}`)}
      >
        <button
          type="button"
          aria-label={hint}
          title={hint}
          data-cell={map}
          onClickCapture={altOff}
          className="h-6 w-6 rounded border border-line"
          style={{ background: colour }}
        />
      </ColourField>
    );
  }
  const shown = info.display === 'offset' ? (value[0] - 0.5) * 100 : value[0] * 100;
  const back = (v: number) => (info.display === 'offset' ? v / 100 + 0.5 : v / 100);
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label={hint}
          title={hint}
          data-cell={map}
          onClickCapture={altOff}
          className="relative h-6 w-6 overflow-hidden rounded border border-line bg-raised"
        >
          <span className="absolute inset-x-1 bottom-1 bg-ink-soft" style={{ height: `${Math.max(6, value[0] * 66)}%` }} />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="right"
          sideOffset={8}
          aria-label={label}
          className="z-40 w-64 rounded-md border border-line bg-panel p-3 shadow-xl"
        >
          <NumberField
            label={info.label}
            unit="%"
            value={shown}
            min={info.display === 'offset' ? -50 : 0}
            max={info.display === 'offset' ? 50 : 100}
            reset={info.display === 'offset' ? 0 : info.start[0] * 100}
            onPreview={(v) => preview(change({ value: [back(v)] }))}
            onCommit={(v) => edit(change({ value: [back(v)] }), `${label} ${Math.round(v)} %`)}
          />
          <button type="button" className="mt-2 h-7 rounded px-1.5 hover:bg-field" onClick={toggle}>
            Switch off
          </button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

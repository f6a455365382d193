'use client';
/** One cell: what a layer does to a map. Click opens it, Space or Alt click switches it. */
import type { MouseEvent } from 'react';
import { BLEND_LABELS } from '@/core/colour/blend';
import { srgbToHex } from '@/core/colour/transfer';
import { setLayerEdit, type Edit } from '@/core/document/edits';
import { mapInfo, type MapId } from '@/core/kinds/maps';
import { type Cell, type Layer, type Sheet } from '@/core/document/schema';
import { planeKey } from '@/core/document/planes';
import { effectiveBlend } from '@/core/strata/program';
import { Popup } from '../../kit/Popup';
import { Switch } from '../../kit/Switch';
import { PercentField } from '../../kit/PercentField';
import { BlendSelect } from './BlendSelect';
import { CoatValue } from '../coat/CoatValue';
import { edit, preview, useBench } from '../store';
import { SmallPictureView } from '../pictures/SmallPictureView';
import { useSmallPicture, useThumbnail } from '../pictures/thumbnails';

export const CELL_WIDTH = 30;

export function StrataCell({ sheet, layer, map }: { sheet: Sheet; layer: Layer; map: MapId }) {
  const cell = layer.cells[map];
  const info = mapInfo(map, sheet.ownMaps);
  const missing = useBench((s) => s.missing.includes(planeKey(layer.id, map)));
  const change = (next: Partial<Cell>): Edit => {
    const fresh: Cell = layer.kind === 'coat' ? { on: false, value: [...info.start] } : { on: false };
    return setLayerEdit(sheet, layer, { cells: { ...layer.cells, [map]: { ...fresh, ...cell, ...next } } });
  };
  const what = `${layer.name}, ${info.label.toLowerCase()}`;
  const toggle = () => layer.lock !== 'all' && edit(change({ on: !cell?.on }), `${what} ${cell?.on ? 'off' : 'on'}`);
  const label = `${what}: ${missing ? 'pixels are missing on the server' : cell?.on ? 'on' : 'off'}. Click to open, Space to switch.`;
  const altSwitches = (e: MouseEvent) => {
    if (!e.altKey) return;
    e.preventDefault();
    toggle();
  };
  return (
    <span role="gridcell" className="flex shrink-0 justify-center" style={{ width: CELL_WIDTH }}>
      <Popup
        label={what}
        side="right"
        align="center"
        className="w-72 space-y-1.5 p-3"
        trigger={
          <button
            type="button"
            aria-label={label}
            title={label}
            data-cell={map}
            data-on={cell?.on ?? false}
            disabled={layer.lock === 'all'}
            onClickCapture={altSwitches}
            onKeyDown={(e) => {
              if (e.key !== ' ') return;
              e.preventDefault();
              e.stopPropagation();
              toggle();
            }}
            className={`relative flex h-6 w-6 items-center justify-center overflow-hidden rounded hover:bg-field ${missing ? 'outline-2 -outline-offset-2 outline-fault' : ''}`}
          >
            {cell?.on ? (
              <CellFace layer={layer} map={map} cell={cell} kind={info.kind} />
            ) : (
              <span className="h-1 w-1 rounded-full bg-ink-soft opacity-55" />
            )}
            {missing && (
              <span className="absolute inset-0 flex items-center justify-center bg-panel/70 font-bold text-fault">!</span>
            )}
          </button>
        }
      >
        <div className="flex items-center justify-between">
          <span className="truncate font-semibold">{info.label}</span>
          <Switch label={cell?.on ? 'On' : 'Off'} checked={cell?.on ?? false} onChange={toggle} />
        </div>
        {missing && (
          <p className="text-fault">
            Some of its pixels are missing on the server. They count as unpainted; a piece file that holds them brings them back.
          </p>
        )}
        {layer.kind === 'coat' && <CoatValue sheet={sheet} layer={layer} map={map} cell={cell} change={change} what={what} />}
        <PercentField
          label="Opacity"
          labelWidth="52px"
          reset={1}
          disabled={!cell?.on}
          value={cell?.opacity ?? 1}
          onPreview={(v) => preview(change({ opacity: v }))}
          onCommit={(v) => edit(change({ opacity: v }), `${what}: opacity ${Math.round(v * 100)} %`)}
        />
        <label className="flex items-center gap-2">
          <span className="w-[52px] shrink-0 text-ink-soft">Blend</span>
          <BlendSelect
            kind={info.relief ? 'height' : info.kind}
            label={`Blend of ${what}`}
            value={cell?.blend}
            inherit={`As the layer: ${BLEND_LABELS[effectiveBlend({ ...layer, cells: { [map]: { ...cell, on: true, blend: undefined } } }, map)].toLowerCase()}`}
            disabled={!cell?.on}
            onChange={(b) => edit(change({ blend: b }), `${what}: ${b ? BLEND_LABELS[b] : 'as the layer'}`)}
          />
        </label>
      </Popup>
    </span>
  );
}

function CellFace({ layer, map, cell, kind }: { layer: Layer; map: MapId; cell: Cell; kind: 'colour' | 'value' | 'normal' }) {
  if (layer.kind === 'painted' || cell.picture) return <PaintFace ownerId={layer.id} map={map} />;
  if (cell.placed || (layer.source && (cell.low || cell.ramp))) return <MadeFace layerId={layer.id} map={map} />;
  if (layer.kind === 'coat')
    return kind === 'value' ? (
      <span className="absolute inset-0 rounded border border-line bg-raised">
        <span className="absolute inset-x-1 bottom-1 bg-ink-soft" style={{ height: `${Math.max(6, cell.value![0] * 66)}%` }} />
      </span>
    ) : (
      <span className="absolute inset-0 rounded border border-line" style={{ background: srgbToHex(cell.value!) }} />
    );
  // Groups, adjustments and echoes have nothing of their own to show: a ring says that they reach this map.
  return (
    <span
      className={`h-2.5 w-2.5 border-[1.5px] border-ink ${layer.kind === 'group' ? 'rounded-[3px]' : layer.kind === 'echo' ? 'rounded-full border-dashed' : 'rounded-full'}`}
    />
  );
}

/** What a source or a placed picture lays down, seen from afar. */
function MadeFace({ layerId, map }: { layerId: string; map: MapId }) {
  const picture = useSmallPicture({ of: 'layer', layerId, map });
  return (
    <span className="absolute inset-0 rounded border border-line bg-field" data-made={picture ? 'yes' : 'no'}>
      {picture && <SmallPictureView picture={picture} className="h-full w-full rounded-[3px]" />}
    </span>
  );
}

/** What is painted, seen from afar; a faint frame while nothing is. */
function PaintFace({ ownerId, map }: { ownerId: string; map: MapId }) {
  const picture = useThumbnail(ownerId, map);
  return (
    <span
      className="absolute inset-0 rounded border border-line"
      style={{ background: 'repeating-conic-gradient(var(--field) 0 25%, var(--raised) 0 50%) 0 0 / 8px 8px' }}
      data-painted={picture ? 'yes' : 'no'}
    >
      {picture && <SmallPictureView picture={picture} className="h-full w-full rounded-[3px]" />}
    </span>
  );
}

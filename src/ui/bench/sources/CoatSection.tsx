'use client';
/** What a coat is spread by: a rule, with where it lies; and where its pictures lie. */
import { ImagePlus, Sparkles, X } from 'lucide-react';
import { setLayerEdit } from '@/core/document/edits';
import { mapInfo, mapKind, type MapId } from '@/core/kinds/maps';
import type { Layer, Sheet } from '@/core/document/schema';
import { SOURCES, type Made } from '@/core/kinds/sources';
import { IconButton } from '../../kit/Button';
import { Tip } from '../../kit/Tip';
import { askForSet } from '../pictures/pictureSet';
import { edit, preview } from '../store';
import { PlacementEditor } from './PlacementEditor';
import { RulePicture, SourcePicker } from './SourcePicker';
import { SourceEditor } from './SourceEditor';
import { aspectOf, startPlacement } from './presets';

const SPREAD = 0.25;

/** What a cell becomes where a new source is 0: a little darker, lower, smoother than where it is 1. */
function lowOf(map: MapId, value: readonly number[]): number[] {
  if (mapKind(map) === 'colour') return value.map((v) => v * 0.55);
  return [Math.max(0, value[0] - (mapInfo(map).spread ?? SPREAD))];
}

/** The layer with a source: the cells that are on and say an even value are spread by it. */
export function withSource(layer: Layer, made: Made): Partial<Layer> {
  const cells = Object.fromEntries(
    Object.entries(layer.cells).map(([map, cell]) => {
      const even = cell?.on && cell.value && !cell.placed && !cell.picture && !cell.low && mapKind(map as MapId) !== 'normal';
      return [map, even ? { ...cell, low: lowOf(map as MapId, cell.value!) } : cell];
    }),
  );
  return { source: made, placement: layer.placement ?? startPlacement(made.type), cells };
}

export function CoatSection({ sheet, layer }: { sheet: Sheet; layer: Layer }) {
  const { source } = layer;
  const placed = sheet.maps.filter((m) => layer.cells[m]?.placed);
  const set = (after: Partial<Layer>, label: string) => edit(setLayerEdit(sheet, layer, after), `${layer.name}: ${label}`);
  const pick = (made: Made) => {
    set(source ? { source: made } : withSource(layer, made), SOURCES[made.type].label.toLowerCase());
  };
  const reached = sheet.maps.filter((m) => layer.cells[m]?.on && (layer.cells[m]?.low || layer.cells[m]?.ramp));
  return (
    <div className="space-y-1">
      <div className="flex items-center gap-1.5">
        <span className="w-14 shrink-0 text-ink-soft">Spread</span>
        <SourcePicker onPick={pick}>
          <button
            type="button"
            aria-label={source ? `Source: ${SOURCES[source.type].label}. Click for another` : 'Spread evenly, or by a source'}
            className="inline-flex h-7 items-center gap-1.5 rounded border border-line bg-raised px-1 pr-2 hover:bg-field"
          >
            {source ? (
              <>
                <span className="h-5 w-5 overflow-hidden rounded-sm">
                  <RulePicture made={source} />
                </span>
                {SOURCES[source.type].label}
              </>
            ) : (
              <>
                <Sparkles size={13} className="ml-0.5" /> evenly
              </>
            )}
          </button>
        </SourcePicker>
        {source && (
          <IconButton label="Spread evenly again" className="h-6 w-6" onClick={() => set({ source: null }, 'spread evenly')}>
            <X size={13} />
          </IconButton>
        )}
        <span className="flex-1" />
        <Tip label="Pictures from the disk: one, or the maps of a material at once">
          <button
            type="button"
            className="inline-flex h-6 items-center gap-1 rounded px-1.5 hover:bg-field"
            onClick={() => askForSet(layer)}
          >
            <ImagePlus size={13} /> Pictures …
          </button>
        </Tip>
      </div>
      {source && (
        <>
          {reached.length === 0 && (
            <p className="pl-[62px] text-[12px] text-ink-soft">No cell is spread by it yet: open a cell and give it a low end.</p>
          )}
          <SourceEditor
            made={source}
            owner={{ kind: 'layer', layerId: layer.id }}
            onPreview={(made) => preview(setLayerEdit(sheet, layer, { source: made }))}
            onCommit={(made, label) => set({ source: made }, label.toLowerCase())}
          />
        </>
      )}
      {placed.length > 0 && (
        <p className="pl-[62px] text-[12px] text-ink-soft">
          Pictures on {placed.map((m) => mapInfo(m, sheet.ownMaps).label.toLowerCase()).join(', ')}
        </p>
      )}
      {((source && SOURCES[source.type].where(source) === 'placed') || placed.length > 0) && (
        <PlacementEditor
          placement={layer.placement}
          solid={placed.length === 0 && source !== null && SOURCES[source.type].group === 'noise'}
          picture={placed.length > 0 ? aspectOf(layer.cells[placed[0]]!.placed!.picture) : null}
          owner={{ kind: 'layer', layerId: layer.id }}
          onPreview={(placement) => preview(setLayerEdit(sheet, layer, { placement }))}
          onCommit={(placement, label) => set({ placement }, label.toLowerCase())}
        />
      )}
    </div>
  );
}

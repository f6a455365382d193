'use client';
/** What a coat lays down on one map: an even value, a spread between two ends, a ramp, or a picture. */
import { useRef } from 'react';
import { HexColorPicker } from 'react-colorful';
import { hexToSrgb, srgbToHex } from '@/core/colour/transfer';
import type { Edit } from '@/core/document/edits';
import { mapInfo, type MapId } from '@/core/kinds/maps';
import type { Cell, Layer, Sheet } from '@/core/document/schema';
import { rampAt } from '@/core/kinds/filters/ramp';
import { GREY_LABELS, GREYS } from '@/core/kinds/grey';
import { Choice } from '../common/Choice';
import { ColourField } from '../common/ColourField';
import { Button, Switch } from '../common/controls';
import { NumberField } from '../common/NumberField';
import { RampEditor } from './filters/RampEditor';
import { chooseFiles, offerSet } from './pictureSet';
import { edit, preview } from './store';

const askForPicture = (layer: Layer, map: MapId) => chooseFiles(false, (files) => offerSet(files, layer, map));

interface CoatValueProps {
  sheet: Sheet;
  layer: Layer;
  map: MapId;
  cell: Cell | undefined;
  change: (next: Partial<Cell>) => Edit;
  what: string;
}

export function CoatValue({ sheet, layer, map, cell, change, what }: CoatValueProps) {
  const info = mapInfo(map, sheet.ownMaps);
  const value = cell?.value ?? info.start;
  const latest = useRef<string | null>(null);
  if (cell?.picture)
    return (
      <div className="space-y-1.5">
        <p className="truncate text-ink-soft">{cell.picture}</p>
        <div className="flex gap-1">
          <Button className="h-7" onClick={() => askForPicture(layer, map)}>
            Another picture …
          </Button>
          <Button className="h-7" onClick={() => edit(change({ picture: undefined }), `${what}: no picture`)}>
            Even value
          </Button>
        </div>
      </div>
    );
  if (cell?.placed) return <PlacedPicture sheet={sheet} layer={layer} map={map} cell={cell} change={change} what={what} />;
  const colour = srgbToHex(value);
  const offset = info.display === 'offset';
  const commitColour = () => {
    if (latest.current && latest.current !== colour)
      edit(change({ on: true, value: hexToSrgb(latest.current) }), `${what} ${latest.current}`);
    latest.current = null;
  };
  return (
    <div className="space-y-1.5">
      {info.kind === 'value' ? (
        <NumberField
          label="Value"
          labelWidth="52px"
          unit="%"
          value={offset ? (value[0] - 0.5) * 100 : value[0] * 100}
          min={offset ? -50 : 0}
          max={offset ? 50 : 100}
          reset={offset ? 0 : info.start[0] * 100}
          onPreview={(v) => preview(change({ on: true, value: [offset ? v / 100 + 0.5 : v / 100] }))}
          onCommit={(v) => edit(change({ on: true, value: [offset ? v / 100 + 0.5 : v / 100] }), `${what} ${Math.round(v)} %`)}
        />
      ) : info.kind === 'colour' ? (
        <div onPointerUp={commitColour} onKeyUp={commitColour}>
          <HexColorPicker
            color={colour}
            style={{ width: '100%', height: 150 }}
            onChange={(c) => {
              latest.current = c;
              preview(change({ on: true, value: hexToSrgb(c) }));
            }}
          />
          <input
            aria-label={`${what}, hex`}
            key={colour}
            defaultValue={colour}
            onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
            onBlur={(e) => {
              const hex = e.target.value.trim().replace(/^#?/, '#').toLowerCase();
              if (/^#[0-9a-f]{6}$/.test(hex) && hex !== colour)
                edit(change({ on: true, value: hexToSrgb(hex) }), `${what} ${hex}`);
            }}
            className="figures mt-1.5 w-24 rounded border border-line bg-raised px-2 py-1"
          />
        </div>
      ) : (
        <p className="text-ink-soft">Flat. A picture gives it directions.</p>
      )}
      {layer.source && info.kind !== 'normal' && <SpreadEnds map={map} cell={cell} value={value} change={change} what={what} />}
      <Button className="h-7" onClick={() => askForPicture(layer, map)}>
        Picture …
      </Button>
    </div>
  );
}

/** Where the layer's source is 0: the other end of the spread, or a ramp of colours. */
function SpreadEnds({ map, cell, value, change, what }: Omit<CoatValueProps, 'sheet' | 'layer'> & { value: readonly number[] }) {
  const info = mapInfo(map);
  const offset = info.display === 'offset';
  const toShown = (v: number) => (offset ? (v - 0.5) * 100 : v * 100);
  const fromShown = (v: number) => (offset ? v / 100 + 0.5 : v / 100);
  const spread = cell?.low !== undefined || cell?.ramp !== undefined;
  const start = value.map((v) => (info.kind === 'colour' ? v * 0.55 : Math.max(0, v - 0.25)));
  return (
    <div className="space-y-1 border-t border-line pt-1.5">
      <Switch
        label="Spread by the source"
        hint="On: this value where the source is 1, another where it is 0"
        checked={spread}
        onChange={(on) =>
          edit(change(on ? { low: start } : { low: undefined, ramp: undefined }), `${what}: ${on ? 'spread' : 'even'}`)
        }
      />
      {cell?.low && !cell.ramp && info.kind === 'value' && (
        <NumberField
          label="Where 0"
          labelWidth="52px"
          unit="%"
          min={offset ? -50 : 0}
          max={offset ? 50 : 100}
          reset={toShown(start[0])}
          value={toShown(cell.low[0])}
          onPreview={(v) => preview(change({ low: [fromShown(v)] }))}
          onCommit={(v) => edit(change({ low: [fromShown(v)] }), `${what}: low end ${Math.round(v)} %`)}
        />
      )}
      {cell?.low && !cell.ramp && info.kind === 'colour' && (
        <div className="flex items-center gap-2">
          <span className="w-[52px] text-ink-soft">Where 0</span>
          <ColourField
            label={`${what}, where the source is 0`}
            colour={srgbToHex(cell.low)}
            onPreview={(c) => preview(change({ low: hexToSrgb(c) }))}
            onCommit={(c) => edit(change({ low: hexToSrgb(c) }), `${what}: low end ${c}`)}
          >
            <button
              type="button"
              aria-label="Colour where the source is 0"
              className="h-6 w-10 rounded border border-line"
              style={{ background: srgbToHex(cell.low) }}
            />
          </ColourField>
          <button
            type="button"
            className="h-6 rounded px-1 hover:bg-field"
            onClick={() => {
              const stops = [0, 1].map((at) => ({ at, colour: [...(at ? value : cell.low!)] as [number, number, number] }));
              edit(change({ ramp: stops }), `${what}: a ramp`);
            }}
          >
            More colours
          </button>
        </div>
      )}
      {cell?.ramp && (
        <>
          <RampEditor
            filter={{ type: 'ramp', stops: cell.ramp }}
            onPreview={(f) => f.type === 'ramp' && preview(change({ ramp: f.stops }))}
            onCommit={(f) => f.type === 'ramp' && edit(change({ ramp: f.stops }), `${what}: ramp`)}
          />
          <button
            type="button"
            className="h-6 rounded px-1 hover:bg-field"
            onClick={() => {
              const end = [0, 0, 0];
              rampAt(
                cell.ramp!.toSorted((a, b) => a.at - b.at),
                0,
                end,
              );
              edit(change({ ramp: undefined, low: end }), `${what}: two colours`);
            }}
          >
            Two colours
          </button>
        </>
      )}
    </div>
  );
}

function PlacedPicture({ sheet, layer, map, cell, change, what }: CoatValueProps & { cell: Cell }) {
  const placed = cell.placed!;
  const info = mapInfo(map, sheet.ownMaps);
  const name = sheet.pictures.find((p) => p.id === placed.picture)?.name ?? 'A picture that is gone';
  const set = (next: Partial<typeof placed>) => change({ placed: { ...placed, ...next } });
  return (
    <div className="space-y-1">
      <p className="truncate text-ink-soft" title={name}>
        {name}
      </p>
      {info.kind === 'value' && (
        <Choice
          label="Takes"
          labelWidth="52px"
          value={placed.take}
          options={GREYS.map((g) => ({ value: g, label: GREY_LABELS[g] }))}
          onChange={(take) => edit(set({ take }), `${what}: ${GREY_LABELS[take].toLowerCase()}`)}
        />
      )}
      {info.kind !== 'normal' && (
        <NumberField
          label="Neutral"
          labelWidth="52px"
          unit="%"
          min={0}
          max={100}
          reset={0}
          hint="Moves its mean to the middle grey, so that it tints and shades what is below (with overlay or soft light)"
          value={placed.neutral * 100}
          onPreview={(v) => preview(set({ neutral: v / 100 }))}
          onCommit={(v) => edit(set({ neutral: v / 100 }), `${what}: neutral ${Math.round(v)} %`)}
        />
      )}
      <div className="flex gap-1">
        <Button className="h-7" onClick={() => askForPicture(layer, map)}>
          Another …
        </Button>
        <Button className="h-7" onClick={() => edit(change({ placed: undefined }), `${what}: no picture`)}>
          Even value
        </Button>
      </div>
    </div>
  );
}

'use client';
/** What a coat lays down on one map: a value, a picture, or what its source spreads. */
import { useRef } from 'react';
import { hexToSrgb, srgbToHex } from '@/core/colour/transfer';
import { mapInfo } from '@/core/kinds/maps';
import { Button } from '../../kit/Button';
import { ColourPicker } from '../../kit/ColourPicker';
import { NumberField } from '../../kit/NumberField';
import { edit, preview } from '../store';
import { SpreadEnds } from './SpreadEnds';
import { PlacedPicture } from './PlacedPicture';
import { askForPicture, type CoatValueProps } from './props';

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
        <div>
          <ColourPicker
            colour={colour}
            label={what}
            onChange={(c) => {
              latest.current = c;
              preview(change({ on: true, value: hexToSrgb(c) }));
            }}
            onCommit={commitColour}
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

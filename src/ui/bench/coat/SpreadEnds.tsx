'use client';
/** From where to where a source spreads a map. */
import { hexToSrgb, srgbToHex } from '@/core/colour/transfer';
import { mapInfo } from '@/core/kinds/maps';
import { rampAt } from '@/core/kinds/filters/ramp';
import { ColourField } from '../../kit/ColourField';
import { Switch } from '../../kit/Switch';
import { NumberField } from '../../kit/NumberField';
import { RampStops } from '../filters/RampEditor';
import { edit, preview } from '../store';
import type { CoatValueProps } from './props';

/** Where the layer's source is 0: the other end of the spread, or a ramp of colours. */
export function SpreadEnds({
  map,
  cell,
  value,
  change,
  what,
}: Omit<CoatValueProps, 'sheet' | 'layer'> & { value: readonly number[] }) {
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
          <RampStops
            stops={cell.ramp}
            onPreview={(ramp) => preview(change({ ramp }))}
            onCommit={(ramp) => edit(change({ ramp }), `${what}: ramp`)}
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

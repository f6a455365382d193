'use client';
/** What the brush writes: to the maps of a sheet, or to a mask. */
import { ArrowLeftRight } from 'lucide-react';
import { mapInfo } from '@/core/kinds/maps';
import { IconButton } from '../../kit/Button';
import { Tip } from '../../kit/Tip';
import { NumberField } from '../../kit/NumberField';
import { PercentField } from '../../kit/PercentField';
import { keysFor } from '../keys/commands';
import { currentMask, currentSheet, setWrite, swapWells, useBench, writeOf } from '../store';

export function WritesPanel() {
  const target = useBench((s) => s.target);
  return target === 'mask' ? <MaskPanel /> : <MapsPanel />;
}

/** While a mask is painted: how much it lets through where the brush goes. */
function MaskPanel() {
  const value = useBench((s) => s.maskValue);
  const mask = useBench((s) => currentMask(s));
  const set = (maskValue: number) => useBench.setState({ maskValue });
  return (
    <div className="min-w-[200px] flex-1 bg-accent-wash px-3 py-2" aria-label="What the brush writes">
      <div className="mb-1 flex justify-between text-accent-ink">
        <span className="truncate">Painting {mask?.name ?? 'the mask'}</span>
      </div>
      <PercentField label="Shows" labelWidth="60px" value={value} reset={1} onPreview={(v) => set(v)} onCommit={(v) => set(v)} />
      <div className="mt-1 flex flex-wrap items-center gap-1.5">
        {[
          { v: 1, label: 'Show' },
          { v: 0, label: 'Hide' },
        ].map(({ v, label }) => (
          <button
            key={label}
            type="button"
            aria-pressed={value === v}
            onClick={() => set(v)}
            className={`inline-flex h-7 items-center gap-1.5 rounded border px-2 ${value === v ? 'border-accent bg-raised' : 'border-line'}`}
          >
            <span className="h-3.5 w-3.5 rounded-sm border border-line" style={{ background: v ? '#fff' : '#000' }} />
            {label}
          </button>
        ))}
        <IconButton label="Swap showing and hiding" keys={keysFor('swap')} onClick={swapWells}>
          <ArrowLeftRight size={14} />
        </IconButton>
        <button
          type="button"
          className="ml-auto h-7 rounded px-2 whitespace-nowrap hover:bg-field"
          onClick={() => useBench.setState({ target: 'layer' })}
        >
          Back to the layer
        </button>
      </div>
    </div>
  );
}

function MapsPanel() {
  const writes = useBench((s) => s.writes);
  const well = useBench((s) => s.wells[0]);
  const sheet = useBench((s) => currentSheet(s));
  return (
    <div className="min-w-[222px] flex-[0.8] overflow-y-auto px-2 py-2" aria-label="What the brush writes">
      <div className="mb-1 flex justify-between text-ink-soft">
        Writes<span className="text-[11px]">value · amount</span>
      </div>
      {sheet.maps.map((map) => {
        const info = mapInfo(map, sheet.ownMaps);
        // Directions are not painted by hand: height makes them.
        if (info.kind === 'normal') return null;
        const w = writeOf(writes, map);
        const value = info.kind === 'colour' ? null : w.value;
        const offset = info.display === 'offset';
        return (
          <div key={map} className="flex h-[26px] items-center gap-1">
            <Tip label={`${w.on ? 'Strokes write' : 'Strokes leave alone'}: ${info.label.toLowerCase()}. ${info.hint}`}>
              <button
                type="button"
                aria-pressed={w.on}
                data-write={map}
                onClick={() => setWrite(map, { on: !w.on })}
                className={`flex h-6 w-[76px] shrink-0 items-center gap-1.5 rounded border px-1.5 ${w.on ? 'border-accent bg-raised' : 'border-line text-ink-soft'}`}
              >
                {info.kind === 'colour' && (
                  <span className="h-3 w-3 rounded-sm border border-line" style={{ background: well }} />
                )}
                <span className="truncate">{info.label.replace('Base colour', 'Colour')}</span>
              </button>
            </Tip>
            {value !== null ? (
              <div className="min-w-0 flex-1">
                <NumberField
                  label=""
                  name={info.label}
                  unit="%"
                  value={offset ? (value - 0.5) * 100 : value * 100}
                  min={offset ? -50 : 0}
                  max={offset ? 50 : 100}
                  reset={offset ? 12 : info.start[0] * 100}
                  disabled={!w.on}
                  hint={offset ? 'Raise (+) or sink (−), as a share of the sheet’s height range' : info.label}
                  onPreview={(v) => setWrite(map, { value: offset ? v / 100 + 0.5 : v / 100 })}
                  onCommit={(v) => setWrite(map, { value: offset ? v / 100 + 0.5 : v / 100 })}
                />
              </div>
            ) : (
              <span className="figures min-w-0 flex-1 truncate text-ink-soft">{well}</span>
            )}
            <AmountInput
              label={`${info.label} amount`}
              amount={w.amount}
              disabled={!w.on}
              onChange={(amount) => setWrite(map, { amount })}
            />
          </div>
        );
      })}
    </div>
  );
}

function AmountInput({
  label,
  amount,
  disabled,
  onChange,
}: {
  label: string;
  amount: number;
  disabled: boolean;
  onChange: (amount: number) => void;
}) {
  return (
    <Tip label={`${label}: share of the stroke that this map gets`}>
      <input
        type="number"
        aria-label={label}
        min={0}
        max={100}
        step={5}
        disabled={disabled}
        value={Math.round(amount * 100)}
        onChange={(e) => e.target.value !== '' && onChange(Math.min(1, Math.max(0, Number(e.target.value) / 100)))}
        onDoubleClick={() => onChange(1)}
        onKeyDown={(e) => e.stopPropagation()}
        className="figures h-6 w-9 shrink-0 [appearance:textfield] [&::-webkit-inner-spin-button]:appearance-none rounded border border-line bg-raised px-1 text-right disabled:opacity-40"
      />
    </Tip>
  );
}

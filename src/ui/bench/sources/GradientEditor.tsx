'use client';
/** A gradient: where it lies, and its stops. */
import { Plus, X } from 'lucide-react';
import type { MadeOf } from '@/core/kinds/sources';
import { Choice } from '../../kit/Choice';
import { IconButton } from '../../kit/Button';
import { Switch } from '../../kit/Switch';
import { PercentField } from '../../kit/PercentField';
import type { SourceEditorProps } from './editorProps';
import { HandleSwitch } from './PlacementEditor';
import { modelBox, startOf } from './presets';

type Gradient = MadeOf<'gradient'>;
const SHAPES = [
  { value: 'linear', label: 'Linear' },
  { value: 'radial', label: 'Radial' },
  { value: 'angular', label: 'Angular' },
] as const;
const BEYOND = [
  { value: 'hold', label: 'Clamp' },
  { value: 'mirror', label: 'Mirror' },
  { value: 'repeat', label: 'Repeat' },
] as const;

export function GradientEditor({ made, owner, onPreview, onCommit }: SourceEditorProps<Gradient>) {
  const set = (change: Partial<Gradient>, label: string) => onCommit({ ...made, ...change }, `Gradient: ${label}`);
  const stops = (next: Gradient['stops']): Gradient => ({ ...made, stops: next });
  const onModel = modelBox() && (startOf('gradient') as Gradient);
  return (
    <div className="space-y-0.5">
      <div className="flex flex-wrap items-center gap-1 pb-0.5">
        {onModel && (
          <>
            <Quick label="Foot to head" onClick={() => onCommit(onModel, 'Gradient: foot to head')} />
            <Quick
              label="Head to foot"
              onClick={() => onCommit({ ...onModel, from: onModel.to, to: onModel.from }, 'Gradient: head to foot')}
            />
            <Quick
              label={made.space === 'model' ? 'On the sheet' : 'In space'}
              onClick={() =>
                set(
                  made.space === 'model'
                    ? { space: 'sheet', from: [0.5, 1, 0], to: [0.5, 0, 0] }
                    : { space: 'model', from: onModel.from, to: onModel.to },
                  made.space === 'model' ? 'on the sheet' : 'in space',
                )
              }
            />
          </>
        )}
        <HandleSwitch owner={owner} />
      </div>
      <Choice label="Shape" value={made.shape} options={SHAPES} onChange={(shape) => set({ shape }, 'shape')} />
      <Choice label="Beyond" value={made.beyond} options={BEYOND} onChange={(beyond) => set({ beyond }, 'beyond')} />
      {made.stops.map((stop, n) => (
        <div key={n} className="flex items-center gap-2">
          <div className="min-w-0 flex-1">
            <PercentField
              label={n === 0 ? 'At' : '… at'}
              labelWidth="28px"
              reset={n === 0 ? 0 : 1}
              value={stop.at}
              onPreview={(v) => onPreview(stops(made.stops.with(n, { ...stop, at: v })))}
              onCommit={(v) => onCommit(stops(made.stops.with(n, { ...stop, at: v })), 'Gradient: place of a stop')}
            />
          </div>
          <div className="min-w-0 flex-1">
            <PercentField
              label="is"
              labelWidth="14px"
              reset={n === 0 ? 1 : 0}
              value={stop.value}
              onPreview={(v) => onPreview(stops(made.stops.with(n, { ...stop, value: v })))}
              onCommit={(v) => onCommit(stops(made.stops.with(n, { ...stop, value: v })), 'Gradient: value of a stop')}
            />
          </div>
          <IconButton
            label="Take this stop out"
            className="h-6 w-6"
            disabled={made.stops.length === 1}
            onClick={() => onCommit(stops(made.stops.toSpliced(n, 1)), 'Gradient: one stop less')}
          >
            <X size={12} />
          </IconButton>
        </div>
      ))}
      <div className="flex items-center gap-2">
        <Switch label="Eased" checked={made.smooth} onChange={(smooth) => set({ smooth }, smooth ? 'eased' : 'straight')} />
        <button
          type="button"
          className="inline-flex h-6 items-center gap-0.5 rounded px-1 text-ink-soft hover:bg-field hover:text-ink"
          disabled={made.stops.length >= 16}
          onClick={() => onCommit(stops([...made.stops, { at: 0.5, value: 0.5 }]), 'Gradient: one stop more')}
        >
          <Plus size={12} /> Stop
        </button>
      </div>
    </div>
  );
}

function Quick({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <button type="button" onClick={onClick} className="h-6 rounded border border-line bg-raised px-1.5 hover:bg-field">
      {label}
    </button>
  );
}

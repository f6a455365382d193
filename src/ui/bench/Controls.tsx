'use client';
/** The editor of a source or an adjustment, from what its definition says of its settings (core/kinds/control.ts). */
import { Shuffle } from 'lucide-react';
import { GREY_OPTIONS } from '@/core/kinds/grey';
import { mapInfo, mapKind, type MapId } from '@/core/kinds/maps';
import type { Control, NumberControl } from '@/core/kinds/control';
import { Choice } from '../kit/Choice';
import { IconButton } from '../kit/Button';
import { NumberField } from '../kit/NumberField';
import { currentSheet, useBench } from './store';

interface ControlsProps<P extends object> {
  controls: readonly Control[];
  settings: P;
  /** Where a double click goes back to. */
  start: P;
  /** Follows a drag. */
  onPreview: (next: P) => void;
  onCommit: (next: P, control: Control) => void;
  className?: string;
  labelWidth?: string;
}

export function Controls<P extends object>(props: ControlsProps<P>) {
  const { controls, settings, start, onPreview, onCommit, className = 'space-y-0.5', labelWidth = '68px' } = props;
  const values = settings as Record<string, number | string>;
  const starts = start as Record<string, number | string>;
  const set = (key: string, v: number | string): P => ({ ...settings, [key]: v });
  return (
    <div className={className}>
      {controls.map((control) => {
        if (!shown(control, values)) return null;
        const { key } = control;
        const commit = (v: number | string) => onCommit(set(key, v), control);
        if (control.kind === 'number')
          return (
            <NumberRow
              key={key}
              control={control}
              labelWidth={labelWidth}
              value={values[key] as number}
              start={starts[key] as number}
              onPreview={(v) => onPreview(set(key, v))}
              onCommit={commit}
            />
          );
        const options = optionsOf(control);
        return (
          <Choice
            key={key}
            label={control.label}
            labelWidth={labelWidth}
            value={values[key] as string}
            options={options}
            onChange={commit}
          />
        );
      })}
    </div>
  );
}

/** Whether there is anything to choose by it, with these settings. */
function shown(control: Control, settings: Record<string, unknown>): boolean {
  if (control.kind !== 'grey') return true;
  const there = Object.entries(control.where ?? {}).every(([key, value]) => settings[key] === value);
  return there && mapKind(settings[control.of] as MapId) === 'colour';
}

function optionsOf(control: Exclude<Control, NumberControl>): readonly { value: string; label: string }[] {
  if (control.kind === 'choice') return control.options;
  if (control.kind === 'grey') return GREY_OPTIONS;
  if (control.kind === 'map') return mapsBelow(control.kinds);
  return (useBench.getState().geometry?.parts ?? []).map((value) => ({ value, label: value }));
}

function mapsBelow(kinds: readonly string[]): { value: string; label: string }[] {
  const { maps, ownMaps } = currentSheet();
  return maps
    .map((m) => mapInfo(m, ownMaps))
    .filter((info) => kinds.includes(info.kind))
    .map(({ id, label }) => ({ value: id, label: `${label} below` }));
}

interface NumberRowProps {
  control: NumberControl;
  labelWidth?: string;
  value: number;
  start: number;
  onPreview: (v: number) => void;
  onCommit: (v: number) => void;
}

/** One number, as its control says. */
export function NumberRow({ control, labelWidth = '68px', value, start, onPreview, onCommit }: NumberRowProps) {
  const { label, min, max, unit, scale = 1, digits = 0, fine, free } = control;
  // Whole numbers stay whole.
  const back = (v: number) => (digits === 0 && scale === 1 && !free ? Math.round(v) : v / scale);
  const field = (
    <NumberField
      label={label}
      labelWidth={labelWidth}
      unit={unit}
      min={min}
      max={max}
      digits={digits}
      curve={fine ? 'fine' : 'even'}
      value={value * scale}
      reset={start * scale}
      onPreview={(v) => onPreview(back(v))}
      onCommit={(v) => onCommit(back(v))}
    />
  );
  if (control.key !== 'seed') return field;
  return (
    <div className="flex items-center">
      <div className="min-w-0 flex-1">{field}</div>
      <IconButton label="Another seed" className="h-6 w-6" onClick={() => onCommit(Math.floor(Math.random() * 1000))}>
        <Shuffle size={12} />
      </IconButton>
    </div>
  );
}

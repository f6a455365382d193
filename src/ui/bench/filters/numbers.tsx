'use client';
/** Adjustments that are a few numbers. */
import type { Filter, FilterOf } from '@/core/strata/filters';
import { NumberField } from '../../common/NumberField';
import type { EditorProps } from '.';

interface Row {
  key: string;
  label: string;
  unit: string;
  min: number;
  max: number;
  reset: number;
  /** Shown number for one of the filter's. */
  scale: number;
  curve?: 'fine';
  digits?: number;
}

function Numbers({ filter, onPreview, onCommit, rows }: EditorProps & { rows: Row[] }) {
  const values = filter as unknown as Record<string, number>;
  const next = (key: string, v: number) => ({ ...filter, [key]: v }) as Filter;
  return (
    <div className="space-y-0.5">
      {rows.map(({ key, scale, ...row }) => (
        <NumberField
          key={key}
          {...row}
          labelWidth="68px"
          value={values[key] * scale}
          onPreview={(v) => onPreview(next(key, v / scale))}
          onCommit={(v) => onCommit(next(key, v / scale))}
        />
      ))}
    </div>
  );
}

const percent = (key: string, label: string, min: number, reset = 0): Row => ({
  key,
  label,
  unit: '%',
  min,
  max: 100,
  reset,
  scale: 100,
});

export const ContrastEditor = (p: EditorProps<FilterOf<'contrast'>>) => (
  <Numbers {...p} rows={[percent('brightness', 'Brightness', -100), percent('contrast', 'Contrast', -100)]} />
);

export const DesaturateEditor = (p: EditorProps<FilterOf<'desaturate'>>) => (
  <Numbers {...p} rows={[percent('amount', 'Amount', 0, 100)]} />
);

export const HueEditor = (p: EditorProps<FilterOf<'hue'>>) => (
  <Numbers
    {...p}
    rows={[
      { key: 'hue', label: 'Hue', unit: '°', min: -180, max: 180, reset: 0, scale: 1 },
      percent('saturation', 'Saturation', -100),
      percent('lightness', 'Lightness', -100),
    ]}
  />
);

export const ColouriseEditor = (p: EditorProps<FilterOf<'colourise'>>) => (
  <Numbers
    {...p}
    rows={[
      { key: 'hue', label: 'Hue', unit: '°', min: 0, max: 360, reset: 70, scale: 1 },
      { key: 'chroma', label: 'Chroma', unit: '%', min: 0, max: 37, reset: 8, scale: 100 },
      percent('amount', 'Amount', 0, 100),
    ]}
  />
);

export const BlurEditor = (p: EditorProps<FilterOf<'blur'>>) => (
  <Numbers
    {...p}
    rows={[{ key: 'sigma', label: 'Width σ', unit: 'tx', min: 0, max: 256, reset: 4, scale: 1, curve: 'fine', digits: 1 }]}
  />
);

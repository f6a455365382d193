'use client';
/** Adjustments that are a few numbers. */
import type { Filter, FilterOf } from '@/core/kinds/filters';
import { NumberField } from '../../common/NumberField';
import type { EditorProps } from './editor';

export interface Row {
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
  /** Whole numbers only. */
  whole?: boolean;
}

export function Numbers({ filter, onPreview, onCommit, rows }: EditorProps & { rows: Row[] }) {
  const values = filter as unknown as Record<string, number>;
  const next = (key: string, v: number) => ({ ...filter, [key]: v }) as Filter;
  return (
    <div className="space-y-0.5">
      {rows.map(({ key, scale, whole, ...row }) => {
        const back = (v: number) => (whole ? Math.round(v) : v / scale);
        return (
          <NumberField
            key={key}
            {...row}
            labelWidth="68px"
            value={values[key] * scale}
            onPreview={(v) => onPreview(next(key, back(v)))}
            onCommit={(v) => onCommit(next(key, back(v)))}
          />
        );
      })}
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

/** A length in texels. */
const texels = (key: string, label: string, min: number, max: number, reset: number, digits = 1): Row => ({
  key,
  label,
  unit: 'tx',
  min,
  max,
  reset,
  scale: 1,
  curve: min >= 0 ? 'fine' : undefined,
  digits,
});
const whole = (key: string, label: string, min: number, max: number, reset: number): Row => ({
  key,
  label,
  unit: '',
  min,
  max,
  reset,
  scale: 1,
  whole: true,
});

/** Adjustments that are nothing but numbers, by type. */
export const NUMBER_ROWS = {
  posterise: [whole('steps', 'Steps', 2, 64, 4)],
  threshold: [percent('at', 'At', 0, 50), percent('soften', 'Soften', 0)],
  band: [percent('centre', 'Around', 0, 50), percent('width', 'Width', 0, 20), percent('soften', 'Soften', 0, 10)],
  albedo: [percent('low', 'Darkest', 0, 19), percent('high', 'Lightest', 0, 93)],
  smear: [
    texels('length', 'Length', 1, 256, 24),
    { key: 'angle', label: 'Angle', unit: '°', min: -180, max: 180, reset: 0, scale: 1 },
  ],
  sharpen: [texels('sigma', 'Width σ', 0.3, 32, 1.2), { ...percent('amount', 'Amount', 0, 80), max: 400 }],
  median: [whole('radius', 'Radius', 1, 12, 2)],
  warp: [
    texels('amount', 'Amount', 0, 96, 12),
    texels('scale', 'Scale', 2, 2048, 48, 0),
    whole('octaves', 'Octaves', 1, 8, 4),
    whole('seed', 'Seed', 0, 999, 1),
  ],
  grow: [texels('by', 'Grow', -128, 128, 4), texels('soften', 'Soften', 0, 128, 2)],
  shift: [percent('x', 'Across', -100, 50), percent('y', 'Down', -100, 50)],
} satisfies Record<string, Row[]>;

export function NumberEditor(props: EditorProps) {
  const rows = (NUMBER_ROWS as Record<string, Row[]>)[props.filter.type];
  return <Numbers {...props} rows={rows} />;
}

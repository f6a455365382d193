/** How a setting of a kind (a source, an adjustment) is shown and set: one list beside its schema, from which its editor is made. */
export interface NumberControl {
  kind: 'number';
  key: string;
  label: string;
  /** Of what is shown. */
  min: number;
  max: number;
  unit?: string;
  /** What is shown for 1. */
  scale?: number;
  /** Behind the point, of what is shown; 0 with scale 1: whole numbers only, unless they are `free`. */
  digits?: number;
  free?: boolean;
  /** Small numbers get more of the track. */
  fine?: boolean;
  /** A length in texels of the sheet: a sheet seen smaller has it shorter, but not under `least`. */
  length?: { least: number };
}

export interface ChoiceControl {
  kind: 'choice';
  key: string;
  label: string;
  options: readonly { value: string; label: string }[];
}

/** One of the sheet's maps of these kinds. */
export interface MapControl {
  kind: 'map';
  key: string;
  label: string;
  kinds: readonly ('colour' | 'value' | 'normal')[];
}

/** One of the model's parts, by its name. */
export interface PartControl {
  kind: 'part';
  key: string;
  label: string;
}

/** Which number of a colour is taken; nothing to choose where the map that the setting `of` names holds one number only. */
export interface GreyControl {
  kind: 'grey';
  key: string;
  label: string;
  of: string;
  /** Only where these settings have these values. */
  where?: Readonly<Record<string, string>>;
}

export type Control = NumberControl | ChoiceControl | MapControl | PartControl | GreyControl;

type More = Partial<Omit<NumberControl, 'kind' | 'key' | 'label' | 'min' | 'max'>>;

export const number = (key: string, label: string, min: number, max: number, more: More = {}): NumberControl => ({
  kind: 'number',
  key,
  label,
  min,
  max,
  ...more,
});

/** A share, −1 … 1 or within: shown in percent. */
export const percent = (key: string, label: string, min = 0, max = 1): NumberControl =>
  number(key, label, min * 100, max * 100, { unit: '%', scale: 100 });

export const degrees = (key: string, label: string, min = -180, max = 180): NumberControl =>
  number(key, label, min, max, { unit: '°', free: true });

const AXES = [
  { value: 'x', label: 'X, to the right' },
  { value: 'y', label: 'Y, upwards' },
  { value: 'z', label: 'Z, to the front' },
] as const;

/** An axis of the model's space. */
export const axis = (key: string, label: string): ChoiceControl => ({ kind: 'choice', key, label, options: AXES });

/** A length in texels. */
export const texels = (key: string, label: string, min: number, max: number, more: More = {}): NumberControl =>
  number(key, label, min, max, { unit: 'tx', digits: 1, fine: min >= 0, length: { least: 0 }, ...more });

/** The same settings for a sheet `scale` times as large: lengths in texels follow. */
export function scaledSettings<P extends object>(controls: readonly Control[], settings: P, scale: number): P {
  const out = { ...settings } as Record<string, unknown>;
  for (const control of controls) {
    if (control.kind !== 'number' || !control.length) continue;
    const { key, digits = 0, length } = control;
    const v = (out[key] as number) * scale;
    const whole = digits === 0 ? Math.round(v) : v;
    out[key] = length.least > 0 ? Math.max(length.least, whole) : whole;
  }
  return out as P;
}

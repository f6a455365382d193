/** Gradients: along a line, around a point, around an axis; over the sheet or in the space of the model. */
import { z } from 'zod';
import { unit } from '../fields';
import { kernels } from '../../kernels';
import { clamp01, type Field, type SourceDef } from './source';

const point = z.tuple([z.number(), z.number(), z.number()]);
const schema = z.object({
  type: z.literal('gradient'),
  shape: z.enum(['linear', 'radial', 'angular']),
  /** `sheet`: 0 … 1 over the sheet, y down, z ignored. `model`: model units. */
  space: z.enum(['sheet', 'model']),
  from: point,
  to: point,
  beyond: z.enum(['hold', 'mirror', 'repeat']),
  /** By rising place. */
  stops: z
    .array(z.object({ at: unit, value: unit }))
    .min(1)
    .max(16),
  smooth: z.boolean(),
});
export type Gradient = z.infer<typeof schema>;

/** Straight (or eased) between stops, even beyond the first and the last; one stop is the same all over. */
export function stopsAt(stops: Gradient['stops'], smooth: boolean, t: number): number {
  let i = 0;
  while (i < stops.length && stops[i].at < t) i++;
  const b = stops[Math.min(i, stops.length - 1)];
  const a = stops[Math.max(0, i - 1)];
  const span = b.at - a.at;
  let k = span > 0 ? clamp01((t - a.at) / span) : 1;
  if (smooth) k = k * k * (3 - 2 * k);
  return a.value + (b.value - a.value) * k;
}

function beyond(t: number, how: Gradient['beyond']): number {
  if (how === 'hold') return clamp01(t);
  if (how === 'repeat') return t - Math.floor(t);
  const m = t - 2 * Math.floor(t / 2);
  return m > 1 ? 2 - m : m;
}

/** The nearest way round where the axis comes round after `period`. */
const nearest = (d: number, period: number): number => (period === 0 ? d : d - period * Math.round(d / period));

/**
 * The phase of a linear gradient over the sheet. Where an axis comes round, so does the gradient: its run along that
 * axis is rounded to whole turns (a mirrored one turns back, so two make one), and holding becomes mirroring.
 */
function linearPhase(p: Gradient, period: readonly [number, number]): { gx: number; gy: number; how: Gradient['beyond'] } {
  const [dx, dy] = [p.to[0] - p.from[0], p.to[1] - p.from[1]];
  const square = Math.max(1e-12, dx * dx + dy * dy);
  const wraps = period[0] !== 0 || period[1] !== 0;
  const how = p.beyond === 'hold' && wraps ? 'mirror' : p.beyond;
  const unitTurns = how === 'mirror' ? 2 : 1;
  const along = (g: number, per: number, main: boolean): number => {
    if (per === 0) return g;
    const turns = Math.round((g * per) / unitTurns);
    return ((turns === 0 && main ? Math.sign(g) || 1 : turns) * unitTurns) / per;
  };
  const main = Math.abs(dx) >= Math.abs(dy);
  return { gx: along(dx / square, period[0], main), gy: along(dy / square, period[1], !main), how };
}

/** How a gradient in space is shown on a flat square: from its foot up, or out from the middle. */
function onSquare(p: Gradient): Gradient {
  if (p.space === 'sheet') return p;
  const [from, to]: [Gradient['from'], Gradient['to']] =
    p.shape === 'linear'
      ? [
          [0.5, 1, 0],
          [0.5, 0, 0],
        ]
      : [
          [0.5, 0.5, 0],
          [1, 0.5, 0],
        ];
  return { ...p, space: 'sheet', from, to };
}

/** A linear gradient: the place along it, then its stops. */
function alongLine(p: Gradient, stops: Gradient['stops'], field: Field, out: Float32Array): void {
  const [fx, fy, fz] = p.from;
  const d = p.to.map((v, k) => v - p.from[k]);
  const square = Math.max(1e-12, d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
  const line = p.space === 'sheet' ? linearPhase(p, field.period) : { gx: d[0] / square, gy: d[1] / square, how: p.beyond };
  const { gx, gy, how } = line;
  const gz = p.space === 'sheet' ? 0 : d[2] / square;
  const { x, y, z } = field;
  const start = -(fx * gx + fy * gy + fz * gz);
  const ends = stops.length === 2 && stops[0].at === 0 && stops[1].at === 1 && how === 'hold';
  const [low, high] = [stops[0].value, stops[stops.length - 1].value];
  if (ends) return kernels().alongLine(out, field, { gx, gy, gz, start, low, high, smooth: p.smooth });
  for (let i = 0; i < out.length; i++) out[i] = stopsAt(stops, p.smooth, beyond(x[i] * gx + y[i] * gy + z[i] * gz + start, how));
}

const START: Gradient = {
  type: 'gradient',
  shape: 'linear',
  space: 'sheet',
  from: [0.5, 1, 0],
  to: [0.5, 0, 0],
  beyond: 'hold',
  stops: [
    { at: 0, value: 1 },
    { at: 1, value: 0 },
  ],
  smooth: true,
};

/** In space, from the model's foot (1) to its head (0). */
function footToHead({ min, max }: { min: readonly number[]; max: readonly number[] }): Gradient {
  const [x, z] = [(min[0] + max[0]) / 2, (min[2] + max[2]) / 2];
  return { ...START, space: 'model', from: [x, min[1], z], to: [x, max[1], z] };
}

export const gradient: SourceDef<Gradient> = {
  type: 'gradient',
  label: 'Gradient',
  hint: 'From one place to another: along a line, out from a point, or around an axis.',
  group: 'gradient',
  schema,
  start: START,
  startOn: footToHead,
  onSquare,
  controls: [],
  where: (p) => p.space,
  handles: {
    of: (p, sheet) => {
      const flat = p.space === 'sheet';
      const place = (at: Gradient['from']): Gradient['from'] => (flat ? [at[0] * sheet.width, at[1] * sheet.height, 0] : at);
      const pane = flat ? 'flat' : 'model';
      return [
        { id: 'from', label: 'Start', pane, at: place(p.from) },
        { id: 'to', label: 'End', pane, at: place(p.to) },
      ];
    },
    moved: (p, id, to, sheet) => ({
      ...p,
      [id]: p.space === 'sheet' ? [to[0] / sheet.width, to[1] / sheet.height, 0] : to,
    }),
  },
  fill: (p, field, out) => {
    const stops = p.stops.toSorted((a, b) => a.at - b.at);
    const [fx, fy, fz] = p.from;
    const d = p.to.map((v, k) => v - p.from[k]);
    if (p.space === 'sheet') d[2] = 0;
    const square = Math.max(1e-12, d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
    if (p.shape === 'linear') return alongLine(p, stops, field, out);
    for (let i = 0; i < out.length; i++) {
      let x = field.x[i] - fx;
      let y = field.y[i] - fy;
      const z = p.space === 'sheet' ? 0 : field.z[i] - fz;
      let t: number;
      if (p.space === 'sheet') {
        x = nearest(x, field.period[0]);
        y = nearest(y, field.period[1]);
      }
      if (p.shape === 'radial') t = beyond(Math.sqrt((x * x + y * y + z * z) / square), p.beyond);
      else {
        // Around the upright axis of the model, or around the point on the sheet, from the handle's direction on.
        const [a, b, a0, b0] = p.space === 'sheet' ? [x, y, d[0], d[1]] : [x, z, d[0], d[2]];
        const turn = (Math.atan2(b, a) - Math.atan2(b0, a0)) / (2 * Math.PI);
        t = beyond(p.beyond === 'mirror' ? 2 * (turn - Math.floor(turn)) : turn - Math.floor(turn), p.beyond);
      }
      out[i] = stopsAt(stops, p.smooth, t);
    }
  },
};

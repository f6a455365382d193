/**
 * Noise. All of it is made of three lattices (kernels: noiseFractal, noiseHash, noiseCells): in a flat field it comes
 * round where the field does, in a solid field it has no seams.
 *
 * Statistics of `clouds` at contrast 0 without warp: mean 0.5, standard deviation 0.18 (0.17–0.19 measured over
 * seeds and octaves); the amplitude falls as frequency^(log gain / log lacunarity), so at gain 0.5 and lacunarity 2
 * the power spectrum falls with about the third power in a plane cut.
 */
import { z } from 'zod';
import { unit } from '../fields';
import { kernels } from '../../kernels';
import { number, percent, type Control } from '../control';
import { MOST_OCTAVES, type FractalMode, type Octave } from '../../../kernels/kernels';
import { clamp01, step, type Field, type SourceDef } from './source';

export const seed = z.number().int();
const scale = z.number().min(0.01).max(4096);
const octaves = z.number().int().min(1).max(MOST_OCTAVES);
const fractalFields = {
  seed,
  /** Cells of the coarsest lattice in one repeat. */
  scale,
  octaves,
  /** How much finer each octave is than the one before. */
  lacunarity: z.number().min(1.2).max(4),
  /** How much weaker. */
  gain: z.number().min(0.1).max(0.95),
  /** −1: all grey. 0: as it comes. 1: nearly black and white. */
  contrast: z.number().min(-1).max(1),
  /** How far the noise is pushed about by another, in cells. */
  warp: z.number().min(0).max(4),
};

const SEED = number('seed', 'Seed', 0, 999);
const SCALE = number('scale', 'Scale', 0.01, 512, { fine: true, digits: 1 });
const CONTRAST = percent('contrast', 'Contrast', -1);
const WARP = number('warp', 'Warp', 0, 4, { digits: 2 });
const FRACTAL_CONTROLS: readonly Control[] = [
  SCALE,
  number('octaves', 'Octaves', 1, MOST_OCTAVES),
  number('lacunarity', 'Lacunarity', 1.2, 4, { digits: 2 }),
  percent('gain', 'Gain', 0.1, 0.95),
  CONTRAST,
  WARP,
  SEED,
];

/** One octave in a field: where the field comes round, the lattice has a whole number of cells in that. */
export function octaveIn(field: Field, fx: number, fy: number, seedNumber: number, amplitude = 1, fz = fx): Octave {
  const along = (frequency: number, period: number): [number, number] => {
    if (period === 0) return [frequency, 0];
    const cells = Math.max(1, Math.round(frequency * period));
    return [cells / period, cells];
  };
  const [ax, px] = along(fx, field.period[0]);
  const [ay, py] = along(fy, field.period[1]);
  return { fx: ax, fy: ay, fz: field.flat ? 1 : fz, px, py, pz: 0, amplitude, seed: Math.imul(seedNumber | 0, 0x2545f491) | 0 };
}

export interface Fractal {
  seed: number;
  octaves: number;
  lacunarity: number;
  gain: number;
}

/** Octaves from coarse to fine; the sum of the squares of their amplitudes is 1. */
function octavesIn(field: Field, fx: number, fy: number, p: Fractal, fz = fx): Octave[] {
  const energy = Math.sqrt(Array.from({ length: p.octaves }, (_, k) => p.gain ** (2 * k)).reduce((a, b) => a + b, 0));
  return Array.from({ length: p.octaves }, (_, k) => {
    const finer = p.lacunarity ** k;
    return octaveIn(field, fx * finer, fy * finer, p.seed + k * 7919, p.gain ** k / energy, fz * finer);
  });
}

/** Standard deviation of one octave of gradient noise, measured over a million points. */
const SIGMA = 0.27;
const SPREAD = 0.18 / SIGMA;

/** Flat fields need noise in a plane only. */
const depth = (field: Field): Float32Array | null => (field.flat ? null : field.z);

/** Noise around 0.5 with a standard deviation of 0.18, not clamped. */
export function fractal(
  field: Field,
  fx: number,
  fy: number,
  p: Fractal,
  out: Float32Array,
  mode: FractalMode = 'plain',
  fz = fx,
): void {
  kernels().noiseFractal(out, field.x, field.y, depth(field), octavesIn(field, fx, fy, p, fz), mode);
  if (mode === 'plain') kernels().affine(out, out, 0.5, SPREAD);
}

/** The field pushed about by up to `amount` cells of 1 / fx. `upright`: up and down too. */
export function warped(field: Field, fx: number, fy: number, amount: number, seedNumber: number, upright = true): Field {
  if (amount === 0) return field;
  const push = kernels().floats(field.n);
  const axis = (from: Float32Array, frequency: number, n: number): Float32Array => {
    const to = kernels().floats(field.n);
    kernels().noiseFractal(
      push,
      field.x,
      field.y,
      depth(field),
      octavesIn(field, fx * 0.7, fy * 0.7, { seed: seedNumber + n * 104729, octaves: 3, lacunarity: 2, gain: 0.5 }),
      'plain',
    );
    kernels().pushed(to, from, push, (amount * 2) / frequency);
    return to;
  };
  return {
    ...field,
    x: axis(field.x, fx, 1),
    y: upright ? axis(field.y, fy, 2) : field.y,
    z: field.flat ? field.z : axis(field.z, fx, 3),
  };
}

/** Spreads or narrows values around the middle, as the adjustment does (filters/tone.ts). */
export function contrasted(out: Float32Array, contrast: number): void {
  const slope = contrast <= 0 ? 1 + contrast : 1 / Math.max(1 / 16, 1 - contrast);
  kernels().affine(out, out, 0.5 - 0.5 * slope, slope, true);
}

const fractalStart = { seed: 1, scale: 4, octaves: 5, lacunarity: 2, gain: 0.5, contrast: 0, warp: 0 };

const cloudsSchema = z.object({ type: z.literal('clouds'), ...fractalFields });
export const clouds: SourceDef<z.infer<typeof cloudsSchema>> = {
  type: 'clouds',
  label: 'Clouds',
  hint: 'Soft patches of all sizes, one into the other.',
  group: 'noise',
  schema: cloudsSchema,
  start: { type: 'clouds', ...fractalStart },
  controls: FRACTAL_CONTROLS,
  where: () => 'placed',
  fill: (p, field, out) => {
    fractal(warped(field, p.scale, p.scale, p.warp, p.seed), p.scale, p.scale, p, out);
    contrasted(out, p.contrast);
  },
};

const ridgesSchema = z.object({ type: z.literal('ridges'), ...fractalFields });
export const ridges: SourceDef<z.infer<typeof ridgesSchema>> = {
  type: 'ridges',
  label: 'Ridges',
  hint: 'Sharp crests that branch, as in rock and dried paint.',
  group: 'noise',
  schema: ridgesSchema,
  start: { type: 'ridges', ...fractalStart, gain: 0.45 },
  controls: FRACTAL_CONTROLS,
  where: () => 'placed',
  fill: (p, field, out) => {
    const octaveList = octavesIn(field, p.scale, p.scale, p);
    const at = warped(field, p.scale, p.scale, p.warp, p.seed);
    kernels().noiseFractal(out, at.x, at.y, depth(at), octaveList, 'ridges');
    const sum = octaveList.reduce((s, o) => s + o.amplitude, 0);
    // A ridge is 0.63 on average and seldom under 0.2.
    kernels().affine(out, out, -0.25, 1.25 / sum);
    contrasted(out, p.contrast);
  },
};

const cellsSchema = z.object({
  type: z.literal('cells'),
  seed,
  scale,
  /** 0: a regular lattice, 1: quite irregular. */
  jitter: unit,
  show: z.enum(['distance', 'edges', 'ids']),
  contrast: fractalFields.contrast,
  warp: fractalFields.warp,
});
export const cells: SourceDef<z.infer<typeof cellsSchema>> = {
  type: 'cells',
  label: 'Cells',
  hint: 'A patch around each of many points: how far from it, how far from its edge, or one tone a patch.',
  group: 'noise',
  schema: cellsSchema,
  start: { type: 'cells', seed: 1, scale: 8, jitter: 1, show: 'distance', contrast: 0, warp: 0 },
  controls: [
    {
      kind: 'choice',
      key: 'show',
      label: 'Show',
      options: [
        { value: 'distance', label: 'Distance' },
        { value: 'edges', label: 'Edges' },
        { value: 'ids', label: 'Tones' },
      ],
    },
    SCALE,
    percent('jitter', 'Jitter'),
    CONTRAST,
    WARP,
    SEED,
  ],
  where: () => 'placed',
  fill: (p, field, out) => {
    const { near, edge, id } = cellular(field, p.scale, p.seed, p.jitter, p.warp, p.show === 'edges');
    const from = { distance: near, edges: edge!, ids: id }[p.show];
    // Points lie some 0.55 cells away on average, edges at most 0.6.
    const spread = { distance: 1 / 1.1, edges: 2, ids: 1 }[p.show];
    kernels().affine(out, from, 0, spread);
    contrasted(out, p.contrast);
  },
};

export function cellular(field: Field, frequency: number, seedNumber: number, jitter: number, warp: number, edges: boolean) {
  const at = warped(field, frequency, frequency, warp, seedNumber);
  const [near, id] = [0, 1].map(() => kernels().floats(field.n));
  const edge = edges ? kernels().floats(field.n) : null;
  const octave = octaveIn(field, frequency, frequency, seedNumber);
  kernels().noiseCells(near, edge, id, at.x, at.y, at.z, octave, jitter, field.flat);
  return { near, edge, id };
}

const grainSchema = z.object({ type: z.literal('grain'), seed, scale, contrast: fractalFields.contrast, soften: unit });
export const grain: SourceDef<z.infer<typeof grainSchema>> = {
  type: 'grain',
  label: 'Grain',
  hint: 'Fine speckle, each grain a tone of its own.',
  group: 'noise',
  schema: grainSchema,
  start: { type: 'grain', seed: 1, scale: 512, contrast: 0, soften: 0.3 },
  controls: [number('scale', 'Scale', 1, 4096, { fine: true }), percent('soften', 'Soften'), CONTRAST, SEED],
  where: () => 'placed',
  fill: (p, field, out) => {
    kernels().noiseHash(out, field.x, field.y, field.z, octaveIn(field, p.scale, p.scale, p.seed));
    if (p.soften > 0) {
      const soft = kernels().floats(field.n);
      fractal(field, p.scale, p.scale, { seed: p.seed + 5, octaves: 2, lacunarity: 2, gain: 0.6 }, soft);
      for (let i = 0; i < out.length; i++) out[i] += p.soften * (soft[i] - out[i]);
    }
    contrasted(out, p.contrast);
  },
};

const spotsSchema = z.object({
  type: z.literal('spots'),
  seed,
  scale,
  /** Share of the places that have a spot. */
  density: unit,
  /** Radius in cells. */
  size: z.number().min(0.02).max(0.7),
  /** How much smaller some are. */
  vary: unit,
  soften: unit,
  warp: fractalFields.warp,
});
export const spots: SourceDef<z.infer<typeof spotsSchema>> = {
  type: 'spots',
  label: 'Spots',
  hint: 'Scattered round spots of several sizes: pits, drops, lichen.',
  group: 'noise',
  schema: spotsSchema,
  start: { type: 'spots', seed: 1, scale: 16, density: 0.5, size: 0.35, vary: 0.6, soften: 0.3, warp: 0.1 },
  controls: [
    SCALE,
    percent('density', 'Density'),
    percent('size', 'Size', 0.02, 0.7),
    percent('vary', 'Vary'),
    percent('soften', 'Soften'),
    WARP,
    SEED,
  ],
  where: () => 'placed',
  fill: (p, field, out) => {
    const { near, id } = cellular(field, p.scale, p.seed, 0.9, p.warp, false);
    const soft = Math.max(p.soften, Math.min(1, (field.texel * p.scale) / p.size));
    for (let i = 0; i < out.length; i++) {
      // The cell's number decides both whether there is one and how large it is.
      const there = id[i] < p.density;
      const own = (id[i] * 977) % 1;
      const radius = p.size * (1 - p.vary * own);
      out[i] = there ? 1 - step(radius * (1 - soft), radius, near[i]) : 0;
    }
  },
};

const streaksSchema = z.object({
  type: z.literal('streaks'),
  seed,
  scale,
  /** How many times longer than wide. */
  length: z.number().min(1).max(200),
  contrast: fractalFields.contrast,
  warp: fractalFields.warp,
});
export const streaks: SourceDef<z.infer<typeof streaksSchema>> = {
  type: 'streaks',
  label: 'Streaks',
  hint: 'Long marks along one direction: upright as it comes, turned by the placement.',
  group: 'noise',
  schema: streaksSchema,
  start: { type: 'streaks', seed: 1, scale: 48, length: 16, contrast: 0.2, warp: 0.15 },
  controls: [SCALE, number('length', 'Length', 1, 200, { unit: '×', fine: true }), CONTRAST, WARP, SEED],
  where: () => 'placed',
  fill: (p, field, out) => {
    const long = p.scale / p.length;
    const at = warped(field, long, long, p.warp * 0.3, p.seed);
    fractal(at, p.scale, long, { seed: p.seed, octaves: 4, lacunarity: 2, gain: 0.55 }, out, 'plain', p.scale);
    contrasted(out, p.contrast);
  },
};

const fibresSchema = z.object({
  type: z.literal('fibres'),
  seed,
  scale,
  length: z.number().min(2).max(100),
  /** How thin: the share of a cell that a fibre takes. */
  width: z.number().min(0.02).max(1),
  warp: fractalFields.warp,
});
export const fibres: SourceDef<z.infer<typeof fibresSchema>> = {
  type: 'fibres',
  label: 'Fibres',
  hint: 'Fine hairs that cross and wander: felt, paper, frayed rope.',
  group: 'noise',
  schema: fibresSchema,
  start: { type: 'fibres', seed: 1, scale: 32, length: 10, width: 0.2, warp: 0.45 },
  controls: [SCALE, number('length', 'Length', 2, 100, { unit: '×', fine: true }), percent('width', 'Width', 0.02), WARP, SEED],
  where: () => 'placed',
  fill: (p, field, out) => {
    const one = kernels().floats(field.n);
    out.fill(0);
    const long = p.scale / p.length;
    for (let layer = 0; layer < 4; layer++) {
      const own = p.seed + layer * 331;
      const at = warped(field, long * 2, long * 2, p.warp * 0.5, own);
      const [fx, fy] = layer % 2 === 0 ? [p.scale, long] : [long, p.scale];
      const octave = octaveIn(field, fx, fy, own, 1, layer % 2 === 0 ? p.scale : long);
      kernels().noiseFractal(one, at.x, at.y, depth(at), [octave], 'billows');
      // Where the noise crosses zero runs a line; its slope makes it thin.
      for (let i = 0; i < out.length; i++) out[i] = Math.max(out[i], (1 - step(0, p.width * 0.35, one[i])) * (1 - 0.15 * layer));
    }
  },
};

const smudgesSchema = z.object({ type: z.literal('smudges'), seed, scale, amount: unit, soften: unit, warp: fractalFields.warp });
export const smudges: SourceDef<z.infer<typeof smudgesSchema>> = {
  type: 'smudges',
  label: 'Smudges',
  hint: 'Wiped patches with a worn rim: grime, old varnish, damp.',
  group: 'noise',
  schema: smudgesSchema,
  start: { type: 'smudges', seed: 1, scale: 5, amount: 0.5, soften: 0.5, warp: 0.7 },
  controls: [SCALE, percent('amount', 'Amount'), percent('soften', 'Soften'), WARP, SEED],
  where: () => 'placed',
  fill: (p, field, out) => {
    const wiped = kernels().floats(field.n);
    const at = warped(field, p.scale, p.scale, p.warp, p.seed);
    fractal(at, p.scale, p.scale, { seed: p.seed, octaves: 6, lacunarity: 2, gain: 0.55 }, out);
    fractal(
      at,
      p.scale * 9,
      p.scale * 2,
      { seed: p.seed + 17, octaves: 3, lacunarity: 2, gain: 0.5 },
      wiped,
      'plain',
      p.scale * 9,
    );
    // The median is 0.5: the threshold takes about `amount` of the area.
    const threshold = 0.5 + (0.5 - p.amount) * 0.9;
    const soft = 0.02 + 0.3 * p.soften;
    for (let i = 0; i < out.length; i++) {
      const body = step(threshold - soft, threshold + soft, out[i]);
      out[i] = clamp01(body * (0.55 + 0.9 * (wiped[i] - 0.3)));
    }
  },
};

const cracksSchema = z.object({
  type: z.literal('cracks'),
  seed,
  scale,
  /** In cells. */
  width: z.number().min(0.002).max(0.4),
  /** Share of the lines that is broken off. */
  broken: unit,
  warp: fractalFields.warp,
});
export const cracks: SourceDef<z.infer<typeof cracksSchema>> = {
  type: 'cracks',
  label: 'Cracks',
  hint: 'A net of thin lines, some of them broken off.',
  group: 'noise',
  schema: cracksSchema,
  start: { type: 'cracks', seed: 1, scale: 6, width: 0.02, broken: 0.4, warp: 0.5 },
  controls: [SCALE, percent('width', 'Width', 0.002, 0.4), percent('broken', 'Broken'), WARP, SEED],
  where: () => 'placed',
  fill: (p, field, out) => {
    const edge = cellular(field, p.scale, p.seed, 1, p.warp, true).edge!;
    fractal(field, p.scale * 0.8, p.scale * 0.8, { seed: p.seed + 3, octaves: 3, lacunarity: 2, gain: 0.5 }, out);
    const soft = Math.max(p.width * 0.5, field.texel * p.scale);
    for (let i = 0; i < out.length; i++) {
      // Lines thin out and end where the noise is low.
      const strength = step(p.broken * 0.75 - 0.12, p.broken * 0.75 + 0.12, out[i] + 0.12);
      const width = p.width * (0.4 + 0.6 * strength);
      out[i] = strength * (1 - step(width, width + soft, edge[i]));
    }
  },
};

const leaksSchema = z.object({
  type: z.literal('leaks'),
  seed,
  /** Leaks side by side in one repeat. */
  scale,
  /** How far they run, in repeats (in space: sizes of the placement). */
  length: z.number().min(0.005).max(4),
  density: unit,
  soften: unit,
  warp: fractalFields.warp,
});
export const leaks: SourceDef<z.infer<typeof leaksSchema>> = {
  type: 'leaks',
  label: 'Leaks',
  hint: 'What ran down and dried: from the edges of the model, on a canvas from scattered places.',
  group: 'noise',
  schema: leaksSchema,
  start: { type: 'leaks', seed: 1, scale: 24, length: 0.25, density: 0.5, soften: 0.4, warp: 0.15 },
  controls: [
    SCALE,
    percent('length', 'Length', 0.005, 4),
    percent('density', 'Density'),
    percent('soften', 'Soften'),
    WARP,
    SEED,
  ],
  where: () => 'placed',
  fill: (p, whole, out) => {
    const drops = whole.below?.() ?? flatDrops(whole, p);
    // Only what can be reached: mostly a strip along the edges.
    const near = new Int32Array(whole.n);
    let count = 0;
    for (let i = 0; i < whole.n; i++) if (drops[i] <= p.length * LONGEST) near[count++] = i;
    out.fill(0);
    if (count === 0) return;
    const few = (from: Float32Array) => {
      const to = kernels().floats((count + 3) & ~3);
      for (let i = 0; i < to.length; i++) to[i] = from[near[i < count ? i : count - 1]];
      return to;
    };
    const n = (count + 3) & ~3;
    const field: Field = { ...whole, n, x: few(whole.x), y: few(whole.y), z: few(whole.z), below: null };
    // What differs from leak to leak hangs on the place across, not on the height.
    const at = warped(field, p.scale, p.scale * 0.15, p.warp, p.seed, false);
    const level: Field = { ...at, y: kernels().floats(n).fill(0.5) };
    const lanes = kernels().floats(n);
    const reach = kernels().floats(n);
    fractal(level, p.scale, 1, { seed: p.seed, octaves: 3, lacunarity: 2, gain: 0.6 }, lanes, 'plain', p.scale);
    fractal(level, p.scale * 0.7, 1, { seed: p.seed + 29, octaves: 2, lacunarity: 2, gain: 0.5 }, reach, 'plain', p.scale * 0.7);
    const threshold = 0.5 + (0.5 - p.density) * 0.7;
    const soft = 0.01 + 0.12 * p.soften;
    for (let i = 0; i < count; i++) {
      const length = p.length * Math.max(0.1, 0.2 + 1.6 * reach[i]);
      const t = drops[near[i]] / length;
      if (t < 0 || t > 1) continue;
      // Strong where it begins, thinner further down, a little heavier at its end.
      const run = (1 - 0.75 * t) * step(1, 0.9, t) + 0.25 * step(0.8, 0.93, t) * step(1, 0.95, t);
      out[near[i]] = clamp01(step(threshold - soft, threshold + soft, lanes[i]) * run);
    }
  },
};

/** Of a leak's own length at most: two octaves of noise within ±1 add up to 1.35 at most, times `SPREAD`, make 0.2 + 1.6 · 1.4. */
const LONGEST = 2.5;

/** On a canvas leaks begin at scattered heights, a place for each lane; y runs down. */
function flatDrops(field: Field, p: { scale: number; seed: number }): Float32Array {
  const out = kernels().floats(field.n);
  const start = kernels().floats(field.n);
  const flat: Field = { ...field, y: kernels().floats(field.n).fill(0.25) };
  kernels().noiseHash(start, field.x, flat.y, field.z, octaveIn(field, p.scale, 1, p.seed + 71));
  for (let i = 0; i < out.length; i++) {
    const turn = field.period[1] || 1;
    const d = field.y[i] - start[i] * turn;
    out[i] = d - Math.floor(d / turn) * turn;
  }
  return out;
}

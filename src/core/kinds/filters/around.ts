/** Filters that look around a texel: median, sharpen, blur along a direction, warp, shift. */
import { NORMAL_FROM } from '../shown';
import { z } from 'zod';
import { kernels } from '../../kernels';
import { isMapId, type MapId } from '../maps';
import { fractal } from '../sources/noise';
import type { Field } from '../sources/source';
import { degrees, number, percent, texels } from '../control';
import { backAgain, unweigh, weighed } from './blur';
import { gaussianSide } from './gaussian';
import type { FilterDef, MapKind, Pass, Where } from './filter';

const planesOf = (kind: MapKind) => (kind === 'value' ? 2 : 4);

/** The middle of a window into `out`, plane by plane. */
function centre(
  window: Float32Array,
  width: number,
  height: number,
  rx: number,
  ry: number,
  planes: number,
  out: Float32Array,
): void {
  const across = width + 2 * rx;
  const size = across * (height + 2 * ry);
  for (let p = 0; p < planes; p++)
    for (let y = 0; y < height; y++) {
      const from = p * size + (y + ry) * across + rx;
      out.set(window.subarray(from, from + width), p * width * height + y * width);
    }
}

const medianSchema = z.object({ type: z.literal('median'), radius: z.number().int().min(1).max(12) });
export const median: FilterDef<z.infer<typeof medianSchema>> = {
  type: 'median',
  label: 'Median',
  hint: 'Takes specks out and keeps edges: each value becomes the middle one of those around it.',
  schema: medianSchema,
  start: { type: 'median', radius: 2 },
  controls: [number('radius', 'Radius', 1, 12, { unit: 'tx', length: { least: 0 } })],
  fits: (kind) => kind !== 'normal',
  passes: ({ radius: r }) => [
    {
      rx: r,
      ry: r,
      run: (window, width, height, kind, out, opaque) => {
        centre(window, width, height, r, r, opaque ? planesOf(kind) - 1 : planesOf(kind), out);
        if (opaque) out.fill(1, (planesOf(kind) - 1) * width * height);
        const size = (width + 2 * r) * (height + 2 * r);
        const n = width * height;
        for (let p = 0; p < planesOf(kind) - 1; p++)
          medianPlane(window.subarray(p * size, (p + 1) * size), width, height, r, out.subarray(p * n, (p + 1) * n));
      },
    },
  ],
};

/**
 * T. Huang, G. Yang and G. Tang, "A fast two-dimensional median filtering algorithm", 1979: a histogram that slides
 * along the row. Values are counted as 16-bit codes, coarse and fine, so the result is within half a code.
 */
function medianPlane(window: Float32Array, width: number, height: number, r: number, out: Float32Array): void {
  const across = width + 2 * r;
  const codes = new Uint16Array(window.length);
  for (let i = 0; i < codes.length; i++) codes[i] = Math.min(1, Math.max(0, window[i])) * 65535 + 0.5;
  const fine = new Uint16Array(65536);
  const coarse = new Uint16Array(256);
  const half = ((2 * r + 1) ** 2 + 1) >> 1;
  const column = (y: number, x: number, by: 1 | -1) => {
    for (let j = 0; j <= 2 * r; j++) {
      const c = codes[(y + j) * across + x];
      fine[c] += by;
      coarse[c >> 8] += by;
    }
  };
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < 2 * r; x++) column(y, x, 1);
    for (let x = 0; x < width; x++) {
      column(y, x + 2 * r, 1);
      let left = half;
      let c = 0;
      while (coarse[c] < left) left -= coarse[c++];
      let f = c << 8;
      while (fine[f] < left) left -= fine[f++];
      out[y * width + x] = f / 65535;
      column(y, x, -1);
    }
    for (let x = width; x < width + 2 * r; x++) column(y, x, -1);
  }
}

const sharpenSchema = z.object({
  type: z.literal('sharpen'),
  /** Standard deviation of what counts as soft, in texels. */
  sigma: z.number().min(0.3).max(32),
  amount: z.number().min(0).max(4),
});
export const sharpen: FilterDef<z.infer<typeof sharpenSchema>> = {
  type: 'sharpen',
  label: 'Sharpen',
  hint: 'Adds what a blur would take away, in linear light.',
  schema: sharpenSchema,
  start: { type: 'sharpen', sigma: 1.2, amount: 0.8 },
  controls: [texels('sigma', 'Width σ', 0.3, 32), percent('amount', 'Amount', 0, 4)],
  fits: (kind) => kind !== 'normal',
  passes: ({ sigma, amount }) => {
    if (amount === 0) return [];
    const side = gaussianSide(sigma);
    const r = side.length - 1;
    return [
      weighed,
      {
        rx: r,
        ry: r,
        run: (window, width, height, kind, out, opaque) => {
          const n = width * height;
          const across = width + 2 * r;
          const size = across * (height + 2 * r);
          const planes = planesOf(kind);
          centre(window, width, height, r, r, opaque ? planes - 1 : planes, out);
          if (opaque) out.fill(1, (planes - 1) * n);
          const mark = kernels().mark();
          try {
            const rows = kernels().floats(width * (height + 2 * r));
            const soft = kernels().floats(n);
            for (let p = 0; p < planes - 1; p++) {
              kernels().blur(window.subarray(p * size, (p + 1) * size), width, height + 2 * r, side, 'x', rows);
              kernels().blur(rows, width, height, side, 'y', soft);
              for (let i = 0, o = p * n; i < n; i++, o++) {
                const v = out[o] + amount * (out[o] - soft[i]);
                out[o] = v < 0 ? 0 : v;
              }
            }
            if (opaque && kind === 'value') for (let i = 0; i < n; i++) out[i] = Math.min(1, out[i]);
            unweigh(out, n, kind, opaque);
          } finally {
            kernels().release(mark);
          }
        },
        even: backAgain,
      },
    ];
  },
};

const smearSchema = z.object({
  type: z.literal('smear'),
  /** Texels, end to end. */
  length: z.number().min(1).max(256),
  /** Degrees, anticlockwise from the right. */
  angle: z.number().min(-180).max(180),
});
export const smear: FilterDef<z.infer<typeof smearSchema>> = {
  type: 'smear',
  label: 'Blur along a direction',
  hint: 'Averages along a line, in linear light: brushed metal, wind, rain.',
  schema: smearSchema,
  start: { type: 'smear', length: 24, angle: 0 },
  controls: [texels('length', 'Length', 1, 256, { length: { least: 1 } }), degrees('angle', 'Angle')],
  fits: () => true,
  passes: ({ length, angle }) => {
    const taps = lineTaps(length, angle);
    const rx = Math.max(...taps.map((t) => Math.abs(t.x)));
    const ry = Math.max(...taps.map((t) => Math.abs(t.y)));
    return [
      weighed,
      {
        rx,
        ry,
        run: (window, width, height, kind, out, opaque) => {
          const across = width + 2 * rx;
          const size = across * (height + 2 * ry);
          const n = width * height;
          const planes = opaque ? planesOf(kind) - 1 : planesOf(kind);
          out.fill(0, 0, planes * n);
          for (let p = 0; p < planes; p++)
            for (const { x, y, weight } of taps)
              for (let row = 0; row < height; row++) {
                const from = p * size + (row + ry + y) * across + rx + x;
                const to = p * n + row * width;
                for (let i = 0; i < width; i++) out[to + i] += weight * window[from + i];
              }
          if (opaque) out.fill(1, planes * n);
          unweigh(out, n, kind, opaque);
        },
        even: backAgain,
      },
    ];
  },
};

/** Whole texels along a line with weights that sum to 1: points half a texel apart, shared among the four around each. */
export function lineTaps(length: number, angle: number): { x: number; y: number; weight: number }[] {
  const turn = (angle * Math.PI) / 180;
  const count = Math.max(1, Math.round(length * 2));
  const sums = new Map<string, { x: number; y: number; weight: number }>();
  for (let n = 0; n < count; n++) {
    const t = count === 1 ? 0 : (n / (count - 1) - 0.5) * (length - 1);
    const px = Math.cos(turn) * t;
    const py = -Math.sin(turn) * t;
    const [ix, iy] = [Math.floor(px + 1e-9), Math.floor(py + 1e-9)];
    const [fx, fy] = [Math.max(0, px - ix), Math.max(0, py - iy)];
    for (const [dx, dy, w] of [
      [0, 0, (1 - fx) * (1 - fy)],
      [1, 0, fx * (1 - fy)],
      [0, 1, (1 - fx) * fy],
      [1, 1, fx * fy],
    ]) {
      if (w < 1e-6) continue;
      const key = `${ix + dx} ${iy + dy}`;
      const tap = sums.get(key) ?? { x: ix + dx, y: iy + dy, weight: 0 };
      tap.weight += w / count;
      sums.set(key, tap);
    }
  }
  const taps = [...sums.values()];
  const total = taps.reduce((s, t) => s + t.weight, 0);
  return taps.map((t) => ({ ...t, weight: t.weight / total }));
}

/** Takes each texel from elsewhere in the window: between texels, weighted by alpha. */
function displaced(
  window: Float32Array,
  width: number,
  height: number,
  reach: number,
  kind: MapKind,
  out: Float32Array,
  opaque: boolean,
  dx: Float32Array,
  dy: Float32Array,
): void {
  const across = width + 2 * reach;
  const size = across * (height + 2 * reach);
  const n = width * height;
  const values = planesOf(kind) - 1;
  const alpha = values * size;
  const near = [0, 1, across, across + 1];
  const most = reach - 1;
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const px = x + reach + Math.max(-most, Math.min(most, dx[i]));
      const py = y + reach + Math.max(-most, Math.min(most, dy[i]));
      const [ix, iy] = [Math.floor(px), Math.floor(py)];
      const [fx, fy] = [px - ix, py - iy];
      const at = iy * across + ix;
      const shares = [(1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy];
      let sum = 0;
      if (!opaque) for (let k = 0; k < 4; k++) sum += shares[k] *= window[alpha + at + near[k]];
      for (let p = 0; p < values; p++) {
        let v = 0;
        for (let k = 0; k < 4; k++) v += shares[k] * window[p * size + at + near[k]];
        out[p * n + i] = opaque ? v : sum > 0 ? v / sum : 0;
      }
      out[values * n + i] = opaque ? 1 : sum;
    }
}

/** Coordinates of the texels that come out, over the sheet: periodic where it wraps. */
function fieldOf({ x, y, sheet }: Where, width: number, height: number): Field {
  const n = width * height;
  const [fx, fy, fz] = [0, 1, 2].map(() => kernels().floats(n));
  for (let r = 0, i = 0; r < height; r++)
    for (let c = 0; c < width; c++, i++) {
      fx[i] = (x + c + 0.5) / sheet.width;
      fy[i] = (y + r + 0.5) / sheet.height;
    }
  fz.fill(0.37);
  const period: [number, number] = [sheet.wrapU ? 1 : 0, sheet.wrapV ? 1 : 0];
  return { n, x: fx, y: fy, z: fz, flat: true, period, texel: 1 / sheet.width, below: null };
}

const warpSchema = z.object({
  type: z.literal('warp'),
  seed: z.number().int(),
  /** Texels: how far at most, and how large the waves are. */
  amount: z.number().min(0).max(96),
  scale: z.number().min(2).max(2048),
  octaves: z.number().int().min(1).max(8),
});
export const warp: FilterDef<z.infer<typeof warpSchema>> = {
  type: 'warp',
  label: 'Warp by noise',
  hint: 'Pushes everything about by noise: frayed, wavering edges.',
  schema: warpSchema,
  start: { type: 'warp', seed: 1, amount: 12, scale: 48, octaves: 4 },
  controls: [
    texels('amount', 'Amount', 0, 96),
    texels('scale', 'Scale', 2, 2048, { digits: 1 }),
    number('octaves', 'Octaves', 1, 8),
    number('seed', 'Seed', 0, 999),
  ],
  fits: (kind) => kind !== 'normal',
  passes: (p) => {
    if (p.amount === 0) return [];
    const reach = Math.ceil(p.amount) + 2;
    return [
      {
        rx: reach,
        ry: reach,
        run: (window, width, height, kind, out, opaque, where) => {
          const mark = kernels().mark();
          try {
            const field = fieldOf(where, width, height);
            const push = [1, 2].map((n) => {
              const v = kernels().floats(field.n);
              const settings = { seed: p.seed * 31 + n * 7, octaves: p.octaves, lacunarity: 2, gain: 0.5 };
              fractal(field, where.sheet.width / p.scale, where.sheet.height / p.scale, settings, v);
              // Two standard deviations reach the whole amount.
              for (let i = 0; i < v.length; i++) v[i] = Math.max(-1, Math.min(1, (v[i] - 0.5) / 0.36)) * p.amount;
              return v;
            });
            displaced(window, width, height, reach, kind, out, opaque, push[0], push[1]);
          } finally {
            kernels().release(mark);
          }
        },
      },
    ];
  },
};

const slopeSchema = z.object({
  type: z.literal('slope'),
  map: z.custom<MapId>((v) => typeof v === 'string' && isMapId(v), 'an unknown map'),
  /** Texels at the steepest; below 0 the other way. */
  amount: z.number().min(-96).max(96),
  /** How gentle a slope already counts as steep. */
  gain: z.number().min(1).max(64),
});
export const slopeWarp: FilterDef<z.infer<typeof slopeSchema>> = {
  type: 'slope',
  label: 'Warp along a slope',
  hint: 'Pushes everything down (or up) the slope of another map that lies below: worn, eroded edges.',
  schema: slopeSchema,
  start: { type: 'slope', map: NORMAL_FROM.relief, amount: 8, gain: 16 },
  controls: [
    { kind: 'map', key: 'map', label: 'Slope of', kinds: ['colour', 'value'] },
    texels('amount', 'Amount', -96, 96),
    number('gain', 'Steepness', 1, 64, { unit: '×', free: true }),
  ],
  fits: (kind) => kind !== 'normal',
  aux: (p) => p.map,
  passes: (p) => {
    if (p.amount === 0) return [];
    const reach = Math.ceil(Math.abs(p.amount)) + 2;
    return [
      {
        rx: reach,
        ry: reach,
        aux: true,
        run: (window, width, height, kind, out, opaque, { aux }) => {
          const n = width * height;
          const across = width + 2 * reach;
          const dx = new Float32Array(n);
          const dy = new Float32Array(n);
          if (aux)
            for (let y = 0, i = 0; y < height; y++)
              for (let x = 0; x < width; x++, i++) {
                const o = (y + reach) * across + x + reach;
                const gx = (aux[o + 1] - aux[o - 1]) * p.gain;
                const gy = (aux[o + across] - aux[o - across]) * p.gain;
                const l = Math.sqrt(gx * gx + gy * gy);
                // Saturates: however steep, never farther than the amount.
                const k = l > 0 ? (p.amount * Math.tanh(l)) / l : 0;
                dx[i] = gx * k;
                dy[i] = gy * k;
              }
          displaced(window, width, height, reach, kind, out, opaque, dx, dy);
        },
      },
    ];
  },
};

const shiftSchema = z.object({
  type: z.literal('shift'),
  /** Shares of the sheet's width and height. */
  x: z.number().min(-1).max(1),
  y: z.number().min(-1).max(1),
});
export const shift: FilterDef<z.infer<typeof shiftSchema>> = {
  type: 'shift',
  label: 'Shift, wrapped',
  hint: 'Moves everything along; what leaves on one side comes in on the other.',
  schema: shiftSchema,
  start: { type: 'shift', x: 0.5, y: 0.5 },
  controls: [percent('x', 'Across', -1), percent('y', 'Down', -1)],
  fits: () => true,
  passes: (p, extent) => {
    const dx = -Math.round(p.x * extent.width);
    const dy = -Math.round(p.y * extent.height);
    if (dx === 0 && dy === 0) return [];
    const pass: Pass = {
      rx: 0,
      ry: 0,
      dx,
      dy,
      round: true,
      run: (window, width, height, kind, out, opaque) => {
        const planes = planesOf(kind) - (opaque ? 1 : 0);
        out.set(window.subarray(0, planes * width * height));
        if (opaque) out.fill(1, planes * width * height);
      },
    };
    return [pass];
  },
};

/**
 * Making pictures smaller or larger, separable, the kernel stretched when shrinking so that every source texel counts. Two kernels:
 * `lanczos` (three lobes: C. Duchon, "Lanczos filtering in one and two dimensions", 1979), the sharper one; `mitchell` (B = C = 1/3:
 * D. Mitchell and A. Netravali, "Reconstruction filters in computer graphics", 1988), the calmer one. Either is held to what lies
 * within its main lobe, so that neither rings: nothing comes out darker or brighter than its neighbourhood. The caller puts colour
 * into linear light first. Works on float32 planes.
 */
import { around, within } from './border';

interface Kernel {
  /** Source texels to either side that are looked at when nothing is shrunk. */
  radius: number;
  at: (x: number) => number;
}

const KERNELS = {
  lanczos: {
    radius: 3,
    at: (x) => {
      if (x === 0) return 1;
      const p = Math.PI * x;
      return (3 * Math.sin(p) * Math.sin(p / 3)) / (p * p);
    },
  },
  mitchell: {
    radius: 2,
    at: (x) => {
      const t = Math.abs(x);
      if (t < 1) return (7 * t * t * t - 12 * t * t + 16 / 3) / 6;
      return ((-7 / 3) * t * t * t + 12 * t * t - 20 * t + 32 / 3) / 6;
    },
  },
} as const satisfies Record<string, Kernel>;

export type ResampleFilter = keyof typeof KERNELS;

interface Taps {
  start: Int32Array;
  count: number;
  /** target × count weights, each target's sum is 1. */
  weights: Float32Array;
  /** 1 for the taps of the main lobe, which a result is held to. */
  near: Uint8Array;
}

function tapsFor(from: number, to: number, { radius, at }: Kernel): Taps {
  const stretch = Math.max(1, from / to);
  const reach = radius * stretch;
  const count = Math.ceil(reach * 2) + 1;
  const start = new Int32Array(to);
  const weights = new Float32Array(to * count);
  const near = new Uint8Array(to * count);
  for (let t = 0; t < to; t++) {
    const centre = ((t + 0.5) * from) / to - 0.5;
    const first = Math.ceil(centre - reach);
    start[t] = first;
    let sum = 0;
    for (let k = 0; k < count; k++) {
      const x = (first + k - centre) / stretch;
      if (Math.abs(x) >= radius) continue;
      sum += weights[t * count + k] = at(x);
      near[t * count + k] = Math.abs(x) < 1 ? 1 : 0;
    }
    for (let k = 0; k < count; k++) weights[t * count + k] /= sum;
  }
  return { start, count, weights, near };
}

export interface ResampleOptions {
  wrapX?: boolean;
  wrapY?: boolean;
  filter?: ResampleFilter;
  /**
   * The last channel says how much each texel counts (alpha, coverage): the others, straight, are weighted by it and divided by what
   * comes of it, so that what lies under nothing is never mixed in. It is filtered itself as the others are.
   */
  weighted?: boolean;
}

/**
 * Resamples `source` (width × height × channels, interleaved float32) to toWidth × toHeight.
 * Beyond the border the picture repeats where it wraps, else its edge texel goes on.
 */
export function resample(
  source: Float32Array,
  width: number,
  height: number,
  channels: number,
  toWidth: number,
  toHeight: number,
  { wrapX = false, wrapY = false, filter = 'lanczos', weighted = false }: ResampleOptions = {},
): Float32Array {
  if (width === toWidth && height === toHeight) return source.slice();
  const across = pass(source, channels, weighted, {
    lines: height,
    taps: tapsFor(width, toWidth, KERNELS[filter]),
    from: width,
    to: toWidth,
    wrap: wrapX,
    readAt: (line, i) => (line * width + i) * channels,
    writeAt: (line, i) => (line * toWidth + i) * channels,
  });
  return pass(across, channels, weighted, {
    lines: toWidth,
    taps: tapsFor(height, toHeight, KERNELS[filter]),
    from: height,
    to: toHeight,
    wrap: wrapY,
    readAt: (line, i) => (i * toWidth + line) * channels,
    writeAt: (line, i) => (i * toWidth + line) * channels,
  });
}

interface Lines {
  lines: number;
  taps: Taps;
  from: number;
  to: number;
  wrap: boolean;
  readAt: (line: number, i: number) => number;
  writeAt: (line: number, i: number) => number;
}

function pass(source: Float32Array, channels: number, weighted: boolean, along: Lines): Float32Array {
  const { lines, from, to, wrap, readAt, writeAt } = along;
  const { start, count, weights, near } = along.taps;
  const out = new Float32Array(lines * to * channels);
  const last = channels - 1;
  const sum = new Float64Array(channels);
  const low = new Float64Array(channels);
  const high = new Float64Array(channels);
  for (let line = 0; line < lines; line++) {
    for (let t = 0; t < to; t++) {
      sum.fill(0);
      low.fill(Infinity);
      high.fill(-Infinity);
      for (let k = 0; k < count; k++) {
        const w = weights[t * count + k];
        if (w === 0) continue;
        const i = start[t] + k;
        const r = readAt(line, wrap ? around(i, from) : within(i, from));
        const held = near[t * count + k] === 1;
        const share = weighted ? source[r + last] : 1;
        for (let c = 0; c < channels; c++) {
          const v = source[r + c];
          sum[c] += v * (weighted && c < last ? w * share : w);
          if (!held || (share <= 0 && c < last)) continue;
          if (v < low[c]) low[c] = v;
          if (v > high[c]) high[c] = v;
        }
      }
      const o = writeAt(line, t);
      for (let c = last; c >= 0; c--) {
        // Before it is held: the sums of both have the same error where the kernel dips below zero.
        const v = weighted && c < last ? sum[c] / sum[last] : sum[c];
        out[o + c] = high[c] < low[c] || Number.isNaN(v) ? 0 : Math.min(high[c], Math.max(low[c], v));
      }
    }
  }
  return out;
}

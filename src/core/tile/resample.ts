/**
 * Making pictures smaller or larger with a Lanczos-3 kernel (C. Duchon, "Lanczos filtering in one and two
 * dimensions", 1979), separable, stretched when shrinking so that every source texel counts. The caller puts
 * colour into linear light first. Works on float32 planes.
 */
import { around, within } from './border';

const LOBES = 3;

function lanczos(x: number): number {
  if (x === 0) return 1;
  if (x <= -LOBES || x >= LOBES) return 0;
  const p = Math.PI * x;
  return (LOBES * Math.sin(p) * Math.sin(p / LOBES)) / (p * p);
}

interface Taps {
  start: Int32Array;
  count: number;
  /** target × count weights, each target's sum is 1. */
  weights: Float32Array;
}

function tapsFor(from: number, to: number): Taps {
  const stretch = Math.max(1, from / to);
  const radius = LOBES * stretch;
  const count = Math.ceil(radius * 2) + 1;
  const start = new Int32Array(to);
  const weights = new Float32Array(to * count);
  for (let t = 0; t < to; t++) {
    const centre = ((t + 0.5) * from) / to - 0.5;
    const first = Math.ceil(centre - radius);
    start[t] = first;
    let sum = 0;
    for (let k = 0; k < count; k++) sum += weights[t * count + k] = lanczos((first + k - centre) / stretch);
    for (let k = 0; k < count; k++) weights[t * count + k] /= sum;
  }
  return { start, count, weights };
}

export interface ResampleOptions {
  wrapX?: boolean;
  wrapY?: boolean;
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
  { wrapX = false, wrapY = false }: ResampleOptions = {},
): Float32Array {
  if (width === toWidth && height === toHeight) return source.slice();
  const across = pass(
    source,
    height,
    width,
    toWidth,
    channels,
    wrapX,
    (line, i) => (line * width + i) * channels,
    (line, i) => (line * toWidth + i) * channels,
  );
  return pass(
    across,
    toWidth,
    height,
    toHeight,
    channels,
    wrapY,
    (line, i) => (i * toWidth + line) * channels,
    (line, i) => (i * toWidth + line) * channels,
  );
}

function pass(
  source: Float32Array,
  lines: number,
  from: number,
  to: number,
  channels: number,
  wrap: boolean,
  readAt: (line: number, i: number) => number,
  writeAt: (line: number, i: number) => number,
): Float32Array {
  const out = new Float32Array(lines * to * channels);
  const { start, count, weights } = tapsFor(from, to);
  for (let line = 0; line < lines; line++) {
    for (let t = 0; t < to; t++) {
      const o = writeAt(line, t);
      for (let k = 0; k < count; k++) {
        const w = weights[t * count + k];
        if (w === 0) continue;
        let i = start[t] + k;
        i = wrap ? around(i, from) : within(i, from);
        const r = readAt(line, i);
        for (let c = 0; c < channels; c++) out[o + c] += source[r + c] * w;
      }
    }
  }
  return out;
}

/**
 * Growing and shrinking: grey dilation and erosion with a disc (J. Serra, "Image analysis and mathematical morphology", 1982). A texel
 * takes the highest, or lowest, value within so many texels, so a soft edge is moved as it is. The disc goes row by row, each row's
 * share by the running maximum of M. van Herk ("A fast algorithm for local minimum and maximum filters on rectangular and octagonal
 * kernels", Pattern Recognition Letters 13 (7), 1992): O(radius) a texel.
 */
import { z } from 'zod';
import { texels } from '../control';
import { softening } from './blur';
import type { FilterDef, Pass } from './filter';

const schema = z.object({
  type: z.literal('grow'),
  /** Texels; below 0 it shrinks. */
  by: z.number().min(-128).max(128),
  soften: z.number().min(0).max(128),
});

/** Running maximum over 2·half + 1 values: `to[i]` is that around `from[i + middle]`. `ahead` and `behind` are scratch. */
function runningMax(
  from: Float32Array,
  start: number,
  middle: number,
  half: number,
  to: Float32Array,
  ahead: Float32Array,
  behind: Float32Array,
): void {
  const span = 2 * half + 1;
  const first = start + middle - half;
  const length = to.length + 2 * half;
  for (let i = 0; i < length; i++) {
    const v = from[first + i];
    behind[i] = i % span === 0 || v > behind[i - 1] ? v : behind[i - 1];
  }
  for (let i = length - 1; i >= 0; i--) {
    const v = from[first + i];
    ahead[i] = i === length - 1 || (i + 1) % span === 0 || v > ahead[i + 1] ? v : ahead[i + 1];
  }
  for (let i = 0; i < to.length; i++) {
    const [a, b] = [ahead[i], behind[i + span - 1]];
    to[i] = a > b ? a : b;
  }
}

/** Highest values within `radius` of each texel of width × height; the window reaches `r` texels around it. */
function dilated(window: Float32Array, width: number, height: number, r: number, radius: number, out: Float32Array): void {
  const across = width + 2 * r;
  const row = new Float32Array(width);
  const [ahead, behind] = [new Float32Array(across), new Float32Array(across)];
  out.fill(-Infinity);
  for (let dy = -radius; dy <= radius; dy++) {
    const half = Math.floor(Math.sqrt(radius * radius - dy * dy));
    for (let y = 0; y < height; y++) {
      runningMax(window, (y + r + dy) * across, r, half, row, ahead, behind);
      for (let x = 0, o = y * width; x < width; x++, o++) if (row[x] > out[o]) out[o] = row[x];
    }
  }
}

/** Between whole radii it is as far between what those give. */
function grown(by: number): Pass {
  const radius = Math.abs(by);
  const r = Math.ceil(radius);
  const part = radius - Math.floor(radius);
  const sign = by < 0 ? -1 : 1;
  return {
    rx: r,
    ry: r,
    run: (window, width, height, _kind, out, opaque) => {
      const count = (width + 2 * r) * (height + 2 * r);
      const values = new Float32Array(count);
      // What is not covered is outside.
      for (let i = 0; i < count; i++) values[i] = sign * (opaque ? window[i] : window[i] * window[count + i]);
      const texels = width * height;
      const found = new Float32Array(texels);
      dilated(values, width, height, r, Math.floor(radius), found);
      if (part > 0) {
        const next = new Float32Array(texels);
        dilated(values, width, height, r, r, next);
        for (let i = 0; i < texels; i++) found[i] += (next[i] - found[i]) * part;
      }
      for (let i = 0; i < texels; i++) out[i] = sign * found[i];
      out.fill(1, texels, 2 * texels);
    },
    even: ([v, a]) => [v * a, 1],
  };
}

/** The Gaussian that makes of a hard edge a ramp as wide as a smooth step over `soften` texels: the same variance, (soften / 2)² / 5. */
const sigmaOf = (soften: number): number => soften / (2 * Math.sqrt(5));

export const grow: FilterDef<z.infer<typeof schema>> = {
  type: 'grow',
  label: 'Grow, shrink, soften',
  hint: 'Moves edges out or in by exact distance, soft ones as soft as they are, and makes them softer.',
  schema,
  start: { type: 'grow', by: 4, soften: 2 },
  controls: [texels('by', 'Grow', -128, 128), texels('soften', 'Soften', 0, 128)],
  fits: (kind) => kind === 'value',
  passes: (p) => [...(p.by === 0 ? [] : [grown(p.by)]), ...softening(sigmaOf(p.soften))],
};

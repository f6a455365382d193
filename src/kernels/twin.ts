/** The kernels in plain TypeScript: what they mean. Formulas as in assembly/, in double precision. */
import type { Kernels, Rows } from './kernels';
import { bendsTwin } from './bendsTwin';
import { segmentsTwin } from './segmentsTwin';
import { dabsTwin } from './dabsTwin';
import { floodTwin } from './floodTwin';
import { rulesTwin } from './rulesTwin';
import { noiseTwin } from './noiseTwin';
import { turnInOklab } from './oklabTwin';
import { seenTwin } from './seenTwin';
import { stepsTwin } from './stepsTwin';
import { sumsTwin } from './sumsTwin';
import { raysTwin } from './raysTwin';
import { tapsTwin } from './tapsTwin';

/** Blend functions by mode number; given by the caller, so that the formulas stand in one place. */
export type BlendTable = readonly ((backdrop: number, source: number) => number)[];

/** What is no number counts as 0. */
const clamp01 = (v: number) => (v > 0 ? (v > 1 ? 1 : v) : 0);
const f = Math.fround;
/** 0..1 as a whole number up to `most`, rounded in float32 as the kernels do. */
const code = (v: number, most: number): number => f(f(clamp01(v) * most) + 0.5);

/** A few numbers are quicker copied one by one than asked for as a part. */
const FEW = 32;

export function copyRowsPlainly(from: Rows, to: Rows, columns: number, rows: number): void {
  if (columns === from.stride && columns === to.stride)
    return to.data.set(from.data.subarray(from.at, from.at + columns * rows), to.at);
  for (let y = 0, a = from.at, b = to.at; y < rows; y++, a += from.stride, b += to.stride)
    if (columns > FEW) to.data.set(from.data.subarray(a, a + columns), b);
    else for (let x = 0; x < columns; x++) to.data[b + x] = from.data[a + x];
}

/** Normal, darken, lighten and offset, as numbered: heights join by these and go beyond 0 … 1 (assembly/blend.ts, `isFree`). */
const FREE_MODES: ReadonlySet<number> = new Set([0, 4, 5, 16]);

export function twinKernels(blends: BlendTable): Kernels {
  /** One texel of planes `n` apart. `s`: source value of a channel. */
  const texel = (
    acc: Float32Array,
    i: number,
    n: number,
    channels: number,
    as: number,
    s: (c: number) => number,
    mode: number,
    opaque: boolean,
  ) => {
    const blend = blends[mode];
    if (opaque) {
      for (let c = 0; c < channels; c++) {
        const b = acc[c * n + i];
        acc[c * n + i] = b + as * (blend(b, s(c)) - b);
      }
      return;
    }
    const a = channels * n + i;
    const ab = acc[a];
    const ao = as + ab - as * ab;
    acc[a] = ao;
    for (let c = 0; c < channels; c++) {
      const b = acc[c * n + i];
      const sc = s(c);
      const sum = sc * as * (1 - ab) + b * ab * (1 - as) + blend(b, sc) * as * ab;
      const v = ao > 0 ? sum / ao : 0;
      acc[c * n + i] = channels === 1 && FREE_MODES.has(mode) ? v : clamp01(v);
    }
  };
  return {
    ...noiseTwin,
    ...bendsTwin,
    ...segmentsTwin,
    ...dabsTwin,
    ...floodTwin,
    ...rulesTwin,
    ...seenTwin,
    ...stepsTwin,
    ...sumsTwin,
    name: 'twin',
    raysOf: raysTwin,
    pictures: tapsTwin(),
    mark: () => 0,
    release: () => {},
    floats: (count) => new Float32Array(count),
    bytes: (count) => new Uint8Array(count),
    keep: (values) => values.slice(),
    copyRows: copyRowsPlainly,
    blendStored: (acc, channels, laid, opaque) => {
      const step = channels + 1;
      for (const { source, mode, opacity, mask } of laid) {
        const { data, offset, stride, width, rows } = source;
        const n = width * rows;
        for (let y = 0; y < rows; y++)
          for (let x = 0; x < width; x++) {
            const i = y * width + x;
            const o = (offset + y * stride + x) * step;
            const as = (data[o + channels] / 65535) * opacity * (mask ? mask[i] : 1);
            texel(acc, i, n, channels, as, (c) => data[o + c] / 65535, mode, opaque);
          }
      }
    },
    blendFloat: (acc, channels, source, texels, mode, opacity, mask, opaque) => {
      for (let i = 0; i < texels; i++) {
        const as = source[channels * texels + i] * opacity * (mask ? mask[i] : 1);
        texel(acc, i, texels, channels, as, (c) => source[c * texels + i], mode, opaque);
      }
    },
    maskValues: (out, { data, offset, stride, width, rows }, ground, invert) => {
      for (let y = 0; y < rows; y++)
        for (let x = 0; x < width; x++) {
          const o = (offset + y * stride + x) * 2;
          const m = ground + (data[o + 1] / 65535) * (data[o] / 65535 - ground);
          out[y * width + x] = invert ? 1 - m : m;
        }
    },
    lerp: (acc, other, texels, planes, amount, mask) => {
      for (let p = 0; p < planes; p++)
        for (let i = 0; i < texels; i++) {
          const at = p * texels + i;
          acc[at] += amount * (mask ? mask[i] : 1) * (other[at] - acc[at]);
        }
    },
    blur: (source, width, height, side, axis, out) => {
      const radius = side.length - 1;
      const stride = axis === 'x' ? width + 2 * radius : width;
      const step = axis === 'x' ? 1 : stride;
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const at = axis === 'x' ? y * stride + x + radius : (y + radius) * stride + x;
          let sum = source[at] * side[0];
          for (let k = 1; k <= radius; k++) sum += side[k] * (source[at - k * step] + source[at + k * step]);
          out[y * width + x] = sum;
        }
    },
    normals: (field, width, height, smooth, slope, out) => {
      const taps = smooth.length;
      const stride = width + taps - 1;
      const n = width * height;
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          let dx = 0;
          let dy = 0;
          for (let j = 0; j < taps; j++)
            for (let i = 0; i < taps; i++) {
              const h = field[(y + j) * stride + x + i];
              dx += h * smooth[j] * slope[i];
              dy += h * slope[j] * smooth[i];
            }
          const scale = 1 / Math.sqrt(dx * dx + dy * dy + 1);
          const o = y * width + x;
          out[o] = -dx * scale;
          out[n + o] = dy * scale;
          out[2 * n + o] = scale;
        }
    },
    interleave8: (planes, texels, count, first, out) => {
      for (let i = 0; i < texels; i++) for (let c = 0; c < count; c++) out[i * 4 + first + c] = code(planes[c * texels + i], 255);
    },
    interleave16: (planes, texels) => {
      const out = new Uint16Array(texels * 3);
      for (let i = 0; i < texels; i++) for (let c = 0; c < 3; c++) out[i * 3 + c] = code(planes[c * texels + i], 65535);
      return out;
    },
    blurWide: (source, width, height, { factor, decimate, side, period, step, taps, table }, axis, out) => {
      const [lines, long] = axis === 'x' ? [height, width] : [width, height];
      const radius = side.length - 1;
      const inner = long / factor + 4;
      const whole = source.length / lines;
      for (let l = 0; l < lines; l++) {
        const at = (i: number) => source[axis === 'x' ? l * whole + i : i * width + l];
        const samples = Array.from({ length: inner + 2 * radius }, (_, j) =>
          decimate.reduce((sum, w, k) => sum + w * at(j * factor + k), 0),
        );
        const soft = Array.from({ length: inner }, (_, j) =>
          side.reduce(
            (sum, w, k) => sum + w * (k === 0 ? samples[j + radius] : samples[j + radius - k] + samples[j + radius + k]),
            0,
          ),
        );
        for (let i = 0; i < long; i++) {
          const group = (i >> 2) % period;
          const first = Math.floor(i / 4 / period) * step;
          let sum = 0;
          for (let k = 0; k < taps; k++) sum += soft[first + k] * table[(group * taps + k) * 4 + (i & 3)];
          out[axis === 'x' ? l * width + i : i * width + l] = sum;
        }
      }
    },
    affine: (out, source, base, span, held = false) => {
      for (let i = 0; i < out.length; i++) {
        const v = base + span * source[i];
        out[i] = held ? clamp01(v) : v;
      }
    },
    turnInOklab,
    distanceRows: (rows, width, far, none) => {
      const f = new Float64Array(width);
      const place = new Int32Array(width);
      const from = new Float64Array(width + 1);
      for (let i = rows.length - width - 1; i >= 0; i--) rows[i] = Math.min(rows[i], rows[i + width] + 1);
      for (let row = 0; row < rows.length; row += width) {
        let k = -1;
        for (let q = 0; q < width; q++) {
          const g = rows[row + q];
          if (g >= far) continue;
          f[q] = g * g;
          let s = -Infinity;
          while (k >= 0) {
            const p = place[k];
            s = (f[q] + q * q - (f[p] + p * p)) / (2 * (q - p));
            if (s > from[k]) break;
            k--;
          }
          k++;
          place[k] = q;
          from[k] = k === 0 ? -Infinity : s;
        }
        if (k < 0) {
          rows.fill(none, row, row + width);
          continue;
        }
        from[k + 1] = Infinity;
        for (let q = 0, n = 0; q < width; q++) {
          while (from[n + 1] < q) n++;
          const p = place[n];
          rows[row + q] = (q - p) * (q - p) + f[p];
        }
      }
    },
    boxPlaces: ({ face, position, normal }, shares, how, x, y, weight) => {
      const n = face.length;
      const [cx, cy, cz, by, xx, xy, ox, yx, yy, oy] = how;
      const counts: [number, number, number, number] = [0, 0, 0, 0];
      for (const plane of [x, y, weight]) plane.fill(0);
      for (let i = 0; i < n; i++) {
        if (face[i] < 0) continue;
        const facing = [0, 1, 2].map((k) => normal[i * 3 + k]);
        const row = Math.max(...facing.map(Math.abs)) * 128;
        const share = facing.map((v) => shares[row + Math.abs(v)]);
        const all = 1 / (share[0] + share[1] + share[2]);
        const [px, py, pz] = [cx, cy, cz].map((c, k) => (position[i * 3 + k] - c) * by);
        // Turned round on the far side, so that letters read the right way from outside.
        const sides = [
          [facing[0] < 0 ? pz : -pz, py],
          [facing[1] < 0 ? -px : px, pz],
          [facing[2] < 0 ? -px : px, py],
        ];
        sides.forEach(([across, up], k) => {
          if (!(share[k] > 0)) return;
          const [u, v, at] = [across + 0.5, 0.5 - up, k * n + i];
          x[at] = xx * u + xy * v + ox;
          y[at] = yx * u + yy * v + oy;
          weight[at] = share[k] * all;
          counts[k]++;
        });
        if (share.some((s) => s * all === 1)) counts[3]++;
      }
      return counts;
    },
    enlarge: (from, width, columns, rows, out) => {
      const last = from.length / 4 / width - 1;
      const mix = (a: number, b: number, share: number) => (a * (256 - share) + b * share) >> 8;
      for (let y = 0, o = 0; y < rows.left.length; y++) {
        const upper = rows.left[y] * width;
        const lower = Math.min(last, rows.left[y] + 1) * width;
        for (let x = 0; x < columns.left.length; x++)
          for (let c = 0; c < 4; c++, o++) {
            const a = columns.left[x];
            const b = Math.min(width - 1, a + 1);
            const [p, q] = [a, b].map((i) => mix(from[(upper + i) * 4 + c], from[(lower + i) * 4 + c], rows.share[y]));
            out[o] = mix(p, q, columns.share[x]);
          }
      }
    },
    toUint16: (source) => Uint16Array.from(source, (v) => code(v, 65535)),
  };
}

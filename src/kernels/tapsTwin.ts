/** Reading placed pictures in plain TypeScript: what assembly/taps.ts means, in double precision. */
import { hash24, wrapTo } from './hash';
import {
  MOST_READS,
  MOST_TAPS,
  TABLE_BINS,
  TILE_TEXELS,
  TURNS,
  type Pixels,
  type Places,
  type Reads,
  type TapKernels,
  type TapSet,
  type TapViews,
} from './taps';

export function newViews(): TapViews {
  return {
    texel: new Int32Array(MOST_TAPS),
    share: new Float32Array(MOST_TAPS),
    scale: new Float32Array(MOST_TAPS),
    at: new Int32Array(MOST_TAPS * MOST_READS),
    weights: new Float32Array(MOST_TAPS * MOST_READS * 4),
    turn: new Int32Array(MOST_TAPS * MOST_READS),
    seen: new Float32Array(TILE_TEXELS),
  };
}

const f = Math.fround;

/** One read at a place in repeats; beyond its border the picture begins anew. In float32 all along, as the other does. */
function putRead(v: TapViews, o: number, x: number, y: number, width: number, height: number, share: number): void {
  const px = f(f(f(x - Math.floor(x)) * width) - 0.5);
  const py = f(f(f(y - Math.floor(y)) * height) - 0.5);
  const ix = Math.floor(px);
  const iy = Math.floor(py);
  v.at[o] = (iy < 0 ? height - 1 : iy) * (width + 1) + (ix < 0 ? width - 1 : ix);
  const right = f(f(px - ix) * share);
  const lower = f(f(py - iy) * share);
  const d = f(right * f(py - iy));
  const c = f(lower - d);
  v.weights[o * 4] = f(share - right) - c;
  v.weights[o * 4 + 1] = right - d;
  v.weights[o * 4 + 2] = c;
  v.weights[o * 4 + 3] = d;
}

function through(table: Float32Array, from: number, position: number): number {
  const p = Math.max(0, Math.min(TABLE_BINS, position));
  const i = Math.min(TABLE_BINS - 1, Math.floor(p));
  const a = table[from + i];
  return a + (table[from + i + 1] - a) * (p - i);
}

const clamp01 = (v: number) => (v < 0 ? 0 : v > 1 ? 1 : v);

export function tapsTwin(): TapKernels {
  const known = new WeakMap<Pixels, Int16Array>();
  const pixelsOf = (pixels: Pixels): Int16Array => {
    let codes = known.get(pixels);
    if (!codes) {
      known.set(pixels, (codes = new Int16Array(pixels.length)));
      pixels.fill(codes);
    }
    return codes;
  };

  const addTap = (set: TapSet, v: TapViews, { weight }: Places, i: number, scale: number) => {
    v.texel[set.count] = i;
    v.share[set.count] = weight ? weight[i] : 1;
    v.scale[set.count] = scale;
    v.seen[i] += v.share[set.count];
    set.count++;
  };

  return {
    pixelsOf,
    tapSet: () => {
      const views = newViews();
      return { count: 0, reads: 1, views: () => views };
    },
    clearTaps: (set: TapSet, reads: Reads) => {
      set.count = 0;
      set.reads = reads;
      set.views().seen.fill(0);
    },
    addPlain: (set, places, width, height) => {
      const v = set.views();
      const { x, y, weight } = places;
      for (let i = 0; i < x.length; i++) {
        if (weight && weight[i] === 0) continue;
        putRead(v, set.count * MOST_READS, x[i], y[i], width, height, 1);
        addTap(set, v, places, i, 1);
      }
    },
    addPatches: (set, places, width, height, { cells, per, strength }) => {
      const v = set.views();
      const { x, y, weight } = places;
      const both = strength / Math.hypot(strength, 1 - strength);
      for (let i = 0; i < x.length; i++) {
        if (weight && weight[i] === 0) continue;
        const gx = x[i] * per[0];
        const gy = y[i] * per[1];
        const cx = Math.floor(gx);
        const cy = Math.floor(gy);
        const fx = gx - cx;
        const fy = gy - cy;
        const upper = fx + fy > 1;
        const w = upper ? [fx + fy - 1, 1 - fx, 1 - fy] : [1 - fx - fy, fx, fy];
        const norm = 1 / Math.sqrt(w[0] * w[0] + w[1] * w[1] + w[2] * w[2]);
        let o = set.count * MOST_READS;
        // (0,0) (1,0) (0,1), or (1,1) (0,1) (1,0).
        for (const [k, [dx, dy]] of (upper ? UPPER : LOWER).entries()) {
          const vx = wrapTo(cx + dx, cells[0]);
          const vy = wrapTo(cy + dy, cells[1]);
          const index = hash24(vx, vy, 11) >>> 16;
          const [cos, sin] = [TURNS[index * 2], TURNS[index * 2 + 1]];
          const px = f(x[i] - f((cx + dx) / per[0]));
          const py = f(y[i] - f((cy + dy) / per[1]));
          const u = f(f(f(cos * px) - f(sin * py)) + hash24(vx, vy, 23) / 16777216);
          const u2 = f(f(f(sin * px) + f(cos * py)) + hash24(vx, vy, 37) / 16777216);
          putRead(v, o, u, u2, width, height, f(w[k]));
          v.turn[o++] = index;
        }
        if (set.reads === 4) {
          // The picture as it is, so that both together keep the variance too.
          putRead(v, o, x[i], y[i], width, height, f((1 - strength) / (strength * norm)));
          v.turn[o] = 0;
        }
        addTap(set, v, places, i, norm * both);
      }
    },
    readValues: (set, pixels, down, { table, steps, by, lift }, out) => {
      const codes = pixelsOf(pixels);
      out.fill(0, 0, TILE_TEXELS);
      const { texel, share, scale, at, weights } = set.views();
      for (let t = 0; t < set.count; t++) {
        let sum = 0;
        for (let o = t * MOST_READS, k = 0; k < set.reads; k++, o++) {
          const i = at[o];
          sum += codes[i] * weights[o * 4] + codes[i + 1] * weights[o * 4 + 1];
          sum += codes[i + down] * weights[o * 4 + 2] + codes[i + down + 1] * weights[o * 4 + 3];
        }
        sum *= scale[t];
        if (table) sum = through(table, 0, sum * steps + TABLE_BINS / 2);
        out[texel[t]] += share[t] * clamp01(sum * by + lift);
      }
    },
    readColours: (set, pixels, down, { table, steps, matrix: m }, out) => {
      const codes = pixelsOf(pixels);
      out.fill(0, 0, 3 * TILE_TEXELS);
      const { texel, share, scale, at, weights } = set.views();
      for (let t = 0; t < set.count; t++) {
        const sum = [0, 0, 0];
        for (let o = t * MOST_READS, k = 0; k < set.reads; k++, o++)
          for (let q = 0; q < 4; q++) {
            const i = (at[o] + (q & 1) + (q >> 1) * down) * 4;
            for (let c = 0; c < 3; c++) sum[c] += codes[i + c] * weights[o * 4 + q];
          }
        for (let c = 0; c < 3; c++) {
          sum[c] *= scale[t];
          if (table) sum[c] = through(table, c * (TABLE_BINS + 1), sum[c] * steps + TABLE_BINS / 2);
        }
        for (let c = 0; c < 3; c++)
          out[c * TILE_TEXELS + texel[t]] +=
            share[t] * clamp01(m[12 + c] + m[c] * sum[0] + m[4 + c] * sum[1] + m[8 + c] * sum[2]);
      }
    },
  };
}

const UPPER = [
  [1, 1],
  [0, 1],
  [1, 0],
] as const;
const LOWER = [
  [0, 0],
  [1, 0],
  [0, 1],
] as const;

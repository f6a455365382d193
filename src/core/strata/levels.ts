/**
 * Levels of pictures made ready to be read through taps: 16 bits around the middle, one number or three a pixel, with
 * the first column and row once more at the end, so that a read never has to look where the border is.
 */
import { gaussOf, SPAN, type HiddenRecipe } from './hidden';
import { greyOf, type Grey } from './grey';
import type { MapKind } from './filters/filter';
import type { PictureLevel } from './picture';
import type { Taps } from './taps';

export interface ReadyLevel {
  width: number;
  height: number;
  size: 1 | 3;
  codes: Int16Array;
  /** Null: solid all over. */
  alpha: Int16Array | null;
}

/** One step of a code: of what is read as it is, and of what was made Gaussian. */
export const PLAIN_STEP = 1 / 65535;
export const GAUSS_STEP = SPAN / 32767;

/** With a recipe values are Gaussian (principal axes of colours); directions stay what they are. */
export function readyLevel(level: PictureLevel, kind: MapKind, take: Grey, recipe: HiddenRecipe | null): ReadyLevel {
  const { width, height, data } = level;
  const size = kind === 'value' ? 1 : 3;
  const stride = width + 1;
  const codes = new Int16Array(stride * (height + 1) * size);
  let alpha: Int16Array | null = null;
  const c = [0, 0, 0, 0];
  for (let y = 0; y <= height; y++)
    for (let x = 0; x <= width; x++) {
      const from = ((y % height) * width + (x % width)) * 4;
      const to = y * stride + x;
      if (data[from + 3] < 65535 && !alpha) alpha = new Int16Array(stride * (height + 1)).fill(32767);
      if (alpha) alpha[to] = data[from + 3] - 32768;
      for (let k = 0; k < 4; k++) c[k] = data[from + k] / 65535;
      if (recipe && kind !== 'normal') {
        const { mean, axes, tables } = recipe;
        const grey = greyOf(take, c);
        for (let a = 0; a < size; a++) {
          const axis = axes[a];
          const v =
            size === 1 ? grey - mean[0] : axis[0] * (c[0] - mean[0]) + axis[1] * (c[1] - mean[1]) + axis[2] * (c[2] - mean[2]);
          codes[to * size + a] = Math.round(gaussOf(tables[a], v) / GAUSS_STEP);
        }
      } else if (size === 1) codes[to] = Math.round(greyOf(take, c) * 65535) - 32768;
      else for (let k = 0; k < 3; k++) codes[to * 3 + k] = data[from + k] - 32768;
    }
  return { width, height, size, codes, alpha };
}

/** Sums of one number a pixel over each tap's reads, times the tap's scale. */
export function readValues(codes: Int16Array, taps: Taps, stride: number, out: Float32Array): void {
  const { count, corners, at, ax, ay, share, scale } = taps;
  for (let t = 0, o = 0; t < count; t++) {
    let sum = 0;
    for (let k = 0; k < corners; k++, o++) {
      const i = at[o];
      const x = ax[o];
      const a = codes[i];
      const c = codes[i + stride];
      const top = a + (codes[i + 1] - a) * x;
      sum += share[o] * (top + (c + (codes[i + stride + 1] - c) * x - top) * ay[o]);
    }
    out[t] = sum * scale[t];
  }
}

/** The same of three numbers a pixel, into three planes of `taps.count`. */
export function readColours(codes: Int16Array, taps: Taps, stride: number, out: Float32Array): void {
  const { count, corners, at, ax, ay, share, scale } = taps;
  const down = stride * 3;
  for (let t = 0, o = 0; t < count; t++) {
    let r = 0;
    let g = 0;
    let b = 0;
    for (let k = 0; k < corners; k++, o++) {
      const i = at[o] * 3;
      const j = i + down;
      const w = share[o];
      const y = ay[o];
      const wd = ax[o] * y * w;
      const wb = ax[o] * w - wd;
      const wc = y * w - wd;
      const wa = w - wb - wc - wd;
      r += wa * codes[i] + wb * codes[i + 3] + wc * codes[j] + wd * codes[j + 3];
      g += wa * codes[i + 1] + wb * codes[i + 4] + wc * codes[j + 1] + wd * codes[j + 4];
      b += wa * codes[i + 2] + wb * codes[i + 5] + wc * codes[j + 2] + wd * codes[j + 5];
    }
    const s = scale[t];
    out[t] = r * s;
    out[count + t] = g * s;
    out[2 * count + t] = b * s;
  }
}

/** X and Y of directions, turned back by as much as their patches are turned, into two planes of `taps.count`; Z is left out. */
export function readDirections(codes: Int16Array, taps: Taps, stride: number, out: Float32Array): void {
  const { count, corners, at, ax, ay, share, scale, cos, sin } = taps;
  const down = stride * 3;
  for (let t = 0, o = 0; t < count; t++) {
    let sx = 0;
    let sy = 0;
    for (let k = 0; k < corners; k++, o++) {
      const i = at[o] * 3;
      const j = i + down;
      const [u, v, w] = [ax[o], ay[o], share[o]];
      const wd = u * v;
      const wb = u - wd;
      const wc = v - wd;
      const wa = 1 - u - wc;
      const x = (wa * codes[i] + wb * codes[i + 3] + wc * codes[j] + wd * codes[j + 3]) * w;
      const y = (wa * codes[i + 1] + wb * codes[i + 4] + wc * codes[j + 1] + wd * codes[j + 4]) * w;
      sx += cos[o] * x - sin[o] * y;
      sy += sin[o] * x + cos[o] * y;
    }
    out[t] = sx * scale[t];
    out[count + t] = sy * scale[t];
  }
}

/** Alpha 0..1 over each tap's reads; `strength`: how much of it comes from the patches where the picture as it is comes too. */
export function readAlpha(alpha: Int16Array, taps: Taps, stride: number, strength: number, out: Float32Array): void {
  const { count, corners, at, ax, ay, share } = taps;
  for (let t = 0, o = 0; t < count; t++) {
    let sum = 0;
    for (let k = 0; k < corners; k++, o++) {
      const i = at[o];
      const x = ax[o];
      const a = alpha[i];
      const c = alpha[i + stride];
      const top = a + (alpha[i + 1] - a) * x;
      const w = corners !== 4 ? share[o] : k < 3 ? share[o] * strength : 1 - strength;
      sum += w * (top + (c + (alpha[i + stride + 1] - c) * x - top) * ay[o]);
    }
    out[t] = (sum + 32768) * PLAIN_STEP;
  }
}

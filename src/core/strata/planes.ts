/** Texels as planes of float32, and what is done to them outside the kernels. */
import { WHOLE, type WholeBlend } from '../colour/blend';
import { kernels } from '../kernels';
import type { StoredSource } from '../../kernels/kernels';
import type { Rect } from '../tile/mips';
import { TILE } from '../tile/tiles';
import { greyOf, type Grey } from '../kinds/grey';

/** What is evaluated so far: even all over (values, then alpha), or planes in the kernels' arena. */
export interface State {
  even: number[] | null;
  acc: Float32Array | null;
}

/** A rectangle of a tile's stored texels. */
export function storedRect(data: Uint16Array, rect: Rect): StoredSource {
  return { data, offset: rect.y * TILE + rect.x, stride: TILE, width: rect.width, rows: rect.height };
}

/** Stored texels as float planes. */
export function toPlanes(source: StoredSource, channels: number): Float32Array {
  const { data, offset, stride, width, rows } = source;
  const n = width * rows;
  const out = kernels().floats(n * (channels + 1));
  for (let y = 0, i = 0; y < rows; y++)
    for (let x = 0, o = (offset + y * stride) * (channels + 1); x < width; x++, i++)
      for (let c = 0; c <= channels; c++, o++) out[c * n + i] = data[o] / 65535;
  return out;
}

/** Colour to value by one number of the encoded colour; value to grey. */
export function convert(state: State, fromChannels: number, texels: number, by: Grey): State {
  if (state.even) {
    const [a, ...rest] = state.even.toReversed();
    const values = rest.toReversed();
    return { even: fromChannels === 3 ? [greyOf(by, [...values, a]), a] : [values[0], values[0], values[0], a], acc: null };
  }
  const from = state.acc!;
  const to = fromChannels === 3 ? 1 : 3;
  const out = kernels().floats(texels * (to + 1));
  if (to === 1) {
    const c = [0, 0, 0, 0];
    if (by === 'luminance')
      for (let i = 0; i < texels; i++) out[i] = 0.3 * from[i] + 0.59 * from[texels + i] + 0.11 * from[2 * texels + i];
    else
      for (let i = 0; i < texels; i++) {
        c[0] = from[i];
        c[1] = from[texels + i];
        c[2] = from[2 * texels + i];
        c[3] = from[3 * texels + i];
        out[i] = greyOf(by, c);
      }
  } else for (let c = 0; c < 3; c++) out.set(from.subarray(0, texels), c * texels);
  out.set(from.subarray(fromChannels * texels), to * texels);
  return { even: null, acc: out };
}

export function blendWhole(
  blend: WholeBlend,
  acc: Float32Array,
  source: Float32Array,
  n: number,
  opacity: number,
  mask: Float32Array | null,
  opaque: boolean,
): void {
  const fn = WHOLE[blend];
  const b = [0, 0, 0];
  const s = [0, 0, 0];
  const m = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const as = source[3 * n + i] * opacity * (mask ? mask[i] : 1);
    if (as === 0) continue;
    for (let c = 0; c < 3; c++) {
      b[c] = acc[c * n + i];
      s[c] = source[c * n + i];
    }
    fn(b, s, m);
    const ab = opaque ? 1 : acc[3 * n + i];
    const ao = as + ab - as * ab;
    for (let c = 0; c < 3; c++) {
      const v = (s[c] * as * (1 - ab) + b[c] * ab * (1 - as) + m[c] * as * ab) / ao;
      acc[c * n + i] = v < 0 ? 0 : v > 1 ? 1 : v;
    }
    if (!opaque) acc[3 * n + i] = ao;
  }
}

/** Mixing two states that have alphas of their own: weighted by alpha, as light mixes. */
export function lerpStraight(
  acc: Float32Array,
  other: Float32Array,
  n: number,
  channels: number,
  amount: number,
  mask: Float32Array | null,
): void {
  const a = channels * n;
  for (let i = 0; i < n; i++) {
    const k = amount * (mask ? mask[i] : 1);
    const wb = acc[a + i] * (1 - k);
    const ws = other[a + i] * k;
    const sum = wb + ws;
    for (let c = 0; c < channels; c++) acc[c * n + i] = sum > 0 ? (acc[c * n + i] * wb + other[c * n + i] * ws) / sum : 0;
    acc[a + i] = sum;
  }
}

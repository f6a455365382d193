/** Layers over each other, masks, and numbers on their way out (assembly/blend.ts). */
import type { Arena } from '../arena';
import type { Kernels } from '../kernels';

type Blend = (
  mode: number,
  opaque: number,
  acc: number,
  src: number,
  n: number,
  rows: number,
  step: number,
  opacity: number,
  mask: number,
  plane: number,
) => void;

export interface CompositingExports {
  /** `rows` of `n` texels; the source's are `step` bytes from row to row. `plane`: bytes from plane to plane. */
  blendColour: Blend;
  blendValue: Blend;
  blendFloat(
    mode: number,
    opaque: number,
    acc: number,
    src: number,
    n: number,
    opacity: number,
    mask: number,
    channels: number,
  ): void;
  maskValues(out: number, src: number, n: number, rows: number, step: number, ground: number, invert: number): void;
  lerpPlanes(acc: number, other: number, n: number, planes: number, amount: number, mask: number): void;
  toUint16(out: number, src: number, count: number): void;
  interleave16(out: number, src: number, n: number): void;
}

type Compositing = Pick<Kernels, 'blendStored' | 'blendFloat' | 'maskValues' | 'lerp' | 'interleave16' | 'toUint16'>;

/** 16 KiB of RGBA: half of a first-level cache. */
const CHUNK_TEXELS = 2048;

export function compositing(k: CompositingExports, arena: Arena): Compositing {
  return {
    blendStored: (acc, channels, source, mode, opacity, mask, opaque) =>
      arena.within(acc, (at) => {
        const { width, rows } = source;
        const plane = width * rows * 4;
        const m = mask ? arena.address(mask) : 0;
        const blend = channels === 3 ? k.blendColour : k.blendValue;
        const over = opaque ? 1 : 0;
        const bytes = (channels + 1) * 2;
        const inPlace = arena.placeOf(source, channels + 1);
        if (inPlace !== null && width === source.stride)
          return blend(mode, over, at, inPlace, width * rows, 1, 0, opacity, m, plane);
        if (inPlace !== null) return blend(mode, over, at, inPlace, width, rows, source.stride * bytes, opacity, m, plane);
        // A few rows at a time: what was copied in is still in the nearest cache when it is read.
        const step = Math.max(1, Math.floor(CHUNK_TEXELS / width));
        for (let y = 0; y < rows; y += step) {
          const part = { ...source, offset: source.offset + y * source.stride, rows: Math.min(step, rows - y) };
          const skip = y * width * 4;
          const from = arena.copied(part, channels + 1);
          blend(mode, over, at + skip, from, width, part.rows, width * bytes, opacity, m && m + skip, plane);
        }
      }),
    blendFloat: (acc, channels, source, texels, mode, opacity, mask, opaque) =>
      arena.within(acc, (at) => {
        const m = mask ? arena.address(mask) : 0;
        k.blendFloat(mode, opaque ? 1 : 0, at, arena.address(source), texels, opacity, m, channels);
      }),
    maskValues: (out, source, ground, invert) =>
      arena.within(out, (at) => {
        const { width, rows, stride } = source;
        const inPlace = arena.placeOf(source, 2);
        const from = inPlace ?? arena.copied(source, 2);
        k.maskValues(at, from, width, rows, (inPlace === null ? width : stride) * 4, ground, invert ? 1 : 0);
      }),
    lerp: (acc, other, texels, planes, amount, mask) =>
      arena.within(acc, (at) => k.lerpPlanes(at, arena.address(other), texels, planes, amount, mask ? arena.address(mask) : 0)),
    interleave16: (planes, texels, out) => {
      const before = arena.mark();
      const to = arena.take(texels * 6 + 16);
      k.interleave16(to, arena.address(planes), texels);
      out.set(arena.u16.subarray(to >> 1, (to >> 1) + texels * 3));
      arena.release(before);
    },
    toUint16: (source, out) => {
      const before = arena.mark();
      const whole = source.length & ~7;
      const to = arena.take(source.length * 2);
      k.toUint16(to, arena.address(source), whole);
      out.set(arena.u16.subarray(to >> 1, (to >> 1) + whole));
      for (let i = whole; i < source.length; i++) out[i] = Math.min(1, Math.max(0, source[i])) * 65535 + 0.5;
      arena.release(before);
    },
  };
}

/** Layers over each other, masks, and numbers on their way out (assembly/blend.ts). */
import type { Arena } from '../arena';
import type { Kernels, LaidLayer } from '../kernels';
import { copyRowsPlainly } from '../twin';

export interface CompositingExports {
  /** Layers of 16 bytes: source, mask, mode, opacity (assembly/blend.ts). */
  blendStored(
    channels: number,
    opaque: number,
    acc: number,
    plane: number,
    n: number,
    rows: number,
    step: number,
    layers: number,
    count: number,
    block: number,
  ): void;
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
  copyRows(from: number, fromStep: number, to: number, toStep: number, n: number, rows: number): void;
  toUint16(out: number, src: number, count: number): void;
  interleave16(out: number, src: number, n: number): void;
  interleave8(out: number, src: number, n: number, planes: number, first: number): void;
}

type Compositing = Pick<
  Kernels,
  'blendStored' | 'blendFloat' | 'copyRows' | 'maskValues' | 'lerp' | 'interleave8' | 'interleave16' | 'toUint16'
>;

/** 16 KiB of RGBA: half of a first-level cache. */
const CHUNK_TEXELS = 2048;
/** Texels of a block that goes through all layers: with its planes 20 KiB. From 128 to 8,192 all were equally quick. */
const BLOCK_TEXELS = 1024;
/** What the list of weights has room for. */
const MOST_LAYERS = 256;

export function compositing(k: CompositingExports, arena: Arena): Compositing {
  const { f32, i32 } = arena;

  /** Layers that lie in the memory, with rows of one length. */
  function blendInPlace(at: number, channels: 1 | 3, laid: readonly LaidLayer[], places: number[], opaque: boolean): void {
    const { width, rows, stride } = laid[0].source;
    const step = stride * (channels + 1) * 2;
    const block = Math.max(1, Math.floor(BLOCK_TEXELS / width));
    for (let first = 0; first < laid.length; first += MOST_LAYERS) {
      const before = arena.mark();
      const part = laid.slice(first, first + MOST_LAYERS);
      part.forEach(({ mode, opacity, mask }, n) => {
        const record = (arena.weights >> 2) + n * 4;
        i32[record] = places[first + n];
        i32[record + 1] = mask ? arena.address(mask) : 0;
        i32[record + 2] = mode;
        f32[record + 3] = opacity;
      });
      k.blendStored(channels, opaque ? 1 : 0, at, width * rows * 4, width, rows, step, arena.weights, part.length, block);
      arena.release(before);
    }
  }

  /** One that lies outside, a few rows at a time: what was copied in is still in the nearest cache when it is read. */
  function blendCopied(at: number, channels: 1 | 3, { source, mode, opacity, mask }: LaidLayer, opaque: boolean): void {
    const { width, rows, stride } = source;
    const bytes = (channels + 1) * 2;
    const m = mask ? arena.address(mask) : 0;
    const step = Math.max(1, Math.floor(CHUNK_TEXELS / width));
    const record = arena.weights >> 2;
    for (let y = 0; y < rows; y += step) {
      const part = { ...source, offset: source.offset + y * stride, rows: Math.min(step, rows - y) };
      const skip = y * width * 4;
      i32[record] = arena.copied(part, channels + 1);
      i32[record + 1] = m && m + skip;
      i32[record + 2] = mode;
      f32[record + 3] = opacity;
      const plane = width * rows * 4;
      k.blendStored(channels, opaque ? 1 : 0, at + skip, plane, width, part.rows, width * bytes, arena.weights, 1, part.rows);
    }
  }

  return {
    blendStored: (acc, channels, laid, opaque) =>
      arena.within(acc, (at) => {
        const places = laid.map(({ source }) => arena.placeOf(source, channels + 1));
        const inPlace = places.every((p) => p !== null) && laid.every((l) => l.source.stride === laid[0].source.stride);
        if (inPlace) blendInPlace(at, channels, laid, places as number[], opaque);
        else for (const layer of laid) blendCopied(at, channels, layer, opaque);
      }),
    blendFloat: (acc, channels, source, texels, mode, opacity, mask, opaque) =>
      arena.within(acc, (at) => {
        const m = mask ? arena.address(mask) : 0;
        k.blendFloat(mode, opaque ? 1 : 0, at, arena.address(source), texels, opacity, m, channels);
      }),
    copyRows: (from, to, columns, rows) => {
      const [a, b] = [arena.inPlace(from.data), arena.inPlace(to.data)];
      if (a === null || b === null) return copyRowsPlainly(from, to, columns, rows);
      k.copyRows(a + from.at * 4, from.stride * 4, b + to.at * 4, to.stride * 4, columns, rows);
    },
    maskValues: (out, source, ground, invert) =>
      arena.within(out, (at) => {
        const { width, rows, stride } = source;
        const inPlace = arena.placeOf(source, 2);
        const from = inPlace ?? arena.copied(source, 2);
        k.maskValues(at, from, width, rows, (inPlace === null ? width : stride) * 4, ground, invert ? 1 : 0);
      }),
    lerp: (acc, other, texels, planes, amount, mask) =>
      arena.within(acc, (at) => k.lerpPlanes(at, arena.address(other), texels, planes, amount, mask ? arena.address(mask) : 0)),
    interleave8: (planes, texels, count, first, out) => {
      const to = arena.inPlace(out);
      if (to === null) throw new Error('Bytes of the arena are needed');
      k.interleave8(to, arena.address(planes), texels, count, first);
    },
    interleave16: (planes, texels) => {
      const from = arena.address(planes);
      const to = arena.take(texels * 6 + 16);
      k.interleave16(to, from, texels);
      return arena.codes(to, texels * 3);
    },
    toUint16: (source) => {
      const from = arena.address(source);
      // Eight at a time: a few more do no harm.
      const whole = (source.length + 7) & ~7;
      const to = arena.take(whole * 2);
      k.toUint16(to, from, whole);
      return arena.codes(to, source.length);
    },
  };
}

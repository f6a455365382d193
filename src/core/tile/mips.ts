/**
 * Display pyramids: 8-bit RGBA levels, each half of the one before (rounded down, at least 1).
 * Colour planes are averaged in linear light, data planes as they are. Only the changed rectangle of each
 * level is computed again, so a dab costs a third more than its own texels.
 *
 * The texels of the sheet's own size pass through and are not kept: of what is changed whole pairs of rows and columns come in,
 * so that the levels below can be made without the rest. What is even all over takes no memory at all.
 */
import { kernels } from '../kernels';
import type { Between } from '../../kernels/kernels';
import { LINEAR_OF_SRGB8, linearToSrgb8 } from '../colour/transfer';

export interface Rect {
  x: number;
  y: number;
  width: number;
  height: number;
}

export interface MipLevel {
  width: number;
  height: number;
  /** RGBA, 8 bit, rows top to bottom. */
  data: Uint8Array;
}

/**
 * What changed: `first` rectangles of the first level, then one of each level below, their texels tightly packed one after another.
 * No rectangles: the whole plane has the one texel in `data`.
 */
export interface MipPatch {
  rects: Rect[];
  first: number;
  data: Uint8Array<ArrayBuffer>;
}

/** The same rectangle with whole pairs of rows and columns, as far as a picture of that size goes. */
export function inPairs({ x, y, width, height }: Rect, whole: { width: number; height: number }): Rect {
  const [x0, y0] = [x & ~1, y & ~1];
  const x1 = Math.min(whole.width, (x + width + 1) & ~1);
  const y1 = Math.min(whole.height, (y + height + 1) & ~1);
  return { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
}

/** The parts of a patch, each a rectangle of a level with its texels tightly packed. */
export function* partsOf({ rects, first, data }: MipPatch): Generator<{ level: number; rect: Rect; texels: Uint8Array }> {
  let at = 0;
  for (const [n, rect] of rects.entries()) {
    const end = at + rect.width * rect.height * 4;
    yield { level: Math.max(0, n - first + 1), rect, texels: data.subarray(at, end) };
    at = end;
  }
}

/** What of the first level a patch may change; null: all of it. */
export const extentOf = ({ rects, first }: MipPatch): Rect | null => (first ? rects.slice(0, first).reduce(together) : null);

/** The rectangle around two. */
export function together(a: Rect, b: Rect): Rect {
  const [x, y] = [Math.min(a.x, b.x), Math.min(a.y, b.y)];
  return {
    x,
    y,
    width: Math.max(a.x + a.width, b.x + b.width) - x,
    height: Math.max(a.y + a.height, b.y + b.height) - y,
  };
}

const areaOf = ({ width, height }: Rect): number => width * height;

/** Patches are taken together where the rectangle around them is no more than so many times as large as they are. */
const ROOM = 4;

export class MipPyramid {
  /** Sizes of the levels; those below the first are filled once there is anything in them. */
  readonly sizes: readonly { width: number; height: number }[];
  private below: MipLevel[] | null = null;
  /** The one texel that all of it has; null: not known, or not so. */
  private even: number | null = null;

  constructor(
    readonly width: number,
    readonly height: number,
    readonly encoding: 'srgb' | 'linear',
  ) {
    const sizes = [];
    for (let w = width, h = height; ; w = Math.max(1, w >> 1), h = Math.max(1, h >> 1)) {
      sizes.push({ width: w, height: h });
      if (w === 1 && h === 1) break;
    }
    this.sizes = sizes;
  }

  /** Bytes that it holds. */
  get bytes(): number {
    return this.below?.reduce((sum, l) => sum + l.data.length, 0) ?? 0;
  }

  /** Level n as it is now, from 1 on. */
  level(n: number): MipLevel {
    if (this.below) return this.below[n - 1];
    const { width, height } = this.sizes[n];
    return { width, height, data: evenPicture(width * height, this.even ?? 0) };
  }

  /** The levels below the first, filled with what was even so far. */
  private levels(): MipLevel[] {
    if (this.below) return this.below;
    this.below = this.sizes.slice(1).map(({ width, height }) => {
      return { width, height, data: evenPicture(width * height, this.even ?? 0) };
    });
    this.even = null;
    return this.below;
  }

  /**
   * New texels of a rectangle that has whole pairs of rows and columns (`inPairs`), tightly packed. null: nothing changes, since all
   * of the plane has that texel already.
   */
  lay(rect: Rect, texels: Uint8Array): MipPatch | null {
    const even = this.layIfEven(texels, rect.width * rect.height);
    if (even !== undefined) return even;
    const levels = this.levels();
    const rects = this.over(rect);
    const data = packed(rects);
    data.set(texels.subarray(0, rect.width * rect.height * 4));
    let from: Source = { data: texels, x: rect.x, y: rect.y, stride: rect.width, width: this.width, height: this.height };
    let at = rect.width * rect.height * 4;
    for (let n = 1; n < rects.length; n++) {
      const to = levels[n - 1];
      this.halve(from, to, rects[n]);
      at = copyRect(to, rects[n], data, at);
      from = { ...to, x: 0, y: 0, stride: to.width };
    }
    return { rects, first: 1, data };
  }

  /** All of the plane has one texel, if nothing else is known of it; undefined: something is. null: nothing changes. */
  layEven(one: number): MipPatch | null | undefined {
    if (this.below || (this.even !== null && this.even !== one)) return undefined;
    if (this.even === one) return null;
    this.even = one;
    return { rects: [], first: 0, data: new Uint8Array(Uint32Array.of(one).buffer) };
  }

  /** As `layEven`, where these texels are all the same. */
  private layIfEven(texels: Uint8Array, count: number): MipPatch | null | undefined {
    const one = this.below ? null : evenTexel(texels, count);
    return one === null ? undefined : this.layEven(one);
  }

  /** Fills what lies over `rect` of the first level from a smaller picture of the whole, in every level. */
  enlarge(from: MipLevel, rect: Rect): MipPatch | null {
    const even = this.layIfEven(from.data, from.width * from.height);
    if (even !== undefined) return even;
    const levels = this.levels();
    const rects = this.over(rect);
    const data = packed(rects);
    data.set(enlarge(from, this, rect));
    let at = rect.width * rect.height * 4;
    for (let n = 1; n < rects.length; n++) {
      const to = levels[n - 1];
      const part = rects[n];
      const texels = enlarge(from, to, part);
      putRows(texels, part.width, part, to);
      data.set(texels, at);
      at += texels.length;
    }
    return { rects, first: 1, data };
  }

  /** Patches of this pyramid, those that lie near each other as one, which the card takes in fewer steps. */
  merged(patches: readonly MipPatch[]): readonly MipPatch[] {
    if (patches.length < 2 || patches.some((p) => p.first === 0)) return patches;
    const groups: { around: Rect; area: number; patches: MipPatch[] }[] = [];
    for (const patch of patches) {
      const own = extentOf(patch)!;
      const near = groups.find((g) => areaOf(together(g.around, own)) <= ROOM * (g.area + areaOf(own)));
      if (!near) groups.push({ around: own, area: areaOf(own), patches: [patch] });
      else {
        near.around = together(near.around, own);
        near.area += areaOf(own);
        near.patches.push(patch);
      }
    }
    return groups.map((g) => this.asOne(g.patches));
  }

  /** Their rectangles of the first level, and of each level below the one around all, as it is now: so their order does not matter. */
  private asOne(patches: readonly MipPatch[]): MipPatch {
    const own = patches.map((p) => p.rects.slice(0, p.first));
    const below = this.sizes.slice(1).map((_, n) => patches.map((p) => p.rects[p.first + n]).reduce(together));
    const rects = [...own.flat(), ...below];
    const data = packed(rects);
    let at = 0;
    patches.forEach((p, n) => {
      const bytes = own[n].reduce((sum, r) => sum + r.width * r.height * 4, 0);
      data.set(p.data.subarray(0, bytes), at);
      at += bytes;
    });
    below.forEach((rect, n) => (at = copyRect(this.level(n + 1), rect, data, at)));
    return { rects, first: rects.length - below.length, data };
  }

  /** The rectangle of every level that lies over one of the first. */
  private over(rect: Rect): Rect[] {
    const rects: Rect[] = [rect];
    for (const { width, height } of this.sizes.slice(1)) {
      const last = rects[rects.length - 1];
      const x0 = Math.min(width - 1, last.x >> 1);
      const y0 = Math.min(height - 1, last.y >> 1);
      const x1 = Math.min(width, ((last.x + last.width - 1) >> 1) + 1);
      const y1 = Math.min(height, ((last.y + last.height - 1) >> 1) + 1);
      rects.push({ x: x0, y: y0, width: Math.max(1, x1 - x0), height: Math.max(1, y1 - y0) });
    }
    return rects;
  }

  private halve(from: Source, to: MipLevel, rect: Rect): void {
    const halveRow = this.encoding === 'srgb' ? halveColours : halveValues;
    for (let y = rect.y; y < rect.y + rect.height; y++) {
      const row0 = (Math.min(from.height - 1, y * 2) - from.y) * from.stride;
      const row1 = (Math.min(from.height - 1, y * 2 + 1) - from.y) * from.stride;
      halveRow(from, row0, row1, rect.x, rect.width, to.data, (y * to.width + rect.x) * 4);
    }
  }
}

/** A level, or the part of it that begins at (x, y). */
interface Source {
  data: Uint8Array;
  x: number;
  y: number;
  /** Texels from row to row of what is there. */
  stride: number;
  /** Of the whole level. */
  width: number;
  height: number;
}

function evenPicture(texels: number, texel: number): Uint8Array {
  const data = new Uint8Array(texels * 4);
  if (texel !== 0) new Uint32Array(data.buffer).fill(texel);
  return data;
}

const packed = (rects: readonly Rect[]) => new Uint8Array(rects.reduce((n, r) => n + r.width * r.height * 4, 0));

/** The bytes of one rectangle of a level, tightly packed from `at` on. Gives where they end. */
function copyRect({ width, data }: MipLevel, rect: Rect, out: Uint8Array, at: number): number {
  for (let y = 0; y < rect.height; y++, at += rect.width * 4) {
    const from = ((rect.y + y) * width + rect.x) * 4;
    out.set(data.subarray(from, from + rect.width * 4), at);
  }
  return at;
}

/** The texel that all of them are, as one number; null: they differ. */
export function evenTexel(texels: Uint8Array, count: number): number | null {
  if (texels.byteOffset % 4 !== 0) return null;
  const all = new Uint32Array(texels.buffer, texels.byteOffset, count);
  const first = all[0];
  for (let i = 1; i < count; i++) if (all[i] !== first) return null;
  return first;
}

/** A row of a level from two rows of the one before, `count` texels from column `x` on. */
type HalveRow = (from: Source, row0: number, row1: number, x: number, count: number, out: Uint8Array, o: number) => void;

const halveValues: HalveRow = ({ data, width, x: first }, row0, row1, x, count, out, o) => {
  for (let n = 0; n < count; n++, o += 4) {
    const left = Math.min(width - 1, (x + n) * 2) - first;
    const right = Math.min(width - 1, (x + n) * 2 + 1) - first;
    const a = (row0 + left) * 4;
    const b = (row0 + right) * 4;
    const c = (row1 + left) * 4;
    const d = (row1 + right) * 4;
    out[o] = (data[a] + data[b] + data[c] + data[d] + 2) >> 2;
    out[o + 1] = (data[a + 1] + data[b + 1] + data[c + 1] + data[d + 1] + 2) >> 2;
    out[o + 2] = (data[a + 2] + data[b + 2] + data[c + 2] + data[d + 2] + 2) >> 2;
    out[o + 3] = (data[a + 3] + data[b + 3] + data[c + 3] + data[d + 3] + 2) >> 2;
  }
};

const halveColours: HalveRow = ({ data, width, x: first }, row0, row1, x, count, out, o) => {
  const linear = LINEAR_OF_SRGB8;
  for (let n = 0; n < count; n++, o += 4) {
    const left = Math.min(width - 1, (x + n) * 2) - first;
    const right = Math.min(width - 1, (x + n) * 2 + 1) - first;
    const a = (row0 + left) * 4;
    const b = (row0 + right) * 4;
    const c = (row1 + left) * 4;
    const d = (row1 + right) * 4;
    out[o] = linearToSrgb8((linear[data[a]] + linear[data[b]] + linear[data[c]] + linear[data[d]]) / 4);
    out[o + 1] = linearToSrgb8((linear[data[a + 1]] + linear[data[b + 1]] + linear[data[c + 1]] + linear[data[d + 1]]) / 4);
    out[o + 2] = linearToSrgb8((linear[data[a + 2]] + linear[data[b + 2]] + linear[data[c + 2]] + linear[data[d + 2]]) / 4);
    out[o + 3] = (data[a + 3] + data[b + 3] + data[c + 3] + data[d + 3] + 2) >> 2;
  }
};

/** A rectangle of a picture of that size from a smaller one of the whole, interpolated, tightly packed. */
export function enlarge(from: MipLevel, to: { width: number; height: number }, rect: Rect): Uint8Array {
  const between = (first: number, count: number, small: number, large: number): Between => {
    const [left, share] = [new Int32Array(count), new Int32Array(count)];
    for (let n = 0; n < count; n++) {
      const at = Math.min(small - 1, Math.max(0, ((first + n + 0.5) * small) / large - 0.5));
      left[n] = Math.floor(at);
      share[n] = ((at - left[n]) * 256) | 0;
    }
    return { left, share };
  };
  // Four columns at a time; what is too much is not taken over.
  const across = (rect.width + 3) & ~3;
  const columns = between(rect.x, across, from.width, to.width);
  const rows = between(rect.y, rect.height, from.height, to.height);
  const out = new Uint8Array(across * rect.height * 4);
  kernels().enlarge(from.data, from.width, columns, rows, out);
  return cropped(out, across, rect);
}

/** The rows of a rectangle of RGBA out of rows of `stride` texels, tightly packed. */
export function cropped(texels: Uint8Array, stride: number, { width, height }: Rect): Uint8Array {
  if (width === stride) return texels.subarray(0, width * height * 4);
  const out = new Uint8Array(width * height * 4);
  putRows(texels, stride, { x: 0, y: 0, width, height }, { width, data: out });
  return out;
}

/** The same to where the rectangle lies in a picture. */
export function putRows(
  texels: Uint8Array,
  stride: number,
  { x, y, width, height }: Rect,
  to: Pick<MipLevel, 'width' | 'data'>,
): void {
  for (let r = 0; r < height; r++)
    to.data.set(texels.subarray(r * stride * 4, (r * stride + width) * 4), ((y + r) * to.width + x) * 4);
}

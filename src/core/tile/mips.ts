/**
 * Display pyramids: 8-bit RGBA levels, each half of the one before (rounded down, at least 1).
 * Colour planes are averaged in linear light, data planes as they are. Only the changed rectangle of each
 * level is computed again, so a dab costs a third more than its own texels.
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
  /** Texel of the sheet at its top left; [0, 0] if left out. */
  origin?: [x: number, y: number];
}

export class MipPyramid {
  readonly levels: MipLevel[] = [];

  constructor(
    readonly width: number,
    readonly height: number,
    readonly encoding: 'srgb' | 'linear',
  ) {
    for (let w = width, h = height; ; w = Math.max(1, w >> 1), h = Math.max(1, h >> 1)) {
      this.levels.push({ width: w, height: h, data: new Uint8Array(w * h * 4) });
      if (w === 1 && h === 1) break;
    }
  }

  /** Recomputes what lies over `rect` of level 0; returns the rectangle of every level that changed. */
  refresh(rect: Rect): Rect[] {
    return this.over(rect, (n, part) => n > 0 && this.halve(n, part));
  }

  /** Fills what lies over `rect` of level 0 from a smaller picture of the whole, in every level. */
  enlarge(from: MipLevel, rect: Rect): Rect[] {
    return this.over(rect, (n, part) => enlarge(from, this.levels[n], part));
  }

  /** The rectangle of every level that lies over one of level 0, worked on from the largest to the smallest. */
  private over(rect: Rect, work: (n: number, part: Rect) => void): Rect[] {
    const rects: Rect[] = [];
    this.levels.forEach(({ width, height }, n) => {
      const last = rects.at(-1);
      if (!last) rects.push(rect);
      else {
        const x0 = Math.min(width - 1, last.x >> 1);
        const y0 = Math.min(height - 1, last.y >> 1);
        const x1 = Math.min(width, ((last.x + last.width - 1) >> 1) + 1);
        const y1 = Math.min(height, ((last.y + last.height - 1) >> 1) + 1);
        rects.push({ x: x0, y: y0, width: Math.max(1, x1 - x0), height: Math.max(1, y1 - y0) });
      }
      work(n, rects[n]);
    });
    return rects;
  }

  private halve(n: number, rect: Rect): void {
    const from = this.levels[n - 1];
    const to = this.levels[n];
    const halveRow = this.encoding === 'srgb' ? halveColours : halveValues;
    for (let y = rect.y; y < rect.y + rect.height; y++) {
      const row0 = Math.min(from.height - 1, y * 2) * from.width;
      const row1 = Math.min(from.height - 1, y * 2 + 1) * from.width;
      halveRow(from, row0, row1, rect.x, rect.width, to.data, (y * to.width + rect.x) * 4);
    }
  }

  /** The bytes of one rectangle of one level, tightly packed. */
  copyRect(level: number, rect: Rect, out: Uint8Array, offset: number): void {
    const { width, data } = this.levels[level];
    for (let y = 0; y < rect.height; y++) {
      const from = ((rect.y + y) * width + rect.x) * 4;
      out.set(data.subarray(from, from + rect.width * 4), offset + y * rect.width * 4);
    }
  }
}

/** A row of a level from two rows of the one before, `count` texels from column `x` on. */
type HalveRow = (from: MipLevel, row0: number, row1: number, x: number, count: number, out: Uint8Array, o: number) => void;

const halveValues: HalveRow = ({ data, width }, row0, row1, x, count, out, o) => {
  for (let n = 0; n < count; n++, o += 4) {
    const left = Math.min(width - 1, (x + n) * 2);
    const right = Math.min(width - 1, (x + n) * 2 + 1);
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

const halveColours: HalveRow = ({ data, width }, row0, row1, x, count, out, o) => {
  const linear = LINEAR_OF_SRGB8;
  for (let n = 0; n < count; n++, o += 4) {
    const left = Math.min(width - 1, (x + n) * 2);
    const right = Math.min(width - 1, (x + n) * 2 + 1);
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

/** Fills a rectangle of a picture from a smaller one of the whole, interpolated. */
export function enlarge(from: MipLevel, to: MipLevel, rect: Rect): void {
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
  for (let y = 0; y < rect.height; y++)
    to.data.set(out.subarray(y * across * 4, (y * across + rect.width) * 4), ((rect.y + y) * to.width + rect.x) * 4);
}

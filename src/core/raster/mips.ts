/**
 * Display pyramids: 8-bit RGBA levels, each half of the one before (rounded down, at least 1).
 * Colour planes are averaged in linear light, data planes as they are. Only the changed rectangle of each
 * level is computed again, so a dab costs a third more than its own texels.
 */
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
    const rects = [rect];
    for (let n = 1; n < this.levels.length; n++) {
      const { width, height } = this.levels[n];
      const last = rects[n - 1];
      const x0 = Math.min(width - 1, last.x >> 1);
      const y0 = Math.min(height - 1, last.y >> 1);
      const x1 = Math.min(width, ((last.x + last.width - 1) >> 1) + 1);
      const y1 = Math.min(height, ((last.y + last.height - 1) >> 1) + 1);
      const next = { x: x0, y: y0, width: Math.max(1, x1 - x0), height: Math.max(1, y1 - y0) };
      this.halve(n, next);
      rects.push(next);
    }
    return rects;
  }

  private halve(n: number, rect: Rect): void {
    const from = this.levels[n - 1];
    const to = this.levels[n];
    const srgb = this.encoding === 'srgb';
    for (let y = rect.y; y < rect.y + rect.height; y++) {
      const row0 = Math.min(from.height - 1, y * 2) * from.width;
      const row1 = Math.min(from.height - 1, y * 2 + 1) * from.width;
      for (let x = rect.x; x < rect.x + rect.width; x++) {
        const left = Math.min(from.width - 1, x * 2);
        const right = Math.min(from.width - 1, x * 2 + 1);
        const a = (row0 + left) * 4;
        const b = (row0 + right) * 4;
        const c = (row1 + left) * 4;
        const d = (row1 + right) * 4;
        const o = (y * to.width + x) * 4;
        const s = from.data;
        for (let ch = 0; ch < 3; ch++)
          to.data[o + ch] = srgb
            ? linearToSrgb8(
                (LINEAR_OF_SRGB8[s[a + ch]] +
                  LINEAR_OF_SRGB8[s[b + ch]] +
                  LINEAR_OF_SRGB8[s[c + ch]] +
                  LINEAR_OF_SRGB8[s[d + ch]]) /
                  4,
              )
            : (s[a + ch] + s[b + ch] + s[c + ch] + s[d + ch] + 2) >> 2;
        to.data[o + 3] = (s[a + 3] + s[b + 3] + s[c + 3] + s[d + 3] + 2) >> 2;
      }
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

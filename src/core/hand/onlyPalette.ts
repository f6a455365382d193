/** What a stroke leaves is made of the colours of a palette, in full or not at all: for small sheets, where each texel counts. */
import type { TexelRect } from '../../kernels/dabs';
import { PaletteMatch } from '../colour/palette';
import { TILE } from '../tile/tiles';

const FULL = 65535;

export class OnlyPalette {
  private readonly match: PaletteMatch;

  constructor(colours: readonly string[]) {
    this.match = new PaletteMatch(colours);
  }

  /**
   * Within a rectangle of a colour plane (16 bits, straight alpha, the sRGB curve), where the stroke covers anything: what is
   * covered by less than half is clear, the rest is the colour that looks most like it, opaque.
   */
  apply(after: Uint16Array, coverage: Float32Array, { x0, y0, x1, y1 }: TexelRect): void {
    const { match } = this;
    for (let y = y0; y < y1; y++)
      for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
        if (!(coverage[i] > 0)) continue;
        const o = i * 4;
        const there = after[o + 3] * 2 >= FULL;
        const n = there ? match.nearest(after[o], after[o + 1], after[o + 2]) : -1;
        for (let c = 0; c < 3; c++) after[o + c] = there ? match.colours[n * 3 + c] : 0;
        after[o + 3] = there ? FULL : 0;
      }
  }
}

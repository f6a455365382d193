/** Values broken up by a noise that lies in the model's space, and then sharpened: worn edges are never even. */
import type { Breakup } from '../../kinds/steps/step';
import { SOURCES, type Made } from '../../kinds/sources';
import { kernels } from '../../kernels';
import { sizeOf } from '../../mesh/model';
import type { Rect } from '../../tile/mips';
import { TILE, tileX, tileY, type TileIndex } from '../../tile/tiles';
import type { State } from '../planes';
import type { At, Moment, Node, Scope } from '../scope';
import { mixSignature, type Signature } from '../signature';
import { InnerNode } from './inner';

/** Clouds keep to the middle: spread over 0 … 1. */
const spread = (v: number): number => {
  const s = (v - 0.5) * 2.2 + 0.5;
  return s < 0 ? 0 : s > 1 ? 1 : s;
};

export class BrokenNode extends InnerNode implements Node {
  readonly text: string;

  constructor(
    scope: Scope,
    private by: Breakup,
  ) {
    super(scope);
    this.text = `broken ${JSON.stringify(by)}`;
  }

  override part(at: Moment, tile: TileIndex): Signature {
    const below = super.part(at, tile);
    return this.by.breakup > 0 ? mixSignature(below, at.place(tile)) : below;
  }

  evaluate(at: At, tile: TileIndex, rect: Rect): State {
    const inner = at.run(this.scope, tile, rect);
    const { contrast, breakup } = this.by;
    // What is nothing stays nothing.
    if (inner.even && inner.even[0] <= 0) return { even: [0, 1], acc: null };
    const n = rect.width * rect.height;
    const out = kernels().floats(n * 2);
    out.fill(1, n);
    if (inner.even) out.fill(inner.even[0], 0, n);
    else out.set(inner.acc!.subarray(0, n));
    // What is sharpened is the middle of the slope.
    const half = 0.5 * (1 - contrast) + 0.005;
    // Nothing comes of what no noise lifts to the slope's foot.
    if (breakup > 0) this.breakUp(at, tile, rect, out, Math.max(0, 0.5 - half - 0.3 * breakup));
    const nothing = breakup > 0 ? NOTHING_LEFT : 0;
    for (let i = 0; i < n; i++) {
      const v = out[i];
      const t = (v - (0.5 - half)) / (2 * half);
      if (v <= nothing || t <= 0) out[i] = 0;
      else if (t < 1) out[i] = t * t * (3 - 2 * t);
      else out[i] = 1;
    }
    return { even: null, acc: out };
  }

  /** The noise leaves gaps even where the value is whole, from a half of it on. It is asked only where there is any value. */
  private breakUp(at: At, tile: TileIndex, rect: Rect, out: Float32Array, foot: number): void {
    const { breakup } = this.by;
    const n = rect.width * rect.height;
    const texel = new Int32Array(n);
    const where = new Int32Array(n);
    let count = 0;
    for (let y = 0, i = 0; y < rect.height; y++)
      for (let x = 0; x < rect.width; x++, i++) {
        if (out[i] <= foot) {
          out[i] = NOTHING_LEFT;
          continue;
        }
        where[count] = i;
        texel[count++] = (rect.y + y) * TILE + rect.x + x;
      }
    if (count === 0) return;
    const mark = kernels().mark();
    try {
      const noise = this.noiseAt(at, tile, texel, count);
      for (let k = 0; k < count; k++) out[where[k]] -= breakup * (1.8 * spread(noise[k]) - 0.3);
    } finally {
      kernels().release(mark);
    }
  }

  /** The noise at some texels of a tile: where they lie on the model, or over the sheet. */
  private noiseAt({ sheet, surface }: At, tile: TileIndex, texel: Int32Array, count: number): Float32Array {
    const size = surface ? sizeOf(surface) * this.by.grain : this.by.grain * 2;
    const places = surface?.tiles.get(tile)?.position;
    const n = (count + 3) & ~3;
    const [x, y, z, out] = [0, 1, 2, 3].map(() => kernels().floats(n));
    if (places) {
      kernels().spaced(places, texel.subarray(0, count), [0, 0, 0], size, x, y, z);
      // Off the islands of a tile anything will do.
      for (let i = 0; i < n; i++) if (!(x[i] + y[i] + z[i] > -Infinity)) x[i] = y[i] = z[i] = 0;
    } else {
      z.fill(0);
      for (let i = 0; i < n; i++) {
        const t = texel[i < count ? i : count - 1];
        x[i] = (tileX(tile) * TILE + (t % TILE) + 0.5) / sheet.width / size;
        y[i] = (tileY(tile) * TILE + Math.floor(t / TILE) + 0.5) / sheet.height / size;
      }
    }
    const made: Made = { ...SOURCES.clouds.start, octaves: 4, seed: this.by.seed } as Made;
    SOURCES.clouds.fill(made, { n, x, y, z, flat: false, period: [0, 0], texel: 0.01, below: null }, out);
    return out;
  }
}

/** Lower than any value that a noise leaves: there was nothing to begin with. */
const NOTHING_LEFT = -10;

/** Values broken up by a noise that lies in the model's space, and then sharpened: worn edges are never even. */
import type { Breakup } from '../../kinds/steps/step';
import { placementSchema } from '../../kinds/placement';
import { SOURCES } from '../../kinds/sources';
import { kernels } from '../../kernels';
import type { Rect } from '../../tile/mips';
import { TILE, type TileIndex } from '../../tile/tiles';
import { madeTile } from '../made';
import type { State } from '../planes';
import type { At, Node, Scope } from '../scope';
import { mixSignature, textSignature, type Signature } from '../signature';
import { InnerNode } from './inner';
import { sizeOf } from './shape';

/** Clouds keep to the middle: spread over 0 … 1. */
const spread = (v: number): number => {
  const s = (v - 0.5) * 2.2 + 0.5;
  return s < 0 ? 0 : s > 1 ? 1 : s;
};

export class BrokenNode extends InnerNode implements Node {
  readonly text: string;
  private readonly noise: Signature;

  constructor(
    scope: Scope,
    private by: Breakup,
  ) {
    super(scope);
    this.text = `broken ${JSON.stringify(by)}`;
    this.noise = textSignature(`breakup ${by.grain} ${by.seed}`);
  }

  override part(at: At, tile: TileIndex): Signature {
    const below = super.part(at, tile);
    return this.by.breakup > 0 ? mixSignature(below, at.place(tile)) : below;
  }

  evaluate(at: At, tile: TileIndex, rect: Rect): State {
    const n = rect.width * rect.height;
    const inner = at.run(this.scope, tile, rect);
    const { contrast, breakup } = this.by;
    const out = kernels().floats(n * 2);
    out.fill(1, n);
    if (inner.even) out.fill(inner.even[0], 0, n);
    else out.set(inner.acc!.subarray(0, n));
    const noise = breakup > 0 ? this.tile(at, tile) : null;
    // What is sharpened is the middle of the slope. The noise leaves gaps even where the value is whole, from a half of it on.
    const half = 0.5 * (1 - contrast) + 0.005;
    for (let y = 0, i = 0; y < rect.height; y++)
      for (let x = 0; x < rect.width; x++, i++) {
        let v = out[i];
        if (noise) v -= breakup * (1.8 * spread(noise[(rect.y + y) * TILE + rect.x + x]) - 0.3);
        const t = (v - (0.5 - half)) / (2 * half);
        const s = t < 0 ? 0 : t > 1 ? 1 : t;
        out[i] = out[i] <= 0 ? 0 : s * s * (3 - 2 * s);
      }
    return { even: null, acc: out };
  }

  private tile(at: At, tile: TileIndex): Float32Array {
    const key = mixSignature(this.noise, at.place(tile));
    const value = at.cached(key, () => {
      const { sheet, surface } = at;
      const size = surface ? sizeOf(surface) * this.by.grain : 1;
      const placement = surface
        ? placementSchema.parse({ by: 'solid', size })
        : placementSchema.parse({ by: 'uv', repeats: Math.min(256, Math.max(1, Math.round(0.5 / this.by.grain))) });
      const clouds = { ...SOURCES.clouds.start, seed: this.by.seed };
      return { uniform: null, data: madeTile(clouds, placement, sheet, surface, tile) };
    });
    return value.data!;
  }
}

/** How like one of some colours those of a scope are: by distance in OKLab, or the same code of 8 bits where no distance is allowed. */
import { linearToOklab, type Lab } from '../../colour/oklab';
import { codeOfRgb, fastLinear, srgbToLinear } from '../../colour/transfer';
import { kernels } from '../../kernels';
import { step } from '../../kinds/sources/source';
import type { Rect } from '../../tile/mips';
import type { TileIndex } from '../../tile/tiles';
import type { State } from '../planes';
import type { At, Node, Scope } from '../scope';
import { InnerNode } from './inner';

const lab: Lab = { l: 0, a: 0, b: 0 };

export class LikeColoursNode extends InnerNode implements Node {
  readonly text: string;
  private readonly wanted: readonly Lab[];
  private readonly codes: ReadonlySet<number>;

  /** `colours`: RGB in the sRGB curve. */
  constructor(
    scope: Scope,
    colours: readonly (readonly number[])[],
    private tolerance: number,
    private soft: number,
  ) {
    super(scope);
    this.text = `like ${colours.join(' ')} ${tolerance} ${soft}`;
    this.codes = new Set(colours.map(([r, g, b]) => codeOfRgb(r, g, b)));
    this.wanted = colours.map(([r, g, b]) => {
      const to: Lab = { l: 0, a: 0, b: 0 };
      linearToOklab(srgbToLinear(r), srgbToLinear(g), srgbToLinear(b), to);
      return to;
    });
  }

  evaluate(at: At, tile: TileIndex, rect: Rect): State {
    const { even, acc } = at.run(this.scope, tile, rect);
    const planes = acc!;
    if (even) return { even: [this.share(even[0], even[1], even[2]), even[3] ?? 1], acc: null };
    const n = rect.width * rect.height;
    const out = kernels().floats(n * 2);
    for (let i = 0; i < n; i++) {
      const same =
        i > 0 &&
        planes[i] === planes[i - 1] &&
        planes[n + i] === planes[n + i - 1] &&
        planes[2 * n + i] === planes[2 * n + i - 1];
      out[i] = same ? out[i - 1] : this.share(planes[i], planes[n + i], planes[2 * n + i]);
    }
    out.set(planes.subarray(3 * n, 4 * n), n);
    return { even: null, acc: out };
  }

  private share(r: number, g: number, b: number): number {
    if (this.tolerance === 0 && this.soft === 0) return this.codes.has(codeOfRgb(r, g, b)) ? 1 : 0;
    linearToOklab(fastLinear(r), fastLinear(g), fastLinear(b), lab);
    let square = Infinity;
    for (const { l, a, b: c } of this.wanted) {
      const [x, y, z] = [lab.l - l, lab.a - a, lab.b - c];
      square = Math.min(square, x * x + y * y + z * z);
    }
    const d = Math.sqrt(square);
    if (d <= this.tolerance) return 1;
    return this.soft > 0 ? step(this.tolerance + this.soft, this.tolerance, d) : 0;
  }
}

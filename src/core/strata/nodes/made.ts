/** A rule, laid by its placement, and what a cell makes of its values. */
import { kernels } from '../../kernels';
import { rampOver } from '../../kinds/filters/ramp';
import { PLAIN, type Placement } from '../../kinds/placement';
import type { Made } from '../../kinds/sources';
import type { Rect } from '../../tile/mips';
import type { TileIndex } from '../../tile/tiles';
import { isSpace, madeTile } from '../made';
import type { State } from '../planes';
import type { SeenTexels, At, Moment, Node, Scope } from '../scope';
import { mixSignature, textSignature, type Signature } from '../signature';
import type { TileValue } from '../tileCache';

/** What a source of values becomes: a value or colour from `low` to `high`, or a colour along a ramp. */
export interface Spread {
  low: readonly number[];
  high: readonly number[];
  ramp: readonly { at: number; colour: readonly number[] }[] | null;
}

export class MadeNode implements Node {
  readonly text: string;
  readonly planes = [];
  readonly scopes = [];
  private readonly placement: Placement;
  /** Of the values by themselves, whatever they become. */
  private readonly ruleKey: Signature;

  constructor(
    private made: Made,
    placement: Placement | null,
    private spread: Spread,
  ) {
    this.placement = placement ?? PLAIN;
    this.ruleKey = textSignature(`${JSON.stringify(made)} ${JSON.stringify(this.placement)}`);
    this.text = `made ${this.ruleKey} ${JSON.stringify(spread)}`;
  }

  part(at: Moment, tile: TileIndex): Signature {
    return at.place(tile);
  }

  evaluate(at: At, tile: TileIndex, rect: Rect, { channels }: Pick<Scope, 'channels'>, asked?: SeenTexels | null): State {
    return spreadOver(this.spread, at.cut(1, this.values(at, tile, asked), rect), rect.width * rect.height, channels);
  }

  /** The values by themselves: all maps of a coat ask for the same. Of the whole tile if they are at hand, else where they are seen. */
  private values(at: At, tile: TileIndex, asked: SeenTexels | null | undefined): TileValue {
    const whole = mixSignature(this.ruleKey, at.place(tile));
    const some = asked && mixSignature(whole, asked.signature);
    const known = at.known(whole) ?? (some && at.known(some));
    if (known) return known;
    const where = asked && isSpace(this.made, this.placement, at.surface) ? asked.where() : null;
    if (some && where && isFew(where)) return at.cached(some, () => this.tile(at, tile, where));
    return at.cached(whole, () => this.tile(at, tile, null));
  }

  private tile({ sheet, surface }: At, tile: TileIndex, where: Float32Array | null): TileValue {
    const data = madeTile(this.made, this.placement, sheet, surface, tile, where);
    for (let i = 1; i < data.length; i++) if (data[i] !== data[0]) return { uniform: null, data };
    return { uniform: [data[0]], data: null };
  }
}

/** So few texels that it pays to make a list of them. */
function isFew(where: Float32Array): boolean {
  let count = 0;
  for (let i = 0; i < where.length; i++) if (where[i] !== 0) count++;
  return count < where.length * 0.85;
}

/** What a cell makes of a rule's values over `n` texels: between two values, or along a ramp. Solid. */
function spreadOver({ low, high, ramp }: Spread, values: State, n: number, channels: 1 | 3): State {
  if (values.even) {
    // As planes would have it, to the bit.
    const four = spreadOver({ low, high, ramp }, { even: null, acc: new Float32Array(4).fill(values.even[0]) }, 4, channels);
    return { even: Array.from({ length: channels + 1 }, (_, c) => four.acc![c * 4]), acc: null };
  }
  const acc = kernels().floats(n * (channels + 1));
  const t = values.acc!;
  if (ramp) rampOver(ramp, t, n, acc);
  else for (let c = 0; c < channels; c++) kernels().affine(acc.subarray(c * n, (c + 1) * n), t, low[c], high[c] - low[c]);
  acc.fill(1, channels * n);
  return { even: null, acc };
}

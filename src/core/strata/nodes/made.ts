/** A rule, laid by its placement, and what a cell makes of its values. */
import { kernels } from '../../kernels';
import { rampAt, rampOver } from '../../kinds/filters/ramp';
import { PLAIN, type Placement } from '../../kinds/placement';
import type { Made } from '../../kinds/sources';
import type { Rect } from '../../tile/mips';
import type { TileIndex } from '../../tile/tiles';
import { madeTile } from '../made';
import type { State } from '../planes';
import type { At, Node, Scope } from '../scope';
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

  part(at: At, tile: TileIndex): Signature {
    return at.place(tile);
  }

  evaluate(at: At, tile: TileIndex, rect: Rect, { channels }: Pick<Scope, 'channels'>): State {
    const values = at.cached(mixSignature(this.ruleKey, at.place(tile)), () => this.tile(at, tile));
    return spreadOver(this.spread, at.cut(1, values, rect), rect.width * rect.height, channels);
  }

  /** The values by themselves: all maps of a coat ask for the same. */
  private tile({ sheet, surface }: At, tile: TileIndex): TileValue {
    const data = madeTile(this.made, this.placement, sheet, surface, tile);
    for (let i = 1; i < data.length; i++) if (data[i] !== data[0]) return { uniform: null, data };
    return { uniform: [data[0]], data: null };
  }
}

/** What a cell makes of a rule's values over `n` texels: between two values, or along a ramp. Solid. */
function spreadOver({ low, high, ramp }: Spread, values: State, n: number, channels: 1 | 3): State {
  if (values.even) {
    const t = values.even[0];
    const colour = [0, 0, 0];
    if (ramp) rampAt(ramp, t, colour);
    return { even: [...(ramp ? colour : low.map((v, c) => v + (high[c] - v) * t)), 1], acc: null };
  }
  const acc = kernels().floats(n * (channels + 1));
  const t = values.acc!;
  if (ramp) rampOver(ramp, t, n, acc);
  else for (let c = 0; c < channels; c++) kernels().affine(acc.subarray(c * n, (c + 1) * n), t, low[c], high[c] - low[c]);
  acc.fill(1, channels * n);
  return { even: null, acc };
}

/** Levels: what is black, what is white, and how the middle leans. */
import { z } from 'zod';
import { fromTable } from '../../colour/transfer';
import { unit } from '../fields';
import { kernels } from '../../kernels';
import { TABLE_STEPS, tableOf, type FilterDef } from './filter';

const schema = z.object({
  type: z.literal('levels'),
  black: unit,
  white: unit,
  /** Above 1 lifts the middle, below 1 lowers it. */
  gamma: z.number().min(0.1).max(10),
  outBlack: unit,
  outWhite: unit,
});
type Levels = z.infer<typeof schema>;

/** Black above white turns the picture round, as crossing the handles suggests. */
const spanOf = ({ black, white }: Pick<Levels, 'black' | 'white'>): number =>
  Math.abs(white - black) < 1 / 65535 ? 1 / 65535 : white - black;

/** Below this a power's slope is too steep for a table: there |f''| is 3,400 at most (γ = 10), which makes 1e-7. */
const STEEP = 1 / 256;

export const levels: FilterDef<Levels> = {
  type: 'levels',
  label: 'Levels',
  hint: 'Sets what is black and what is white, and leans the middle.',
  schema,
  start: { type: 'levels', black: 0, white: 1, gamma: 1, outBlack: 0, outWhite: 1 },
  controls: [],
  fits: (kind) => kind !== 'normal',
  apply: (data, texels, kind, p) => {
    const count = kind === 'value' ? texels : texels * 3;
    const { black, gamma, outBlack } = p;
    const span = spanOf(p);
    const out = p.outWhite - outBlack;
    const power = 1 / gamma;
    if (gamma === 1 && count % 4 === 0) return kernels().stretched(data.subarray(0, count), black, span, outBlack, out);
    const table = gamma === 1 ? null : tableOf({ power }, () => (v) => Math.pow(v, power));
    for (let i = 0; i < count; i++) {
      const in01 = (data[i] - black) / span;
      let v = in01 <= 0 ? 0 : in01 >= 1 ? 1 : in01;
      if (table && v >= STEEP) v = fromTable(table, TABLE_STEPS, v);
      else if (table && v > 0) v = Math.pow(v, power);
      data[i] = outBlack + out * v;
    }
  },
};

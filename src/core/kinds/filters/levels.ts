/** Levels: what is black, what is white, and how the middle leans. */
import { z } from 'zod';
import { unit } from '../fields';
import { kernels } from '../../kernels';
import { powersOf } from '../../../kernels/rules';
import { keptTable, type FilterDef } from './filter';

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
    if (count % 4 === 0) {
      const values = data.subarray(0, count);
      if (gamma === 1) kernels().stretched(values, black, span, outBlack, out);
      else
        kernels().powered(
          values,
          black,
          span,
          outBlack,
          out,
          keptTable(`power ${power}`, () => powersOf(power)),
        );
      return;
    }
    for (let i = 0; i < count; i++)
      data[i] = outBlack + out * Math.pow(Math.min(1, Math.max(0, (data[i] - black) / span)), power);
  },
};

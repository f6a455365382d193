/** Levels: what is black, what is white, and how the middle leans. */
import { z } from 'zod';
import { unit } from '../fields';
import { tableOf, throughTable, type FilterDef } from './filter';

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

export function levelsCurve({ black, white, gamma, outBlack, outWhite }: Levels): (v: number) => number {
  // Black above white turns the picture round, as crossing the handles suggests.
  const span = Math.abs(white - black) < 1 / 65535 ? 1 / 65535 : white - black;
  return (v) => outBlack + (outWhite - outBlack) * Math.pow(Math.min(1, Math.max(0, (v - black) / span)), 1 / gamma);
}

export const levels: FilterDef<Levels> = {
  type: 'levels',
  label: 'Levels',
  hint: 'Sets what is black and what is white, and leans the middle.',
  schema,
  start: { type: 'levels', black: 0, white: 1, gamma: 1, outBlack: 0, outWhite: 1 },
  controls: [],
  fits: (kind) => kind !== 'normal',
  apply: (data, texels, kind, p) =>
    throughTable(
      data,
      texels,
      kind,
      tableOf(p, () => levelsCurve(p)),
    ),
};

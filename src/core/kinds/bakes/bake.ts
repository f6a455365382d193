/**
 * What a model knows about itself, as a picture: what there is to bake, how it is set and what its values mean. How each is
 * worked out stands in core/bake/kinds, a file beside its like. Lengths are shares of the model's size, its longest side.
 */
import type { z } from 'zod';
import type { Control } from '../control';

export interface BakeDef<P extends { type: string } = { type: string }> {
  type: P['type'];
  label: string;
  hint: string;
  /** `value`: grey. `direction`: each axis −1 … 1 as 0 … 1, unit. `id`: colours that stand for something, never mixed. `colour`: sRGB. */
  values: 'value' | 'direction' | 'id' | 'colour';
  /** What it can be baked from: the model itself, a dense twin of it. */
  from: { model: boolean; twin: boolean };
  /** It begins with the model itself even where the sheet's other bakes have a dense twin. */
  byItself?: true;
  schema: z.ZodType<P>;
  start: P;
  controls: readonly Control[];
  /** Words of a file's name that mean it, apart by spaces. */
  fileWords: RegExp;
}

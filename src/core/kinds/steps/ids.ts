/** What has some flat colours in the bake of ids: parts, materials, islands, or whatever a map from elsewhere tells apart. */
import { z } from 'zod';
import { unit } from '../fields';
import type { StepDef } from './step';

export const MOST_IDS = 64;
const idsSchema = z.object({
  type: z.literal('ids'),
  /** RGB in the sRGB curve. */
  colours: z.array(z.tuple([unit, unit, unit])).max(MOST_IDS),
  /** For maps from elsewhere, whose colours may be worn by filters or by packing: distance in OKLab, in which black to white is 1. */
  tolerance: unit.default(0.03),
});
export const ids: StepDef<z.infer<typeof idsSchema>> = {
  type: 'ids',
  schema: idsSchema,
  word: ({ colours }) => (colours.length === 1 ? 'one id' : colours.length === 0 ? 'no id yet' : `${colours.length} ids`),
  anywhere: false,
  compile: (p, build) => {
    if (p.colours.length === 0) return build.value(0);
    const baked = build.bakedColours('ids');
    // Our own bakes hold exact codes, some of them neighbours: a tolerance would take others along.
    return baked && build.likeColours(baked, p.colours, build.bakedElsewhere('ids') ? p.tolerance : 0, 0);
  },
};

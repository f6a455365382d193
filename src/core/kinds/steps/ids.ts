/** What has some flat colours in the bake of ids: parts, materials, islands, or whatever a map from elsewhere tells apart. */
import { z } from 'zod';
import { percent } from '../control';
import { unit } from '../fields';
import type { StepDef } from './step';

const MOST_IDS = 64;

type Colour = [number, number, number];
const START = { type: 'ids' as const, colours: [] as Colour[], tolerance: 0.03 };
const idsSchema = z.object({
  type: z.literal('ids'),
  /** RGB in the sRGB curve. */
  colours: z.array(z.tuple([unit, unit, unit])).max(MOST_IDS),
  /** For maps from elsewhere, whose colours may be worn by filters or by packing: distance in OKLab, in which black to white is 1. */
  tolerance: unit.default(START.tolerance),
});
export const ids: StepDef<z.infer<typeof idsSchema>> = {
  type: 'ids',
  schema: idsSchema,
  start: START,
  controls: [{ ...percent('tolerance', 'Tolerance'), digits: 1 }],
  word: ({ colours }) => (colours.length === 1 ? 'one id' : colours.length === 0 ? 'no id yet' : `${colours.length} ids`),
  asks: () => ({ bake: 'ids' }),
  pick: { of: 'ids', colourOf: 'ids', take: (p, { colour }) => takeColour(p, colour) },
  anywhere: false,
  compile: (p, build) => {
    if (p.colours.length === 0) return build.value(0);
    const baked = build.bakedColours('ids');
    // Our own bakes hold exact codes, some of them neighbours: a tolerance would take others along.
    return baked && build.likeColours(baked, p.colours, build.bakedElsewhere('ids') ? p.tolerance : 0, 0);
  },
};

/** The colour of an id goes in, or out again. */
function takeColour(p: z.infer<typeof idsSchema>, colour: Colour | null): { step: typeof p; label: string } | string {
  if (!colour) return 'There is no id under the pointer: bake the ids first, then click on an island.';
  const rest = p.colours.filter((c) => c.some((v, k) => Math.abs(v - colour[k]) > 1e-4));
  const out = rest.length < p.colours.length;
  if (!out && rest.length >= MOST_IDS) return `Up to ${MOST_IDS} ids go into one step: add another step for more.`;
  return { step: { ...p, colours: out ? rest : [...rest, colour] }, label: out ? 'one id less' : 'an id' };
}

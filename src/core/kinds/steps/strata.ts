/** Steps made from the strata themselves: another layer, a map below, where the layer touches what is below, another mask. */
import { z } from 'zod';
import { percent } from '../control';
import { id, mapId, unit } from '../fields';
import type { Filter } from '../filters';
import { greyControl, greySchema } from '../grey';
import { COLOUR_MAP, mapInfo, type MapId } from '../maps';
import { NORMAL_FROM } from '../shown';
import { NO_RECORD, type Names, type StepDef } from './step';

const mapWord = (map: MapId, { ownMaps }: Names) => mapInfo(map, ownMaps).label.toLowerCase();

/** Another layer by itself: its alpha, or what it says on a map. */
const layerSchema = z.object({
  type: z.literal('layer'),
  of: id,
  map: mapId,
  take: z.enum(['alpha', 'value']),
  by: greySchema.default('luminance'),
});
export const layer: StepDef<z.infer<typeof layerSchema>> = {
  type: 'layer',
  schema: layerSchema,
  start: { type: 'layer', of: NO_RECORD, map: COLOUR_MAP, take: 'alpha', by: 'luminance' },
  controls: [{ ...greyControl('by', 'Takes'), where: { take: 'value' } }],
  word: (p, names) => {
    const name = names.layers.find((l) => l.id === p.of)?.name ?? 'a layer that is gone';
    return p.take === 'alpha' ? name : `${name}, ${mapWord(p.map, names)}`;
  },
  asks: (p) => ({ layers: [p.of] }),
  renamed: (p, to) => ({ ...p, of: to.layer(p.of) }),
  anywhere: false,
  compile: (p, build) => {
    const scope = build.alone(p.of, p.map);
    if (!scope) return null;
    return p.take === 'alpha' ? build.alpha(scope) : build.asValue(scope, p.by);
  },
};

/** What lies below the layer that the mask is on. */
const belowSchema = z.object({ type: z.literal('below'), map: mapId, by: greySchema.default('luminance') });
export const below: StepDef<z.infer<typeof belowSchema>> = {
  type: 'below',
  schema: belowSchema,
  start: { type: 'below', map: COLOUR_MAP, by: 'luminance' },
  controls: [greyControl('by', 'Takes')],
  word: (p, names) => `${mapWord(p.map, names)} below`,
  asks: () => ({ below: true }),
  anywhere: true,
  compile: (p, build) => {
    const scope = build.below(p.map);
    return scope && build.asValue(scope, p.by);
  },
};

/**
 * Where the layer's own height rises above what lies below: `offset` lifts it, `contrast` hardens the contact.
 * `line`: only a line along the contact, so wide (in height), 0: all that rises above.
 */
const contactSchema = z.object({ type: z.literal('contact'), offset: z.number().min(-1).max(1), contrast: unit, line: unit });
export const contact: StepDef<z.infer<typeof contactSchema>> = {
  type: 'contact',
  schema: contactSchema,
  start: { type: 'contact', offset: 0, contrast: 0.7, line: 0 },
  controls: [percent('offset', 'Offset', -1), percent('contrast', 'Contrast'), percent('line', 'Line')],
  word: (p) => (p.line > 0 ? 'contact line' : 'higher than below'),
  asks: () => ({ below: true }),
  anywhere: true,
  compile: (p, build) => {
    const own = build.own(NORMAL_FROM.relief);
    const under = own && build.below(NORMAL_FROM.relief);
    if (!own || !under) return null;
    // Half of own height less that below, around 0.5; then what rises above is cut out of it.
    const middle = 0.5 - p.offset / 2;
    // At contrast 0 the contact is half of the whole range of height wide, at 1 as sharp as 1/100 of it.
    const wide = 0.25 * (1 - p.contrast) + 0.005;
    const cut: Filter =
      p.line > 0
        ? { type: 'band', centre: middle, width: p.line / 2, soften: wide }
        : { type: 'levels', black: middle - wide / 2, white: middle + wide / 2, gamma: 1, outBlack: 0, outWhite: 1 };
    return build.laid([{ scope: own }, { scope: under, filters: [{ type: 'invert' }], opacity: 0.5 }], [cut]);
  },
};

/** Another mask of the sheet, linked. */
const maskSchema = z.object({ type: z.literal('mask'), of: id });
export const mask: StepDef<z.infer<typeof maskSchema>> = {
  type: 'mask',
  schema: maskSchema,
  start: { type: 'mask', of: NO_RECORD },
  controls: [],
  word: (p, { masks }) => masks.find((m) => m.id === p.of)?.name ?? 'a mask that is gone',
  asks: (p) => ({ masks: [p.of] }),
  renamed: (p, to) => ({ ...p, of: to.mask(p.of) }),
  anywhere: false,
  compile: (p, build) => {
    const scope = build.mask(p.of);
    return scope && build.asValue(scope, 'luminance');
  },
};

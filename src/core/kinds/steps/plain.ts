/** Steps that look at nothing else: an even value, own paint, a rule, a picture. */
import { z } from 'zod';
import { percent } from '../control';
import { pictureUseSchema, unit } from '../fields';
import { inSpace, placementSchema } from '../placement';
import { madeSchema, SOURCES } from '../sources';
import { NO_RECORD, type StepDef } from './step';

const constantSchema = z.object({ type: z.literal('constant'), value: unit });
export const constant: StepDef<z.infer<typeof constantSchema>> = {
  type: 'constant',
  schema: constantSchema,
  start: { type: 'constant', value: 0.5 },
  controls: [percent('value', 'Value')],
  word: ({ value }) => `${Math.round(value * 100)} %`,
  anywhere: true,
  compile: ({ value }, build) => build.value(value),
};

/** Its pixels are the plane that goes by the step's own id. */
const paintSchema = z.object({ type: z.literal('paint') });
export const paint: StepDef<z.infer<typeof paintSchema>> = {
  type: 'paint',
  schema: paintSchema,
  start: { type: 'paint' },
  controls: [],
  word: () => 'painted',
  painted: true,
  anywhere: true,
  compile: (_, build) => build.paint(),
};

const madeStepSchema = z.object({
  type: z.literal('made'),
  made: madeSchema,
  placement: placementSchema.nullable().default(null),
});
export const made: StepDef<z.infer<typeof madeStepSchema>> = {
  type: 'made',
  schema: madeStepSchema,
  start: { type: 'made', made: SOURCES.clouds.start, placement: null },
  controls: [],
  word: (p) => SOURCES[p.made.type].label.toLowerCase(),
  onSurface: (p) => inSpace(p.placement) || SOURCES[p.made.type].where(p.made) === 'model',
  anywhere: true,
  compile: (p, build) => build.made(p.made, p.placement),
};

const pictureStepSchema = z.object({
  type: z.literal('picture'),
  use: pictureUseSchema,
  placement: placementSchema.nullable().default(null),
});
export const picture: StepDef<z.infer<typeof pictureStepSchema>> = {
  type: 'picture',
  schema: pictureStepSchema,
  start: { type: 'picture', use: { picture: NO_RECORD, take: 'luminance', neutral: 0 }, placement: null },
  controls: [],
  word: ({ use }, { pictures }) => pictures.find((p) => p.id === use.picture)?.name ?? 'a picture that is gone',
  asks: ({ use }) => ({ pictures: [use.picture] }),
  renamed: (p, to) => ({ ...p, use: { ...p.use, picture: to.picture(p.use.picture) } }),
  onSurface: (p) => inSpace(p.placement),
  anywhere: false,
  compile: (p, build) => build.picture(p.use, p.placement),
};

/** A colour for each part, material or island, to pick by. */
import { z } from 'zod';
import type { BakeDef } from './bake';

const idSchema = z.object({
  type: z.literal('ids'),
  of: z.enum(['part', 'material', 'island']).default('part'),
  /** Version of how ids get colours. 2: no two are alike. Older bakes lack the field and are therefore out of date. */
  colours: z.literal(2).default(2),
});
export type Ids = z.infer<typeof idSchema>;
export const ids: BakeDef<Ids> = {
  type: 'ids',
  label: 'Ids',
  hint: 'A flat colour for each part, material or UV island.',
  values: 'id',
  from: { model: true, twin: true },
  byItself: true,
  schema: idSchema,
  start: { type: 'ids', of: 'part', colours: 2 },
  controls: [
    {
      kind: 'choice',
      key: 'of',
      label: 'Of',
      options: [
        { value: 'part', label: 'Parts' },
        { value: 'material', label: 'Materials' },
        { value: 'island', label: 'UV islands' },
      ],
    },
  ],
  fileWords: /^(ids?|id ?map|colou?r ?id|mat ?id|part ?id)$/,
};

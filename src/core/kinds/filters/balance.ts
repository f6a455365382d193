/** Colour balance: pushes shadows, middle tones and lights each towards a colour. */
import { z } from 'zod';
import { lum, WHOLE } from '../../colour/blend';
import { TONE_RANGES, TONE_SHARE, type ToneRange } from '../../colour/ranges';
import { percent } from '../control';
import type { FilterDef } from './filter';

const signed = z.number().min(-1).max(1);
const AXES = ['Red', 'Green', 'Blue'] as const;
type Key = `${ToneRange}${(typeof AXES)[number]}`;

const schema = z.object({
  type: z.literal('balance'),
  /** −1 towards the opposite (cyan, magenta, yellow), 1 towards the primary itself. */
  ...(Object.fromEntries(TONE_RANGES.flatMap((r) => AXES.map((a) => [`${r}${a}`, signed]))) as Record<Key, typeof signed>),
  keep: z.enum(['lightness', 'nothing']),
});

/** Texels at full push go so far, in the sRGB curve. */
const MOST = 0.5;

export const balance: FilterDef<z.infer<typeof schema>> = {
  type: 'balance',
  label: 'Colour balance',
  hint: 'Pushes shadows, middle tones and lights each towards a colour, or away to its opposite.',
  schema,
  start: {
    type: 'balance',
    ...(Object.fromEntries(TONE_RANGES.flatMap((r) => AXES.map((a) => [`${r}${a}`, 0]))) as Record<Key, number>),
    keep: 'lightness',
  },
  controls: [
    ...TONE_RANGES.flatMap((range) =>
      AXES.map((axis) => percent(`${range}${axis}`, `${range[0].toUpperCase()}${range.slice(1)} ${axis[0]}`, -1)),
    ),
    {
      kind: 'choice',
      key: 'keep',
      label: 'Keeps',
      options: [
        { value: 'lightness', label: 'how light it is' },
        { value: 'nothing', label: 'nothing' },
      ],
    },
  ],
  fits: (kind) => kind === 'colour',
  apply: (data, texels, kind, p) => {
    if (kind !== 'colour') return;
    const push = AXES.map((axis) => TONE_RANGES.map((range) => p[`${range}${axis}`] * MOST));
    if (push.flat().every((v) => v === 0)) return;
    const was = [0, 0, 0];
    const now = [0, 0, 0];
    for (let i = 0; i < texels; i++) {
      for (let k = 0; k < 3; k++) was[k] = data[k * texels + i];
      const light = lum(was);
      const [shadows, middle, lights] = [TONE_SHARE.shadows(light), TONE_SHARE.middle(light), TONE_SHARE.lights(light)];
      for (let k = 0; k < 3; k++) {
        const v = was[k] + push[k][0] * shadows + push[k][1] * middle + push[k][2] * lights;
        now[k] = v < 0 ? 0 : v > 1 ? 1 : v;
      }
      // W3C Compositing, 10.2: the luminosity of what was.
      if (p.keep === 'lightness') WHOLE.luminosity(now, was, now);
      for (let k = 0; k < 3; k++) data[k * texels + i] = now[k];
    }
  },
};

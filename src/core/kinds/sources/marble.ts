/** Bands bent by noise, as in marble: K. Perlin, "An Image Synthesizer", SIGGRAPH 1985, with veins where the sine crosses zero. */
import { z } from 'zod';
import { number, percent } from '../control';
import { fractal, seed } from './noise';
import type { SourceDef } from './source';

const schema = z.object({
  type: z.literal('marble'),
  seed,
  /** Bands a repeat, across x. */
  bands: z.number().min(0.1).max(256),
  /** Cells of the noise a repeat. */
  scale: z.number().min(0.01).max(4096),
  octaves: z.number().int().min(1).max(8),
  /** How many bands the noise pushes them at most. */
  bend: z.number().min(0).max(16),
  /** 0: bands as wide as their gaps; 1: thin veins. */
  sharpness: z.number().min(0).max(1),
});

/** Whole bands in as many repeats as it takes to come round; `period` 0: never. */
const bandsIn = (bands: number, period: number): number =>
  period === 0 ? bands : Math.max(1, Math.round(bands * period)) / period;

export const marble: SourceDef<z.infer<typeof schema>> = {
  type: 'marble',
  label: 'Marble',
  hint: 'Bands bent by noise: veins of marble, agate, burl wood.',
  group: 'noise',
  schema,
  start: { type: 'marble', seed: 1, bands: 4, scale: 4, octaves: 5, bend: 2, sharpness: 0.4 },
  controls: [
    number('bands', 'Bands', 0.1, 64, { fine: true, digits: 1 }),
    number('bend', 'Bend', 0, 16, { digits: 1 }),
    number('scale', 'Scale', 0.01, 512, { fine: true, digits: 1 }),
    number('octaves', 'Octaves', 1, 8),
    percent('sharpness', 'Sharpness'),
    number('seed', 'Seed', 0, 999),
  ],
  where: () => 'placed',
  fill: (p, field, out) => {
    fractal(field, p.scale, p.scale, { seed: p.seed, octaves: p.octaves, lacunarity: 2, gain: 0.55 }, out);
    const bands = bandsIn(p.bands, field.period[0]);
    const power = 1 / (1 + 7 * p.sharpness);
    for (let i = 0; i < out.length; i++)
      out[i] = Math.pow(Math.abs(Math.sin(Math.PI * (bands * field.x[i] + p.bend * (out[i] - 0.5)))), power);
  },
};

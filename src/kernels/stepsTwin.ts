/** What stands for assembly/steps.ts elsewhere. */
import { TILE_SIDE } from './dabs';
import type { StepKernels } from './steps';

const f = Math.fround;

export const stepsTwin: StepKernels = {
  // Whoever asks does it by itself then, with the same bits.
  readSteps: () => false,
  mixIn: (own, taken, share, strength, channels, { x0, y0, x1, y1 }) => {
    for (let y = y0; y < y1; y++)
      for (let i = y * TILE_SIDE + x0, end = y * TILE_SIDE + x1; i < end; i++) {
        const by = f(share[i] * f(strength));
        if (by === 0) continue;
        for (let o = i * channels, last = o + channels; o < last; o++) own[o] = f(own[o] + f(f(taken[o] - own[o]) * by));
      }
  },
};

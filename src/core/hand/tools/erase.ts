/** Erase: takes coverage away from the layer's paint, and leaves the values under it. */
import { TILE } from '../../tile/tiles';
import type { Patch, ToolDef } from './tool';

export const erase: ToolDef = {
  type: 'erase',
  label: 'Erase',
  hint: 'Takes the layer’s paint away. A pen’s other end does it too.',
  controls: [],
  start: {},
  onPaintOnly: () => true,
  hidesOnMasks: true,
  begin: () => ({ flush: erasePatch }),
};

function erasePatch({ coverage, before, after, channels, amount, x0, y0, x1, y1 }: Patch): void {
  if (before === null) return;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const i = y * TILE + x;
      const as = coverage[i] * amount;
      if (as <= 0) continue;
      const a = i * channels + channels - 1;
      after[a] = before[a] * (1 - as) + 0.5;
    }
}

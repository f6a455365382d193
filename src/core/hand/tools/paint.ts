/**
 * Paint: the brush's values over what was there. Source-over with straight alpha (W3C Compositing, 5.1) in the map's
 * stored encoding; 16-bit in, 16-bit out. Always computed from the tile as it was when the stroke began.
 */
import { TILE } from '../../tile/tiles';
import type { Patch, ToolDef } from './tool';

export const paint: ToolDef = {
  type: 'paint',
  label: 'Paint',
  hint: 'Lays colour and values down.',
  controls: [],
  start: {},
  begin: () => ({ flush: paintPatch }),
};

function paintPatch({ coverage, before, after, channels, value, amount, x0, y0, x1, y1 }: Patch): void {
  const colours = channels - 1;
  const v0 = value[0] * 65535;
  const v1 = colours === 3 ? value[1] * 65535 : 0;
  const v2 = colours === 3 ? value[2] * 65535 : 0;
  for (let y = y0; y < y1; y++) {
    for (let x = x0; x < x1; x++) {
      const i = y * TILE + x;
      const as = coverage[i] * amount;
      if (as <= 0) continue;
      const o = i * channels;
      const a = o + colours;
      const ab = before === null ? 0 : before[a] / 65535;
      const ao = as + ab * (1 - as);
      const ws = as / ao;
      const wb = 1 - ws;
      if (before === null) {
        after[o] = v0 + 0.5;
        if (colours === 3) {
          after[o + 1] = v1 + 0.5;
          after[o + 2] = v2 + 0.5;
        }
      } else {
        after[o] = v0 * ws + before[o] * wb + 0.5;
        if (colours === 3) {
          after[o + 1] = v1 * ws + before[o + 1] * wb + 0.5;
          after[o + 2] = v2 * ws + before[o + 2] * wb + 0.5;
        }
      }
      after[a] = ao * 65535 + 0.5;
    }
  }
}

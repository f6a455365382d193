/**
 * Smear: each dab pulls what lies under the tip a step along, on the surface. Worked out dab by dab in float32, read
 * premultiplied, so that a thousand dabs lose nothing to rounding.
 */
import type { PlaneMap } from '../../kinds/maps';
import { percent } from '../../kinds/control';
import { TILE } from '../../tile/tiles';
import type { Steps } from '../beside';
import type { Imprint } from '../imprint';
import type { Looked } from '../looked';
import { layValues, lookAt, looks, OF } from './taking';
import type { Dab, ToolContext, ToolDef, ToolStroke } from './tool';

export const smear: ToolDef = {
  type: 'smear',
  label: 'Smear',
  hint: 'Pulls what is there along, over seams too.',
  controls: [percent('strength', 'Strength', 0.01), OF],
  start: { strength: 0.85, of: 'layer' },
  onPaintOnly: () => false,
  begin: smearing,
};

/** Further from the last dab than this, in radii, a stroke begins anew. */
const MOST_STEP = 2;

function smearing(context: ToolContext): ToolStroke {
  const looked = new Map<PlaneMap, Looked>();
  for (const map of context.maps) looked.set(map, lookAt(context, map));
  const last = new Map<number, number[]>();
  const strength = Number(context.settings.strength);
  return {
    dab: (imprint, dab) => {
      const place = placeOf(dab);
      const from = last.get(dab.which);
      last.set(dab.which, place);
      if (!from) return;
      const step = from.map((v, k) => v - place[k]);
      const length = Math.hypot(...step);
      if (length === 0 || length > MOST_STEP * dab.radius) return;
      const { beside } = context;
      const steps = dab.at.pane === 'flat' ? beside.alongSheet(step[0], step[1]) : beside.along(step);
      for (const map of looked.values()) pull(map, imprint, steps, dab.weight * strength);
    },
    flush: (patch) => {
      const worked = looked.get(patch.map)!.tile(patch.tile);
      if (worked) layValues(patch, worked, looks(context.settings, patch.map), null);
    },
  };
}

const placeOf = ({ at }: Dab): number[] => (at.pane === 'flat' ? [at.x, at.y, 0] : [...at.hit.point]);

let scratch = new Float32Array(4096);
const read = new Float32Array(4);

/** All is read before anything is written. */
function pull(looked: Looked, imprint: Imprint, steps: Steps, strength: number): void {
  const { channels } = looked;
  let n = 0;
  for (const { index, values, x0, y0, x1, y1 } of imprint.tiles) {
    const room = n + (x1 - x0) * (y1 - y0) * channels;
    if (room > scratch.length) {
      const larger = new Float32Array(room * 2);
      larger.set(scratch);
      scratch = larger;
    }
    const own = looked.tile(index);
    for (let y = y0; y < y1; y++)
      for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
        const share = values[i] * strength;
        if (share === 0) continue;
        steps.from(index, i);
        steps.go(0);
        looked.sample(steps.x, steps.y, read);
        for (let k = 0; k < channels; k++) {
          const old = own === null ? 0 : own[i * channels + k];
          scratch[n++] = old + (read[k] - old) * share;
        }
      }
  }
  n = 0;
  for (const { index, values, x0, y0, x1, y1 } of imprint.tiles) {
    const own = looked.own(index);
    for (let y = y0; y < y1; y++)
      for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
        if (values[i] * strength === 0) continue;
        for (let k = 0; k < channels; k++) own[i * channels + k] = scratch[n++];
      }
  }
}

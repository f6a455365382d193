/**
 * Smear: each dab pulls what lies under the tip a step along, on the surface. Worked out dab by dab in float32, read
 * premultiplied, so that a thousand dabs lose nothing to rounding.
 */
import type { PlaneMap } from '../../kinds/maps';
import { percent } from '../../kinds/control';
import { kernels } from '../../kernels';
import { lasting, TILE, TILE_TEXELS } from '../../tile/tiles';
import type { Steps } from '../beside';
import type { Imprint } from '../imprint';
import type { Looked } from '../looked';
import { layValues, lookAt, looks, OF } from './taking';
import type { Dab, ToolContext, ToolDef, ToolStroke } from './tool';

export const smear: ToolDef = {
  type: 'smear',
  needsPath: true,
  label: 'Smear',
  hint: 'Pulls what is there along, over seams too.',
  suitedBrush: 'shipped:soft-round',
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
      if (worked) layValues(context, patch, worked, looks(context.settings, patch.map), null);
    },
  };
}

const placeOf = ({ at }: Dab): number[] => (at.pane === 'flat' ? [at.x, at.y, 0] : [...at.hit.point]);

/** One step of weight 1: what is read. */
const ONE = Float32Array.of(1);

/** Scratch tiles, a few channels each: what is read for the texels of a dab's tiles. */
const scratches = new Map<2 | 4, Float32Array[]>();
function scratchOf(channels: 2 | 4, n: number): Float32Array {
  const list = scratches.get(channels) ?? scratches.set(channels, []).get(channels)!;
  return (list[n] ??= lasting(Float32Array, TILE_TEXELS * channels));
}

/** All is read before anything is written. */
function pull(looked: Looked, imprint: Imprint, steps: Steps, strength: number): void {
  const { channels } = looked;
  if (strength === 0) return;
  imprint.tiles.forEach((tile, n) => {
    const { index, values, x0, y0, x1, y1 } = tile;
    const taken = scratchOf(channels, n);
    if (steps.read(looked, index, ONE, taken, values, null, tile)) return;
    steps.inTile(index);
    for (let y = y0; y < y1; y++)
      for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
        if (values[i] === 0) continue;
        steps.from(i);
        steps.go(0);
        looked.sample(steps.x, steps.y, taken, i * channels);
      }
  });
  imprint.tiles.forEach((tile, n) => {
    kernels().mixIn(looked.own(tile.index), scratchOf(channels, n), tile.values, strength, channels, tile);
  });
}

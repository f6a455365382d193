/**
 * Blur and sharpen: towards the mean around each texel on the surface, or away from it (unsharp masking). What a stroke can
 * do to a texel is set by the reach; coverage says how much of that it has done, so that strokes are even however they
 * overlap. Values are read premultiplied, and stored in the map's own encoding.
 */
import type { PlaneMap } from '../../kinds/maps';
import { percent, texels } from '../../kinds/control';
import { TILE } from '../../tile/tiles';
import type { Looked } from '../looked';
import { Soft } from './soft';
import { layTaken, lookAt, looks, OF, Taken, type TakenTile } from './taking';
import type { Patch, ToolContext, ToolDef, ToolStroke } from './tool';

const reach = texels('reach', 'Reach', 0.5, 64);

export const blur: ToolDef = {
  type: 'blur',
  label: 'Blur',
  hint: 'Softens what is there, over seams too.',
  controls: [reach, OF],
  start: { reach: 4, of: 'layer' },
  onPaintOnly: (settings, map) => !looks(settings, map),
  begin: (context) => {
    const soft = new Soft(context.beside, Number(context.settings.reach));
    return softening(context, soft, true, (looked, tile, i, out, o) => soft.at(looked, tile, i, out, o));
  },
};

export const sharpen: ToolDef = {
  type: 'sharpen',
  label: 'Sharpen',
  hint: 'Brings out what differs from its surroundings.',
  controls: [reach, percent('strength', 'Strength', 0.01, 3), OF],
  start: { reach: 2, strength: 0.7, of: 'layer' },
  onPaintOnly: (settings, map) => !looks(settings, map),
  begin: (context) => {
    const strength = Number(context.settings.strength);
    const soft = new Soft(context.beside, Number(context.settings.reach));
    return softening(context, soft, false, (looked, tile, i, out, o) => {
      soft.at(looked, tile, i, out, o);
      sharpened(looked, tile, i, strength, out, o);
    });
  },
};

/** Colours go away from the mean, and stay within 0 … 1; how much there is of them stays. */
function sharpened(looked: Looked, tile: number, i: number, strength: number, out: Float32Array, o: number): void {
  const { channels } = looked;
  const own = looked.tile(tile);
  const alpha = own === null ? 0 : own[i * channels + channels - 1];
  const mean = out[o + channels - 1];
  for (let k = 0; k < channels - 1; k++) {
    const c = alpha > 0 ? own![i * channels + k] / alpha : 0;
    const m = mean > 0 ? out[o + k] / mean : c;
    out[o + k] = Math.min(1, Math.max(0, c + (c - m) * strength)) * alpha;
  }
  out[o + channels - 1] = alpha;
}

function softening(
  context: ToolContext,
  soft: Soft,
  /** What is made is the mean itself. */
  whole: boolean,
  make: (looked: Looked, tile: number, i: number, out: Float32Array, o: number) => void,
): ToolStroke {
  const maps = new Map<PlaneMap, { looked: Looked; taken: Taken }>();
  for (const map of context.maps) {
    const looked = lookAt(context, map);
    maps.set(map, { looked, taken: new Taken(looked.channels) });
  }
  return {
    flush: (patch) => {
      const { looked, taken } = maps.get(patch.map)!;
      const tile = taken.tile(patch.tile);
      const all = whole && soft.all(looked, patch.tile, tile.values, patch.coverage, tile.done, patch);
      soft.inTile(patch.tile);
      if (!all) takeReached(patch, tile, (i, o) => make(looked, patch.tile, i, tile.values, o));
      layTaken(context, patch, tile, looks(context.settings, patch.map));
    },
  };
}

/** Each texel that the stroke has come to is worked out once. */
function takeReached(
  { coverage, channels, x0, y0, x1, y1 }: Patch,
  { done }: TakenTile,
  take: (i: number, o: number) => void,
): void {
  for (let y = y0; y < y1; y++)
    for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
      if (coverage[i] <= 0 || done[i]) continue;
      done[i] = 1;
      take(i, i * channels);
    }
}

/**
 * Blur and sharpen: towards the mean around each texel on the surface, or away from it (unsharp masking). What a stroke can
 * do to a texel is set by the reach; coverage says how much of that it has done, so that strokes are even however they
 * overlap. Values are read premultiplied, and stored in the map's own encoding.
 */
import { fastLinear, fastSrgb } from '../../colour/transfer';
import type { PlaneMap } from '../../kinds/maps';
import { percent, texels } from '../../kinds/control';
import { TILE } from '../../tile/tiles';
import type { Looked } from '../looked';
import { Soft, type SoftMap } from './soft';
import { layTaken, lookAt, looks, OF, Taken, type TakenTile } from './taking';
import type { Patch, ToolContext, ToolDef, ToolStroke } from './tool';

const reach = texels('reach', 'Reach', 0.5, 64);

export const blur: ToolDef = {
  type: 'blur',
  label: 'Blur',
  hint: 'Softens what is there, over seams too.',
  suitedBrush: 'shipped:soft-round',
  controls: [reach, OF],
  start: { reach: 4, of: 'layer' },
  onPaintOnly: (settings, map) => !looks(settings, map),
  begin: (context) => softening(context, (soft, _, tile, i, out, o) => soft.at(tile, i, out, o)),
};

export const sharpen: ToolDef = {
  type: 'sharpen',
  label: 'Sharpen',
  hint: 'Brings out what differs from its surroundings.',
  suitedBrush: 'shipped:soft-round',
  controls: [reach, percent('strength', 'Strength', 0.01, 3), OF],
  start: { reach: 2, strength: 0.7, of: 'layer' },
  onPaintOnly: (settings, map) => !looks(settings, map),
  begin: (context) => {
    const strength = Number(context.settings.strength);
    return softening(context, (soft, looked, tile, i, out, o) => {
      soft.at(tile, i, out, o);
      sharpened(looked, tile, i, strength, soft.light, out, o);
    });
  },
};

/** Values go away from the mean, colours in linear light, and stay within 0 … 1. How much paint there is stays. */
function sharpened(
  looked: Looked,
  tile: number,
  i: number,
  strength: number,
  light: boolean,
  out: Float32Array,
  o: number,
): void {
  const { channels } = looked;
  const own = looked.tile(tile);
  const alpha = own === null ? 0 : own[i * channels + channels - 1];
  const mean = out[o + channels - 1];
  for (let k = 0; k < channels - 1; k++) {
    let c = alpha > 0 ? own![i * channels + k] / alpha : 0;
    let m = mean > 0 ? out[o + k] / mean : c;
    if (light) [c, m] = [fastLinear(c), fastLinear(m)];
    const value = Math.min(1, Math.max(0, c + (c - m) * strength));
    out[o + k] = (light ? fastSrgb(value) : value) * alpha;
  }
  out[o + channels - 1] = alpha;
}

function softening(
  context: ToolContext,
  make: (soft: SoftMap, looked: Looked, tile: number, i: number, out: Float32Array, o: number) => void,
): ToolStroke {
  const soft = new Soft(context, Number(context.settings.reach));
  const maps = new Map<PlaneMap, { looked: Looked; taken: Taken; soft: SoftMap }>();
  for (const map of context.maps) {
    const looked = lookAt(context, map);
    maps.set(map, { looked, taken: new Taken(looked.channels), soft: soft.of(map, looked) });
  }
  return {
    flush: (patch) => {
      const { looked, taken, soft } = maps.get(patch.map)!;
      const tile = taken.tile(patch.tile);
      takeReached(patch, tile, (i, o) => make(soft, looked, patch.tile, i, tile.values, o));
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

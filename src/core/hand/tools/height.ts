/**
 * Height tools: raise, sink, and level to the height where the stroke began. Height is stored 0 … 1, level is 0.5; only the
 * height map is written. Softening is the blur tool on that map.
 */
import { mapInfo, type MapId, type PlaneMap } from '../../kinds/maps';
import { percent } from '../../kinds/control';
import { TILE } from '../../tile/tiles';
import { sheetPlace } from '../place';
import type { Looked } from '../looked';
import { Soft } from './soft';
import { lookAt, looks, OF } from './taking';
import type { Dab, Patch, ToolContext, ToolDef, ToolStroke } from './tool';

const SOFT_REACH = 6;

export const height: ToolDef = {
  type: 'height',
  label: 'Raise and sink',
  hint: 'Works on the height map alone.',
  controls: [
    {
      kind: 'choice',
      key: 'way',
      label: 'Does',
      options: [
        { value: 'raise', label: 'raise' },
        { value: 'sink', label: 'sink' },
        { value: 'level', label: 'level to the start' },
        { value: 'soften', label: 'soften' },
      ],
    },
    percent('strength', 'Strength', 0.01),
    OF,
  ],
  start: { way: 'raise', strength: 0.1, of: 'all' },
  writes: (map) => map === 'mask' || (map !== 'picture' && mapInfo(map as MapId).display === 'offset'),
  begin: (context) => {
    const maps = new Map<PlaneMap, Looked>();
    for (const map of context.maps) maps.set(map, lookAt(context, map));
    const start = new Map<PlaneMap, number>();
    const soft = new Soft(context.beside, SOFT_REACH);
    return {
      dab: (_, dab) => {
        if (start.size === 0) for (const [map, looked] of maps) start.set(map, heightAt(context, looked, dab));
      },
      flush: (patch) => shape(patch, context, maps.get(patch.map)!, soft, start.get(patch.map) ?? LEVEL),
    } satisfies ToolStroke;
  },
};

const LEVEL = 0.5;
const read = new Float32Array(4);

/** The height under a dab; level where there is none. */
function heightAt({ surface }: ToolContext, looked: Looked, { at }: Dab): number {
  const place = at.pane === 'flat' ? at : sheetPlace(at.hit, surface!.map);
  looked.sample(place.x, place.y, read);
  return read[1] > 0 ? read[0] / read[1] : LEVEL;
}

function shape(patch: Patch, { settings }: ToolContext, looked: Looked, soft: Soft, start: number): void {
  const { tile, coverage, before, after, amount, x0, y0, x1, y1, map } = patch;
  const over = looks(settings, map);
  const strength = Number(settings.strength);
  const seen = looked.tile(tile);
  for (let y = y0; y < y1; y++)
    for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
      const as = coverage[i] * amount;
      if (as <= 0) continue;
      const o = i * 2;
      const alpha = seen === null ? 0 : seen[o + 1];
      const h = alpha > 0 ? seen![o] / alpha : LEVEL;
      let to = h;
      if (settings.way === 'raise') to = h + strength * as;
      else if (settings.way === 'sink') to = h - strength * as;
      else if (settings.way === 'level') to = h + (start - h) * as * strength;
      else {
        soft.at(looked, tile, i, read, 0);
        if (read[1] > 0) to = h + (read[0] / read[1] - h) * as * strength;
      }
      const ab = before === null ? 0 : before[o + 1] / 65535;
      // Over what is seen the layer holds the whole height: where little changes it is the height that was there. Own paint
      // gets as much of it as the stroke gives.
      const ao = over ? 1 : Math.max(ab, as);
      after[o] = Math.min(1, Math.max(0, to)) * 65535 + 0.5;
      after[o + 1] = ao * 65535 + 0.5;
    }
}

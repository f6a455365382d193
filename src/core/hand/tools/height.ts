/**
 * Height tools: raise, sink, and level to the height where the stroke began. Height is stored 0 … 1, level is 0.5; only the
 * height map is written. Softening is the blur tool on that map.
 */
import { mapInfo, type MapId, type PlaneMap } from '../../kinds/maps';
import { percent } from '../../kinds/control';
import { maskOfStep } from '../../document/schema';
import { TILE } from '../../tile/tiles';
import { sheetPlace } from '../place';
import type { Looked } from '../looked';
import { Soft, type SoftMap } from './soft';
import { laySeen, lookAt, looks, OF, seenAt } from './taking';
import type { Dab, Patch, ToolContext, ToolDef, ToolStroke } from './tool';

const SOFT_REACH = 6;

export const height: ToolDef = {
  type: 'height',
  label: 'Raise and sink',
  hint: 'Works on the height map alone.',
  suitedBrush: 'shipped:soft-round',
  controls: [
    {
      kind: 'choice',
      key: 'way',
      label: 'Does',
      options: [
        { value: 'raise', label: 'raise' },
        { value: 'sink', label: 'sink' },
        { value: 'level', label: 'level' },
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
    const soft = new Soft(context, SOFT_REACH);
    const softened = new Map([...maps].map(([map, looked]) => [map, soft.of(map, looked)]));
    return {
      dab: (_, dab) => {
        if (start.size === 0)
          for (const [map, looked] of maps) start.set(map, heightAt(context, looked, dab, levelOf(context, map)));
      },
      flush: (patch) => shape(patch, context, maps.get(patch.map)!, softened.get(patch.map)!, start.get(patch.map) ?? LEVEL),
    } satisfies ToolStroke;
  },
};

const LEVEL = 0.5;
const read = new Float32Array(4);

/** The height under a dab. */
function heightAt({ surface }: ToolContext, looked: Looked, { at }: Dab, level: number): number {
  const place = at.pane === 'flat' ? at : sheetPlace(at.hit, surface!.map);
  looked.sample(place.x, place.y, read);
  return level * (1 - read[1]) + read[0];
}

function shape(patch: Patch, context: ToolContext, looked: Looked, soft: SoftMap, start: number): void {
  const { tile, coverage, before, after, amount, x0, y0, x1, y1, map } = patch;
  const { settings } = context;
  const meant = looks(settings, map) ? context.meant(map) : null;
  meant?.inTile(tile);
  const strength = Number(settings.strength);
  const seen = looked.tile(tile);
  const level = levelOf(context, map);
  for (let y = y0; y < y1; y++)
    for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
      const as = coverage[i] * amount;
      if (as <= 0) continue;
      const o = i * 2;
      const there = seen === null ? 0 : seen[o + 1];
      // Paint of half alpha raises by half.
      const h = seen === null ? level : level * (1 - there) + seen[o];
      let by: number;
      if (settings.way === 'raise') by = strength * as;
      else if (settings.way === 'sink') by = -strength * as;
      else if (settings.way === 'level') by = (start - h) * as * strength;
      else {
        soft.at(tile, i, read, 0);
        by = (level * (1 - read[1]) + read[0] - h) * as * strength;
      }
      if (meant) {
        const now = seenAt(meant, patch, i);
        if (!now) continue;
        now[0] += by;
        laySeen(meant, patch, i, as);
        continue;
      }
      const ab = before === null ? 0 : before[o + 1] / 65535;
      // `by` includes the coverage already. Dividing by the alpha makes value × alpha rise by exactly that.
      const ao = Math.max(ab, as);
      after[o] = Math.min(1, Math.max(0, level + (h + by - level) / ao)) * 65535 + 0.5;
      after[o + 1] = ao * 65535 + 0.5;
    }
}

/** What counts as nothing: level height, or the ground of a mask. */
function levelOf({ sheet, layerId }: ToolContext, map: PlaneMap): number {
  return map === 'mask' ? (maskOfStep(sheet, layerId)?.ground ?? 0) : LEVEL;
}

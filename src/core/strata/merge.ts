/** Layers made into paint: merging and flattening. */
import { type Sheet } from '../document/schema';
import { planeKey } from '../document/planes';
import type { MergedPaint } from '../document/work/merge';
import type { MapId } from '../kinds/maps';
import { newTexels, TILE_TEXELS, tilesOf, type TileChange, type TileStore } from '../tile/tiles';
import { Evaluator } from './evaluator';
import { programOfLayers } from './program';
import type { Scope } from './scope';
import type { TileCache, TileValue } from './tileCache';

/** An evaluated tile as stored paint; null where nothing is. */
export function storedTile(value: TileValue, scope: Scope): Uint16Array | null {
  const { channels } = scope;
  const step = channels + 1;
  if (value.uniform && value.uniform[channels] === 0) return null;
  const out = newTexels(TILE_TEXELS * step);
  let covered = false;
  for (let c = 0; c < step; c++)
    for (let i = 0; i < TILE_TEXELS; i++) {
      const v = value.data ? value.data[c * TILE_TEXELS + i] : value.uniform[c];
      // Heights of layers by themselves may lie beyond what is stored.
      const code = Math.min(1, Math.max(0, v)) * 65535 + 0.5;
      out[i * step + c] = code;
      if (c === channels && code >= 1) covered = true;
    }
  return covered ? out : null;
}

/** The paint that layers make together over nothing, as changes that put it on the planes of `targetId`. */
export function mergedPaint(
  sheet: Sheet,
  store: TileStore,
  layerIds: readonly string[],
  targetId: string,
  cache?: TileCache,
): MergedPaint {
  const evaluator = new Evaluator({ sheet, store, cache });
  const changes: TileChange[] = [];
  const maps: MapId[] = [];
  for (const map of sheet.maps) {
    const scope = programOfLayers(sheet, map, layerIds);
    if (scope.ops.length === 0) continue;
    const plane = planeKey(targetId, map);
    let any = false;
    for (const tile of tilesOf(sheet.width, sheet.height)) {
      const data = storedTile(evaluator.tile(scope, tile), scope);
      const before = store.get(plane, tile);
      if (!data && !before) continue;
      any ||= data !== null;
      changes.push({ plane, tile, before, after: data ? { data, hash: null } : null });
    }
    if (any) maps.push(map);
  }
  return { changes, maps };
}

/** What has to be drawn again when one document becomes another and some tiles change. */
import { parsePlaneKey, planeKey, type Layer, type Piece, type Sheet } from '../core/document/schema';
import { MAP_IDS, type MapId } from '../core/document/maps';
import type { TileChange, TileIndex, TileStore } from '../core/raster/tiles';
import { planesOfMap, type PlaneId } from '../core/strata/displayPlanes';
import { effectiveBlend } from '../core/strata/evaluate';

export interface DirtyPlanes {
  sheetId: string;
  planes: PlaneId[];
  tiles: 'all' | Set<TileIndex>;
}

export function dirtyPlanesOf(before: Piece, after: Piece, changes: readonly TileChange[], store: TileStore): DirtyPlanes[] {
  const out: DirtyPlanes[] = [];
  for (const sheet of after.sheets) {
    const old = before.sheets.find((s) => s.id === sheet.id);
    if (!old) continue;
    if (old.heightSpan !== sheet.heightSpan) out.push({ sheetId: sheet.id, planes: ['normal'], tiles: 'all' });
    if (old.layers !== sheet.layers) out.push(...layerChanges(old, sheet, store));
    const ids = new Set(sheet.layers.map((l) => l.id));
    for (const c of changes) {
      const { layerId, map } = parsePlaneKey(c.plane);
      if (ids.has(layerId)) out.push({ sheetId: sheet.id, planes: planesOfMap(map), tiles: new Set([c.tile]) });
    }
  }
  return out;
}

function layerChanges(old: Sheet, sheet: Sheet, store: TileStore): DirtyPlanes[] {
  const out: DirtyPlanes[] = [];
  const was = new Map(old.layers.map((l) => [l.id, l]));
  const is = new Map(sheet.layers.map((l) => [l.id, l]));
  const kept = (layers: Layer[], others: Map<string, Layer>) => layers.filter((l) => others.has(l.id)).map((l) => l.id);
  const moved = kept(old.layers, is).join() !== kept(sheet.layers, was).join();
  for (const id of new Set([...was.keys(), ...is.keys()])) {
    const a = was.get(id);
    const b = is.get(id);
    if (a === b && !moved) continue;
    for (const map of MAP_IDS) {
      if (!moved && !differs(a, b, map)) continue;
      const tiles = (a ?? b)!.kind === 'coat' ? 'all' : new Set(store.tilesOf(planeKey(id, map)).keys());
      if (tiles === 'all' ? (a ?? b)!.cells[map]?.on || (b ?? a)!.cells[map]?.on : tiles.size > 0)
        out.push({ sheetId: sheet.id, planes: planesOfMap(map), tiles });
    }
  }
  return out;
}

/** Whether the map can look different for this layer. */
function differs(a: Layer | undefined, b: Layer | undefined, map: MapId): boolean {
  const effect = (l: Layer | undefined) =>
    l && l.visible && l.opacity > 0 && l.cells[map]?.on
      ? JSON.stringify([l.opacity, effectiveBlend(l, map), l.cells[map]?.value])
      : '';
  return effect(a) !== effect(b);
}

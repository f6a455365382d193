/** Which layers become one, where it goes, and what it takes over from them. */
import { LAYERS } from '../../kinds/layers';
import type { MapId } from '../../kinds/maps';
import type { TileChange } from '../../tile/tiles';
import { batch } from '../edits';
import { freeName, newPaintedLayer } from '../factory';
import type { Layer, Sheet } from '../schema';
import { blocksOf, indexOfPlace, membersOf, outermost } from '../tree';
import { addAll, checkLayerCount, removeAll, WorkError, type Work } from './work';

/** What layers make together over nothing, on the planes of a painted layer, and the maps on which it is anything. */
export interface MergedPaint {
  changes: TileChange[];
  maps: MapId[];
}

export type MergeHow = 'down' | 'selected' | 'visible' | 'flatten';

/**
 * `paintOf` evaluates (strata/merge.ts, mergedPaint).
 * `down`: a layer with the one right below it (a group: with all in it). `selected`: all that are chosen.
 * `visible`: a copy of all that shows, on top. `flatten`: everything into one painted layer.
 */
export function mergeLayers(
  sheet: Sheet,
  how: MergeHow,
  ids: readonly string[],
  newId: () => string,
  paintOf: (layerIds: readonly string[], targetId: string) => MergedPaint,
): Work {
  const roots = how === 'visible' || how === 'flatten' ? membersOf(sheet.layers, null) : mergeRoots(sheet, how, ids);
  const rootIds = roots.map((r) => r.id);
  const gone = how === 'visible' ? [] : blocksOf(sheet.layers, rootIds);
  const locked = gone.find((l) => l.lock !== 'none');
  if (locked) throw new WorkError(`"${locked.name}" is locked, so it cannot be merged: unlock it first`);
  const id = newId();
  const paint = paintOf(rootIds, id);
  const base = roots[0];
  const name =
    how === 'visible'
      ? freeName(
          'Merged',
          sheet.layers.map((l) => l.name),
        )
      : how === 'flatten'
        ? 'Flattened'
        : base.name;
  const kept = how === 'down' || how === 'selected';
  const layer: Layer = {
    ...newPaintedLayer(id, name, paint.maps),
    parent: kept ? base.parent : null,
    blend: kept ? base.blend : 'normal',
    tag: kept ? base.tag : 0,
  };
  // How the lowest one blended with what lies below stays, map by map.
  if (kept) for (const map of paint.maps) if (base.cells[map]?.blend) layer.cells[map]!.blend = base.cells[map].blend;
  if (how === 'visible') {
    checkLayerCount(sheet, 1);
    return {
      edit: batch(addAll(sheet, [layer], sheet.layers.length)),
      label: 'Merged copy of the visible',
      changes: paint.changes,
      select: [id],
    };
  }
  const rest = sheet.layers.filter((l) => !gone.includes(l));
  const below = membersOf(sheet.layers, base.parent);
  const under = below[below.indexOf(base) - 1];
  const index = how === 'flatten' ? 0 : indexOfPlace(rest, { parent: base.parent, above: under?.id ?? null });
  return {
    edit: batch([...removeAll(sheet, gone), ...addAll(sheet, [layer], index)]),
    label: how === 'flatten' ? 'Flatten' : `Merge into ${base.name}`,
    changes: paint.changes,
    select: [id],
  };
}

function mergeRoots(sheet: Sheet, how: 'down' | 'selected', ids: readonly string[]): Layer[] {
  const roots = outermost(sheet.layers, ids);
  if (how === 'selected' || roots.length > 1) {
    if (roots.some((r) => r.parent !== roots[0].parent))
      throw new WorkError('The chosen layers lie in different groups: choose layers of one group to merge them');
    return roots;
  }
  const layer = roots[0];
  if (!layer) throw new WorkError('There is no layer to merge: choose one');
  if (LAYERS[layer.kind].members) return [layer];
  const siblings = membersOf(sheet.layers, layer.parent);
  const below = siblings[siblings.indexOf(layer) - 1];
  if (!below) throw new WorkError(`There is nothing right below "${layer.name}" to merge it with`);
  return [below, layer];
}

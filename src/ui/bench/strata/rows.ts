/** The table's rows: the tree of layers from the top down, without what is folded away or does not match the search. */
import type { Layer } from '@/core/document/schema';
import { ancestors } from '@/core/document/tree';

export interface TableRow {
  layer: Layer;
  depth: number;
}

export function rowsOf(layers: readonly Layer[], collapsed: readonly string[], search: string): TableRow[] {
  const folded = new Set(collapsed);
  const needle = search.trim().toLowerCase();
  const hits = needle
    ? new Set(layers.filter((l) => `${l.name} ${l.note} ${l.kind}`.toLowerCase().includes(needle)).map((l) => l.id))
    : null;
  // The groups around a hit are shown too, so that it can be found again.
  const around = hits && new Set([...hits].flatMap((id) => ancestors(layers, id).map((a) => a.id)));
  const out: TableRow[] = [];
  const depths = new Map<string, number>();
  const hidden = new Set<string>();
  for (let i = layers.length - 1; i >= 0; i--) {
    const layer = layers[i];
    const depth = layer.parent === null ? 0 : (depths.get(layer.parent) ?? 0) + 1;
    if (layer.kind === 'group') depths.set(layer.id, depth);
    const inFolded = layer.parent !== null && (hidden.has(layer.parent) || (folded.has(layer.parent) && !hits));
    if (inFolded) {
      hidden.add(layer.id);
      continue;
    }
    if (!hits || hits.has(layer.id) || around!.has(layer.id)) out.push({ layer, depth });
  }
  return out;
}

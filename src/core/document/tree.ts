/**
 * Layers as a tree, kept as one list: bottom first, the members of a group right before the group itself (post
 * order). Read from the end it is the table as the artist sees it: each group, then its members, top first.
 */
import { LAYERS } from '../kinds/layers';
import { asksOf, LIMITS, type Layer, type Mask } from './layer';

type Node = Pick<Layer, 'id' | 'parent' | 'kind' | 'name' | 'echo'> & { mask?: Layer['mask'] };

/** First index of the block that ends at `index`: a group with all in it, or a single layer. */
export function blockStart(layers: readonly Node[], index: number): number {
  if (!LAYERS[layers[index].kind].members) return index;
  const inside = new Set([layers[index].id]);
  let start = index;
  while (start > 0 && inside.has(layers[start - 1].parent ?? '')) inside.add(layers[--start].id);
  return start;
}

export function block<T extends Node>(layers: readonly T[], id: string): T[] {
  const index = layers.findIndex((l) => l.id === id);
  return index < 0 ? [] : layers.slice(blockStart(layers, index), index + 1);
}

/** Direct members, bottom first; `null`: the outermost layers. */
export function membersOf<T extends Node>(layers: readonly T[], parent: string | null): T[] {
  return layers.filter((l) => l.parent === parent);
}

/** From the layer's own group outwards. */
export function ancestors<T extends Node>(layers: readonly T[], id: string): T[] {
  const byId = new Map(layers.map((l) => [l.id, l]));
  const out: T[] = [];
  for (let at = byId.get(id)?.parent; at != null && out.length <= LIMITS.maxDepth; at = byId.get(at)?.parent) {
    const group = byId.get(at);
    if (!group) break;
    out.push(group);
  }
  return out;
}

/** What is wrong with the order or the nesting, as the end of a sentence; null if nothing. */
export function strayLayer(layers: readonly Node[]): string | null {
  const open: string[] = [];
  // From the top down: a group opens, and what follows is inside it until something belongs further out.
  for (let i = layers.length - 1; i >= 0; i--) {
    const layer = layers[i];
    while (open.length && open.at(-1) !== layer.parent) open.pop();
    if (layer.parent !== null && open.length === 0) return `"${layer.name}" is not inside the group that it names`;
    if (open.length > LIMITS.maxDepth) return `groups are nested more than ${LIMITS.maxDepth} deep`;
    if (LAYERS[layer.kind].members) open.push(layer.id);
  }
  return null;
}

/** What would be made from itself (an echo, a mask), as a sentence's end; null if nothing. What is gone is no cycle. */
export function findCycle(layers: readonly Node[], masks: readonly Mask[] = []): string | null {
  const asking = masks.filter((m) =>
    m.steps.map(asksOf).some(({ layers: l, masks: k, below }) => (l?.length ?? 0) > 0 || (k?.length ?? 0) > 0 || below),
  );
  if (asking.length === 0 && !layers.some((l) => LAYERS[l.kind].original)) return null;
  const byId = new Map(layers.map((l) => [l.id, l]));
  const maskById = new Map(asking.map((m) => [m.id, m]));
  const members = new Map<string, Node[]>();
  for (const l of layers) if (l.parent) members.set(l.parent, [...(members.get(l.parent) ?? []), l]);

  /** Layers that a mask on `node` looks at. Masks among themselves: a mask that is met again ends the walk with its name. */
  const seenBy = (node: Node, mask: Mask, path: readonly string[]): Node[] | string => {
    if (path.includes(mask.id)) return mask.name;
    const out: Node[] = [];
    for (const asks of mask.steps.map(asksOf)) {
      for (const other of asks.layers ?? []) out.push(...[byId.get(other)].filter((n) => n !== undefined));
      if (asks.below) {
        const at = layers.indexOf(node);
        if (at >= 0) out.push(...layers.slice(0, blockStart(layers, at)));
      }
      for (const other of asks.masks ?? []) {
        const linked = maskById.get(other);
        if (!linked) continue;
        const more = seenBy(node, linked, [...path, mask.id]);
        if (typeof more === 'string') return more;
        out.push(...more);
      }
    }
    return out;
  };
  for (const m of asking) {
    const fault = seenBy(layers[0] ?? { id: '', parent: null, kind: 'coat', name: '', echo: null }, m, []);
    if (typeof fault === 'string') return `"${fault}" would be made from itself`;
  }

  const state = new Map<string, 'open' | 'done'>();
  const visit = (node: Node): string | null => {
    if (state.get(node.id) === 'done') return null;
    if (state.get(node.id) === 'open') return node.name;
    state.set(node.id, 'open');
    const original = LAYERS[node.kind].original?.(node);
    const next: (Node | undefined)[] = original ? [byId.get(original)] : [...(members.get(node.id) ?? [])];
    const mask = node.mask ? maskById.get(node.mask.id) : undefined;
    if (mask) next.push(...(seenBy(node, mask, []) as Node[]));
    for (const n of next) {
      const found = n && visit(n);
      if (found) return found;
    }
    state.set(node.id, 'done');
    return null;
  };
  for (const l of layers) {
    const found = visit(l);
    if (found) return asking.length ? `"${found}" would be made from itself` : `"${found}" would echo itself`;
  }
  return null;
}

/** Where each layer stands: the whole order, as an `arrange` edit carries it. */
export type Arrangement = [id: string, parent: string | null][];
export const arrangementOf = (layers: readonly Node[]): Arrangement => layers.map((l) => [l.id, l.parent]);

/** Puts layers into the order of an arrangement. */
export function arranged<T extends Node>(layers: readonly T[], order: Arrangement): T[] {
  const byId = new Map(layers.map((l) => [l.id, l]));
  return order.map(([id, parent]) => {
    const layer = byId.get(id)!;
    return layer.parent === parent ? layer : { ...layer, parent };
  });
}

/** A place in the tree: in a group (null: outermost), above the member `above` (null: at its bottom). */
export interface Place {
  parent: string | null;
  above: string | null;
}

/** Index in the list at which something put at a place begins. */
export function indexOfPlace(layers: readonly Node[], place: Place): number {
  if (place.above !== null) return layers.findIndex((l) => l.id === place.above) + 1;
  if (place.parent === null) return 0;
  const group = layers.findIndex((l) => l.id === place.parent);
  return blockStart(layers, group);
}

/** Only the outermost of a selection: members of a chosen group come along by themselves. In list order. */
export function outermost<T extends Node>(layers: readonly T[], ids: Iterable<string>): T[] {
  const chosen = new Set(ids);
  return layers.filter((l) => chosen.has(l.id) && !ancestors(layers, l.id).some((a) => chosen.has(a.id)));
}

/** A selection with all that is in it, in list order. */
export function blocksOf<T extends Node>(layers: readonly T[], ids: Iterable<string>): T[] {
  return outermost(layers, ids).flatMap((root) => block(layers, root.id));
}

/** Moves layers, with all in them, to a place. Null when a group would land inside itself. */
export function moved<T extends Node>(layers: readonly T[], ids: Iterable<string>, place: Place): T[] | null {
  const roots = outermost(layers, ids);
  const moving = new Set(blocksOf(layers, ids).map((l) => l.id));
  if (place.parent !== null && moving.has(place.parent)) return null;
  const rest = layers.filter((l) => !moving.has(l.id));
  // The anchor itself may be among what moves: then the next one below it that stays.
  let { above } = place;
  while (above !== null && moving.has(above)) {
    const siblings = membersOf(layers, place.parent);
    const at = siblings.findIndex((l) => l.id === above);
    above = at > 0 ? siblings[at - 1].id : null;
  }
  const index = indexOfPlace(rest, { parent: place.parent, above });
  const blocks = roots.flatMap((r) => block(layers, r.id).map((l) => (l.id === r.id ? { ...l, parent: place.parent } : l)));
  return rest.toSpliced(index, 0, ...blocks);
}

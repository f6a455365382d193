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

/**
 * Why a stack cannot be made, as a sentence's end: something would be made from itself, or from so many others, over and over,
 * that it would never be done. null: it can be made. What is gone is no cycle.
 */
export function whyUnmakeable(layers: readonly Node[], masks: readonly Mask[] = []): string | null {
  const asking = masks.filter((m) =>
    m.steps.map(asksOf).some(({ layers: l, masks: k, below }) => (l?.length ?? 0) > 0 || (k?.length ?? 0) > 0 || below),
  );
  if (asking.length === 0 && !layers.some((l) => LAYERS[l.kind].original)) return null;
  const byId = new Map(layers.map((l) => [l.id, l]));
  const maskById = new Map(asking.map((m) => [m.id, m]));
  const members = new Map<string, Node[]>();
  for (const l of layers)
    if (l.parent) {
      const list = members.get(l.parent);
      if (list) list.push(l);
      else members.set(l.parent, [l]);
    }

  /** Layers and masks whose visit has begun and not ended: meeting one again is a cycle. */
  const open = new Set<Node | Mask>();
  /** How many layers have to be evaluated to make this one, counting repetitions. Set when its visit ends. */
  const work = new Map<Node | Mask, number>();
  /** Masks that look at what is below the layer they are on, by themselves or through others. */
  const lookingBelow = new Set<Mask>();
  /** Visits everything that a layer or mask is made from. Returns the name of one that would be made from itself, or null. */
  const visit = <T extends Node | Mask>(what: T, parts: (what: T) => string | null): string | null => {
    if (work.has(what)) return null;
    if (open.has(what)) return what.name;
    open.add(what);
    const fault = parts(what);
    open.delete(what);
    return fault;
  };
  const maskParts = (mask: Mask): string | null => {
    let own = 0;
    for (const asks of mask.steps.map(asksOf)) {
      if (asks.below) lookingBelow.add(mask);
      for (const layer of (asks.layers ?? []).map((id) => byId.get(id)).filter((l) => l !== undefined)) {
        const fault = visit(layer, layerParts);
        if (fault) return fault;
        own += work.get(layer)!;
      }
      for (const other of (asks.masks ?? []).map((id) => maskById.get(id)).filter((m) => m !== undefined)) {
        const fault = visit(other, maskParts);
        if (fault) return fault;
        if (lookingBelow.has(other)) lookingBelow.add(mask);
        own += work.get(other)! + 1;
      }
    }
    work.set(mask, own);
    return null;
  };
  const layerParts = (node: Node): string | null => {
    const original = LAYERS[node.kind].original?.(node);
    let own = 1;
    for (const part of original ? [byId.get(original)] : (members.get(node.id) ?? [])) {
      if (!part) continue;
      const fault = visit(part, layerParts);
      if (fault) return fault;
      own += work.get(part)!;
    }
    // Members that an echo emphasises are laid down twice, on every level of what it repeats.
    if (Object.values(node.echo?.members ?? {}).some((weight) => weight > 1))
      own = 1 + (own - 1) * 2 ** depthOf(byId.get(original ?? ''), members);
    const mask = node.mask ? maskById.get(node.mask.id) : undefined;
    if (mask) {
      const fault = visit(mask, maskParts);
      if (fault) return fault;
      own += work.get(mask)!;
    }
    // What lies below is made once, whoever looks at it.
    const at = mask && lookingBelow.has(mask) ? layers.indexOf(node) : -1;
    for (const below of at < 0 ? [] : layers.slice(0, blockStart(layers, at))) {
      const fault = visit(below, layerParts);
      if (fault) return fault;
    }
    work.set(node, own);
    return null;
  };
  const fault = firstOf(layers, (l) => visit(l, layerParts)) ?? firstOf(asking, (m) => visit(m, maskParts));
  if (fault) return asking.length ? `"${fault}" would be made from itself` : `"${fault}" would echo itself`;
  const most = [...layers, ...asking].find((made) => !(work.get(made)! <= LIMITS.maxWork));
  return most
    ? `"${most.name}" would be made of more than ${LIMITS.maxWork.toLocaleString('en')} layers, by echoes of echoes or masks that look at others`
    : null;
}

function firstOf<T>(of: readonly T[], found: (what: T) => string | null): string | null {
  for (const what of of) {
    const value = found(what);
    if (value !== null) return value;
  }
  return null;
}

/** How deep groups are nested in a node. */
function depthOf(node: Node | undefined, members: ReadonlyMap<string, readonly Node[]>): number {
  const inside = node ? (members.get(node.id) ?? []) : [];
  return 1 + inside.reduce((most, member) => Math.max(most, members.has(member.id) ? depthOf(member, members) : 0), 0);
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

/**
 * What has to be done for one map of a sheet, as a list of operations in order, from the bottom up. A scope is a
 * stack that blends among itself first: the sheet itself (over its ground) or an isolated group (over nothing).
 * Groups that pass through are written into the scope that they are in.
 */
import type { BlendId } from '../colour/blend';
import { WHOLE_BLENDS } from '../colour/blend';
import { mapGround, mapKind, type MapId } from '../document/maps';
import { planeKey, type Layer, type Mask, type Sheet } from '../document/schema';
import { ancestors } from '../document/tree';
import type { MapKind, Pass } from './filters/filter';
import { FILTERS, type Filter } from './filters';
import { textSignature, type Signature } from './signature';

export interface MaskUse {
  plane: string;
  ground: number;
  invert: boolean;
}

export const maskUse = ({ id, ground, invert }: Mask): MaskUse => ({ plane: planeKey(id, 'mask'), ground, invert });

export type Source =
  | { type: 'paint'; plane: string }
  | { type: 'value'; value: readonly number[] }
  | { type: 'scope'; scope: Scope }
  /** A scope of another kind of map: colour to value by luminosity, value to grey. */
  | { type: 'converted'; scope: Scope };

export type Op = { layerId: string; opacity: number; mask: MaskUse | null; key: Signature } & (
  | { type: 'blend'; source: Source; blend: BlendId }
  | { type: 'adjust'; filter: Filter; passes: Pass[] | null; blend: BlendId }
  /** A group that passes through, with opacity or a mask: what was before is kept … */
  | { type: 'save' }
  /** … and mixed with what its members made of it. */
  | { type: 'restore' }
);

export interface Scope {
  kind: MapKind;
  channels: 1 | 3;
  /** null: an isolated group, empty where nothing is. */
  ground: readonly number[] | null;
  ops: Op[];
  key: Signature;
}

/** The blend mode that a layer really uses on a map: height adds up and normals turn, unless the cell says otherwise. */
export function effectiveBlend(layer: Layer, map: MapId): BlendId {
  const own = layer.cells[map]?.blend;
  if (own) return own;
  if (map === 'height') return layer.kind === 'adjust' ? 'normal' : 'offset';
  if (mapKind(map) === 'normal') return layer.kind === 'adjust' ? 'normal' : 'reorient';
  if (mapKind(map) === 'value' && (WHOLE_BLENDS as readonly string[]).includes(layer.blend)) return 'normal';
  return layer.blend;
}

/** How far below and above it reaches, in texels: filters that look around. */
export function reachOf(passes: readonly Pass[]): { rx: number; ry: number } {
  return { rx: passes.reduce((n, p) => n + p.rx, 0), ry: passes.reduce((n, p) => n + p.ry, 0) };
}

/** Adds an adjustment, if it does anything to such a map. */
function adjust(
  ops: Op[],
  base: Pick<Extract<Op, { type: 'adjust' }>, 'layerId' | 'opacity' | 'mask' | 'blend' | 'key'>,
  filter: Filter,
  kind: MapKind,
): void {
  const def = FILTERS[filter.type];
  const passes = def.passes?.(filter) ?? null;
  if (def.fits(kind) && passes?.length !== 0) ops.push({ ...base, type: 'adjust', filter, passes });
}

class Compiler {
  private members = new Map<string | null, Layer[]>();
  private byId: Map<string, Layer>;
  private masks: Map<string, Mask>;
  /** Echoes being opened: a cycle that slipped through ends here. */
  private opening = new Set<string>();

  constructor(private sheet: Sheet) {
    this.byId = new Map(sheet.layers.map((l) => [l.id, l]));
    this.masks = new Map(sheet.masks.map((m) => [m.id, m]));
    for (const l of sheet.layers) {
      const list = this.members.get(l.parent);
      if (list) list.push(l);
      else this.members.set(l.parent, [l]);
    }
  }

  scope(map: MapId, layers: readonly Layer[], ground: readonly number[] | null, weights: Record<string, number> = {}): Scope {
    const ops: Op[] = [];
    for (const layer of layers) this.layer(ops, layer, map, weights);
    return this.finish(mapKind(map), ground, ops);
  }

  outermost(): Layer[] {
    return this.members.get(null) ?? [];
  }

  private finish(kind: MapKind, ground: readonly number[] | null, ops: Op[]): Scope {
    const channels = kind === 'value' ? 1 : 3;
    return { kind, channels, ground, ops, key: textSignature(`${kind} ${ground?.join() ?? 'clear'}`) };
  }

  private layer(ops: Op[], layer: Layer, map: MapId, weights: Record<string, number>): void {
    const cell = layer.cells[map];
    if (!layer.visible || !cell?.on) return;
    const weight = weights[layer.id] ?? 1;
    const opacity = layer.opacity * (cell.opacity ?? 1);
    if (opacity === 0 || weight === 0) return;
    const mask = this.maskOf(layer);
    // Emphasis beyond full strength: once as it is, once more with what is over.
    for (const share of weight > 1 ? [1, weight - 1] : [weight]) this.put(ops, layer, map, opacity * share, mask, weights);
  }

  private maskOf(layer: Layer): MaskUse | null {
    const mask = layer.mask?.on ? this.masks.get(layer.mask.id) : undefined;
    return mask ? maskUse(mask) : null;
  }

  private put(ops: Op[], layer: Layer, map: MapId, opacity: number, mask: MaskUse | null, weights: Record<string, number>): void {
    const base = { layerId: layer.id, opacity, mask };
    const blend = effectiveBlend(layer, map);
    const params = (what: string) => textSignature(`${what} ${blend} ${opacity} ${mask ? JSON.stringify(mask) : ''}`);
    const add = (source: Source, what: string) => ops.push({ ...base, type: 'blend', source, blend, key: params(what) });
    switch (layer.kind) {
      case 'painted':
        add({ type: 'paint', plane: planeKey(layer.id, map) }, 'paint');
        return;
      case 'coat': {
        const cell = layer.cells[map]!;
        if (cell.picture) add({ type: 'paint', plane: planeKey(layer.id, map) }, 'paint');
        else add({ type: 'value', value: cell.value! }, `value ${cell.value!.join()}`);
        return;
      }
      case 'group': {
        const members = this.members.get(layer.id) ?? [];
        if (!layer.passThrough) {
          const scope = this.scope(map, members, null, weights);
          if (scope.ops.length) add({ type: 'scope', scope }, 'scope');
          return;
        }
        const plain = opacity === 1 && !mask;
        const inside: Op[] = [];
        for (const member of members) this.layer(inside, member, map, weights);
        if (inside.length === 0) return;
        if (!plain) ops.push({ ...base, type: 'save', key: textSignature('save') });
        ops.push(...inside);
        if (!plain) ops.push({ ...base, type: 'restore', key: params('restore') });
        return;
      }
      case 'adjust': {
        const filter = layer.filter!;
        adjust(ops, { ...base, blend, key: params(JSON.stringify(filter)) }, filter, mapKind(map));
        return;
      }
      case 'echo': {
        const scope = this.echo(layer, map);
        if (scope) add({ type: 'scope', scope }, 'scope');
      }
    }
  }

  /** The original on its own, without its opacity and whether it is shown, converted and adjusted. */
  private echo(layer: Layer, map: MapId): Scope | null {
    const { of, from, members, filters } = layer.echo!;
    const original = this.byId.get(of);
    const [kind, fromKind] = [mapKind(map), mapKind(from)];
    if (!original || this.opening.has(layer.id) || (kind === 'normal') !== (fromKind === 'normal')) return null;
    this.opening.add(layer.id);
    const alone: Layer = { ...original, visible: true, opacity: 1, blend: 'normal' };
    const cell = alone.cells[from];
    if (cell) alone.cells = { ...alone.cells, [from]: { ...cell, on: true, opacity: 1, blend: 'normal' } };
    const inner = cell ? this.scope(from, [alone], null, members) : null;
    this.opening.delete(layer.id);
    if (!inner || inner.ops.length === 0) return null;
    const type = kind === fromKind ? 'scope' : 'converted';
    const base = { layerId: layer.id, opacity: 1, mask: null };
    const ops: Op[] = [{ ...base, type: 'blend', source: { type, scope: inner }, blend: 'normal', key: textSignature(type) }];
    for (const filter of filters)
      adjust(ops, { ...base, blend: 'normal', key: textSignature(JSON.stringify(filter)) }, filter, kind);
    return this.finish(kind, null, ops);
  }
}

const compiled = new WeakMap<Sheet, Map<string, Scope>>();

function remember(sheet: Sheet, what: string, make: () => Scope): Scope {
  const known = compiled.get(sheet) ?? compiled.set(sheet, new Map()).get(sheet)!;
  let scope = known.get(what);
  if (!scope) known.set(what, (scope = make()));
  return scope;
}

/** The operations of a map. Sheets are never changed in place, so this is made once for each. */
export function programOf(sheet: Sheet, map: MapId): Scope {
  return remember(sheet, map, () => {
    const compiler = new Compiler(sheet);
    return compiler.scope(map, sheet.maps.includes(map) ? compiler.outermost() : [], mapGround(map));
  });
}

/** One layer (with all in it) or several on their own, over nothing: for thumbnails and merging. */
export function programOfLayers(
  sheet: Sheet,
  map: MapId,
  layerIds: readonly string[],
  ground: readonly number[] | null = null,
): Scope {
  return remember(sheet, `${map} of ${layerIds.join()} over ${ground?.join() ?? ''}`, () => {
    const chosen = new Set(layerIds);
    const roots = sheet.layers.filter((l) => chosen.has(l.id) && !ancestors(sheet.layers, l.id).some((a) => chosen.has(a.id)));
    return new Compiler(sheet).scope(map, roots, ground);
  });
}

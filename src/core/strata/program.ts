/**
 * What has to be done for one map of a sheet, as a list of operations in order, from the bottom up. A scope is a
 * stack that blends among itself first: the sheet itself (over its ground) or an isolated group (over nothing).
 * Groups that pass through are written into the scope that they are in.
 */
import type { BlendId } from '../colour/blend';
import { WHOLE_BLENDS } from '../colour/blend';
import { mapGround, mapKind, type MapId } from '../kinds/maps';
import { findPicture, type Layer, type Mask, type Picture, type PictureUse, type Sheet, type Step } from '../document/schema';
import { planeKey } from '../document/planes';
import { ancestors, blockStart } from '../document/tree';
import type { MapKind, Pass } from '../kinds/filters/filter';
import { FILTERS, type Filter } from '../kinds/filters';
import type { Grey } from '../kinds/grey';
import { PLAIN, type Placement } from '../kinds/placement';
import { textSignature, type Signature } from './signature';
import type { Made } from '../kinds/sources';
import type { NormalKernel } from '../tile/normal';

/** A mask as it is used: only painted, which is quick, or a scope of values. */
export interface MaskUse {
  painted: { plane: string; ground: number; invert: boolean } | null;
  scope: Scope;
}

/** What a source of values becomes: a value or colour from `low` to `high`, or a colour along a ramp. */
export interface Spread {
  low: readonly number[];
  high: readonly number[];
  ramp: readonly { at: number; colour: readonly number[] }[] | null;
}

export type Source =
  | { type: 'paint'; plane: string }
  | { type: 'value'; value: readonly number[] }
  | { type: 'scope'; scope: Scope }
  /** A scope of another kind of map: colour to value by one number of it, value to grey. */
  | { type: 'converted'; scope: Scope; by: Grey }
  /** The alpha of a scope, as a value. */
  | { type: 'alpha'; scope: Scope }
  /** Directions from a scope of values seen as height. */
  | { type: 'relief'; scope: Scope; strength: number; kernel: NormalKernel }
  /** A rule; values by themselves go by `ruleKey`, whatever they become. */
  | { type: 'made'; made: Made; placement: Placement; spread: Spread; ruleKey: Signature }
  | { type: 'picture'; picture: Picture; use: PictureUse; placement: Placement }
  /** 1 on some parts, islands or faces of the model. */
  | { type: 'region'; by: 'parts' | 'islands' | 'faces'; names: readonly string[]; ids: readonly number[] };

export type Op = { layerId: string; opacity: number; mask: MaskUse | null; key: Signature } & (
  | { type: 'blend'; source: Source; blend: BlendId }
  /** `aux`: values of another map that the passes ask for. */
  | { type: 'adjust'; filter: Filter; passes: Pass[] | null; blend: BlendId; aux: Scope | null }
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

export interface Reach {
  /** Texels beside each texel … */
  rx: number;
  ry: number;
  /** … around one that lies so much further right and down, counted around the border if `round`. */
  dx: number;
  dy: number;
  round: boolean;
}

/** How far filters that look around reach. */
export function reachOf(passes: readonly Pass[]): Reach {
  const sum = (of: (p: Pass) => number) => passes.reduce((n, p) => n + of(p), 0);
  return {
    rx: sum((p) => p.rx),
    ry: sum((p) => p.ry),
    dx: sum((p) => p.dx ?? 0),
    dy: sum((p) => p.dy ?? 0),
    round: passes.some((p) => p.round),
  };
}

/** What steps of masks and some filters look at beside the stack itself: the layer that they belong to. */
type Context = Layer | null;

/**
 * Masks as layers use them, and what lies below layers: the same wherever in the sheet they are asked for. Made once,
 * or a stack of masks that look at what is below them would be compiled anew for each above it, and so on.
 */
interface Shared {
  masks: Map<string, MaskUse>;
  below: Map<string, Scope>;
}
const sharedBySheet = new WeakMap<Sheet, Shared>();
function sharedOf(sheet: Sheet): Shared {
  let shared = sharedBySheet.get(sheet);
  if (!shared) sharedBySheet.set(sheet, (shared = { masks: new Map(), below: new Map() }));
  return shared;
}

class Compiler {
  private members = new Map<string | null, Layer[]>();
  private byId: Map<string, Layer>;
  private masks: Map<string, Mask>;
  /** Echoes being opened: a cycle that slipped through ends here. */
  private opening = new Set<string>();

  /** `shared`: what compilers of the same sheet, or of what lies below a layer of it, have made already. */
  constructor(
    private sheet: Sheet,
    private shared: Shared = sharedOf(sheet),
  ) {
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
    return { kind, channels, ground, ops, key: textSignature(`${kind} ${channels} ${ground?.join() ?? 'clear'}`) };
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
    if (!mask) return null;
    const key = `${mask.id} ${layer.id}`;
    let use = this.shared.masks.get(key);
    if (!use) this.shared.masks.set(key, (use = this.mask(mask, layer)));
    return use;
  }

  mask(mask: Mask, context: Context): MaskUse {
    const active = mask.steps.filter((s) => s.on && s.amount > 0);
    const [only] = active;
    const plain =
      active.length === 1 &&
      only.source.type === 'paint' &&
      only.blend === 'normal' &&
      only.amount === 1 &&
      !only.invert &&
      only.filters.length === 0;
    const painted = plain ? { plane: planeKey(only.id, 'mask'), ground: mask.ground, invert: mask.invert } : null;
    const ops: Op[] = [];
    // A mask that would be made from itself ends here.
    if (!this.opening.has(mask.id)) {
      this.opening.add(mask.id);
      for (const step of active) this.step(ops, step, context);
      this.opening.delete(mask.id);
    }
    if (mask.invert) this.adjust(ops, plainOp('invert'), { type: 'invert' }, 'value', context);
    return { painted, scope: this.finish('value', [mask.ground], ops) };
  }

  private step(ops: Op[], step: Step, context: Context): void {
    const source = this.stepSource(step, context);
    if (!source) return;
    const what = `step ${step.blend} ${step.amount}`;
    const base = { layerId: step.id, opacity: step.amount, mask: null };
    const key = (s: Source) => textSignature(`${what} ${sourceText(s)}`);
    if (step.filters.length === 0 && !step.invert) {
      ops.push({ ...base, type: 'blend', source, blend: step.blend, key: key(source) });
      return;
    }
    const inner: Op[] = [{ ...plainOp(sourceText(source)), layerId: step.id, type: 'blend', source, blend: 'normal' }];
    for (const filter of step.filters) this.adjust(inner, plainOp(JSON.stringify(filter)), filter, 'value', context);
    if (step.invert) this.adjust(inner, plainOp('invert'), { type: 'invert' }, 'value', context);
    const scope: Source = { type: 'scope', scope: this.finish('value', null, inner) };
    ops.push({ ...base, type: 'blend', source: scope, blend: step.blend, key: key(scope) });
  }

  private stepSource(step: Step, context: Context): Source | null {
    const { source } = step;
    switch (source.type) {
      case 'constant':
        return { type: 'value', value: [source.value] };
      case 'paint':
        return { type: 'paint', plane: planeKey(step.id, 'mask') };
      case 'made':
        return madeSource(source.made, source.placement, { low: [0], high: [1], ramp: null });
      case 'picture': {
        const picture = findPicture(this.sheet, source.use.picture);
        return picture ? { type: 'picture', picture, use: source.use, placement: source.placement ?? PLAIN } : null;
      }
      case 'parts':
        return { type: 'region', by: 'parts', names: source.names, ids: [] };
      case 'islands':
      case 'faces':
        return { type: 'region', by: source.type, names: [], ids: source.ids };
      case 'layer': {
        const scope = this.alone(source.of, source.map, {});
        if (!scope) return null;
        return source.take === 'alpha' ? { type: 'alpha', scope } : this.asValue(scope, source.by);
      }
      case 'below': {
        const scope = context && this.below(source.map, context);
        return scope && this.asValue(scope, source.by);
      }
      case 'contact':
        return context && this.contact(source, context);
      case 'mask': {
        const other = this.masks.get(source.of);
        return other ? { type: 'scope', scope: this.mask(other, context).scope } : null;
      }
    }
  }

  private asValue(scope: Scope, by: Grey): Source | null {
    if (scope.kind === 'normal') return null;
    return scope.kind === 'value' ? { type: 'scope', scope } : { type: 'converted', scope, by };
  }

  /** A layer by itself, without its opacity and whether it is shown; null if it says nothing on the map or would be made from itself. */
  private alone(
    layerId: string,
    map: MapId,
    weights: Record<string, number>,
    ground: readonly number[] | null = null,
  ): Scope | null {
    const original = this.byId.get(layerId);
    const cell = original?.cells[map];
    if (!original || !cell || this.opening.has(layerId)) return null;
    this.opening.add(layerId);
    const alone: Layer = { ...original, visible: true, opacity: 1, blend: 'normal' };
    alone.cells = { ...alone.cells, [map]: { ...cell, on: true, opacity: 1, blend: ground ? cell.blend : 'normal' } };
    const scope = this.scope(map, [alone], ground, weights);
    this.opening.delete(layerId);
    return scope.ops.length ? scope : null;
  }

  /** What a map shows under a layer: all that comes before it in the stack. Groups around it are open, without masks. */
  private below(map: MapId, layer: Layer): Scope | null {
    const { layers } = this.sheet;
    const at = layers.findIndex((l) => l.id === layer.id);
    if (at < 0 || !this.sheet.maps.includes(map)) return null;
    const key = `${map} ${layer.id}`;
    const known = this.shared.below.get(key);
    if (known) return known;
    const open = ancestors(layers, layer.id).map((g) => ({ ...g, opacity: 1, visible: true, mask: null }));
    const compiler = new Compiler({ ...this.sheet, layers: [...layers.slice(0, blockStart(layers, at)), ...open] }, this.shared);
    for (const id of this.opening) compiler.opening.add(id);
    const scope = compiler.scope(map, compiler.outermost(), mapGround(map));
    this.shared.below.set(key, scope);
    return scope;
  }

  /** Half of own height less that below, around 0.5; then what rises above is cut out of it (Step: `contact`). */
  private contact(p: { offset: number; contrast: number; line: number }, layer: Layer): Source | null {
    const bare = { ...layer, mask: null };
    const own = this.scope('height', [{ ...bare, visible: true, opacity: 1 }], mapGround('height'));
    const below = this.below('height', layer);
    if (!below) return null;
    const turned = this.finish('value', null, [
      { ...plainOp('scope'), type: 'blend', source: { type: 'scope', scope: below }, blend: 'normal' },
    ]);
    this.adjust(turned.ops, plainOp('invert'), { type: 'invert' }, 'value', null);
    const middle = 0.5 - p.offset / 2;
    // At contrast 0 the contact is half of the whole range of height wide, at 1 as sharp as 1/100 of it.
    const wide = 0.25 * (1 - p.contrast) + 0.005;
    const filter: Filter =
      p.line > 0
        ? { type: 'band', centre: middle, width: p.line / 2, soften: wide }
        : { type: 'levels', black: middle - wide / 2, white: middle + wide / 2, gamma: 1, outBlack: 0, outWhite: 1 };
    const ops: Op[] = [
      { ...plainOp('own'), type: 'blend', source: { type: 'scope', scope: own }, blend: 'normal' },
      { ...plainOp('below'), opacity: 0.5, type: 'blend', source: { type: 'scope', scope: turned }, blend: 'normal' },
    ];
    this.adjust(ops, plainOp(JSON.stringify(filter)), filter, 'value', null);
    return { type: 'scope', scope: this.finish('value', null, ops) };
  }

  /** Adds an adjustment, if it does anything to such a map. */
  private adjust(
    ops: Op[],
    base: Pick<Op, 'layerId' | 'opacity' | 'mask' | 'key'> & { blend?: BlendId },
    filter: Filter,
    kind: MapKind,
    context: Context,
  ): void {
    const def = FILTERS[filter.type];
    const passes = def.passes?.(filter, this.sheet) ?? null;
    if (!def.fits(kind) || passes?.length === 0) return;
    const map = def.aux?.(filter);
    const below = map && context ? this.below(map, context) : null;
    let aux: Scope | null = below;
    // One value a texel: a colour by its luminosity.
    if (below && below.kind !== 'value') {
      const source = this.asValue(below, 'luminance');
      aux = source && this.finish('value', [0], [{ ...plainOp(sourceText(source)), type: 'blend', source, blend: 'normal' }]);
    }
    ops.push({ blend: 'normal', ...base, type: 'adjust', filter, passes, aux });
  }

  private put(ops: Op[], layer: Layer, map: MapId, opacity: number, mask: MaskUse | null, weights: Record<string, number>): void {
    const base = { layerId: layer.id, opacity, mask };
    const blend = effectiveBlend(layer, map);
    const params = (what: string) =>
      textSignature(
        `${what} ${blend} ${opacity} ${mask ? (mask.painted ? JSON.stringify(mask.painted) : `mask ${mask.scope.key}`) : ''}`,
      );
    const add = (source: Source, what: string) => ops.push({ ...base, type: 'blend', source, blend, key: params(what) });
    switch (layer.kind) {
      case 'painted':
        add({ type: 'paint', plane: planeKey(layer.id, map) }, 'paint');
        return;
      case 'coat': {
        const source = this.coatSource(layer, map);
        if (source) add(source, sourceText(source));
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
        this.adjust(ops, { ...base, blend, key: params(JSON.stringify(filter)) }, filter, mapKind(map), layer);
        return;
      }
      case 'echo': {
        const scope = this.echo(layer, map);
        if (scope) add({ type: 'scope', scope }, 'scope');
      }
    }
  }

  private coatSource(layer: Layer, map: MapId): Source | null {
    const cell = layer.cells[map]!;
    if (cell.picture) return { type: 'paint', plane: planeKey(layer.id, map) };
    if (cell.placed) {
      const picture = findPicture(this.sheet, cell.placed.picture);
      return picture ? { type: 'picture', picture, use: cell.placed, placement: layer.placement ?? PLAIN } : null;
    }
    const ramp = mapKind(map) === 'colour' && cell.ramp ? cell.ramp : null;
    if (layer.source && (cell.low || ramp))
      return madeSource(layer.source, layer.placement, { low: cell.low ?? cell.value!, high: cell.value!, ramp });
    return { type: 'value', value: cell.value! };
  }

  /** The original on its own, converted and adjusted. */
  private echo(layer: Layer, map: MapId): Scope | null {
    const { of, from, members, filters, by, relief } = layer.echo!;
    const [kind, fromKind] = [mapKind(map), mapKind(from)];
    const steep = kind === 'normal' && fromKind === 'value';
    if (this.opening.has(layer.id) || ((kind === 'normal') !== (fromKind === 'normal') && !steep)) return null;
    this.opening.add(layer.id);
    const inner = this.alone(of, from, members, steep ? mapGround(from) : null);
    this.opening.delete(layer.id);
    if (!inner) return null;
    const source: Source = steep
      ? { type: 'relief', scope: inner, ...relief }
      : kind === fromKind
        ? { type: 'scope', scope: inner }
        : { type: 'converted', scope: inner, by };
    const ops: Op[] = [{ ...plainOp(sourceText(source)), layerId: layer.id, type: 'blend', source, blend: 'normal' }];
    for (const filter of filters)
      this.adjust(ops, { ...plainOp(JSON.stringify(filter)), layerId: layer.id }, filter, kind, layer);
    return this.finish(kind, null, ops);
  }
}

/** An operation at full strength that belongs to no layer. */
const plainOp = (what: string) => ({ layerId: '', opacity: 1, mask: null, key: textSignature(what) });

function madeSource(made: Made, placement: Placement | null, spread: Spread): Source {
  const at = placement ?? PLAIN;
  return { type: 'made', made, placement: at, spread, ruleKey: textSignature(`${JSON.stringify(made)} ${JSON.stringify(at)}`) };
}

/** What is particular to a source beside the scopes and planes in it, for signatures. */
function sourceText(source: Source): string {
  switch (source.type) {
    case 'value':
      return `value ${source.value.join()}`;
    case 'converted':
      return `converted ${source.by}`;
    case 'relief':
      return `relief ${source.strength} ${source.kernel}`;
    case 'made':
      return `made ${source.ruleKey} ${JSON.stringify(source.spread)}`;
    case 'picture':
      return `picture ${JSON.stringify(source.use)} ${JSON.stringify(source.placement)} ${source.picture.encoding}`;
    case 'region':
      return `region ${source.by} ${source.names.join('/')} ${source.ids.join()}`;
    default:
      return source.type;
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

/** A mask by itself as the layer that it is on uses it; null if it is not there. */
export function programOfMask(sheet: Sheet, maskId: string, layerId: string | null): MaskUse | null {
  const mask = sheet.masks.find((m) => m.id === maskId);
  const layer = sheet.layers.find((l) => l.id === layerId) ?? null;
  return mask ? new Compiler(sheet).mask(mask, layer) : null;
}

/** One step of a mask by itself: for its thumbnail. */
export function programOfStep(sheet: Sheet, maskId: string, stepId: string, layerId: string | null): MaskUse | null {
  const mask = sheet.masks.find((m) => m.id === maskId);
  const step = mask?.steps.find((s) => s.id === stepId);
  if (!mask || !step) return null;
  const layer = sheet.layers.find((l) => l.id === layerId) ?? null;
  const only: Mask = { ...mask, ground: 0, invert: false, steps: [{ ...step, on: true, blend: 'normal', amount: 1 }] };
  return new Compiler(sheet).mask(only, layer);
}

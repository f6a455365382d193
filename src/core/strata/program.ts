/** From the document to scopes of operations (scope.ts). */
import type { BlendId } from '../colour/blend';
import { WHOLE_BLENDS } from '../colour/blend';
import { bakeOf } from '../document/bake';
import { asMask, isFence, maskOrFence } from '../document/fence';
import { planeKey } from '../document/planes';
import { findPicture, type Fence, type Layer, type Mask, type Picture, type Sheet, type Step } from '../document/schema';
import { ancestors, blockStart } from '../document/tree';
import { FILTERS, type Filter } from '../kinds/filters';
import type { MapKind } from '../kinds/filters/filter';
import type { Grey } from '../kinds/grey';
import { LAYERS } from '../kinds/layers';
import { mapGround, mapInfo, mapKind, type MapId } from '../kinds/maps';
import { STEPS } from '../kinds/steps';
import type { Build } from '../kinds/steps/step';
import { LAYER_OPS, type LayerBuild, type OpBase, type Weights } from './layers';
import { BrokenNode } from './nodes/broken';
import { AlphaNode, ConvertedNode, ScopeNode } from './nodes/inner';
import { LikeColoursNode } from './nodes/like';
import { MissedNode } from './nodes/missed';
import { MadeNode } from './nodes/made';
import { PlaneNode } from './nodes/paint';
import { PictureNode } from './nodes/picture';
import { SurfaceNode } from './nodes/onSurface';
import { ValueNode } from './nodes/value';
import type { MaskUse, Node, Op, Scope } from './scope';
import type { Standing } from './standing';
import { textSignature } from './signature';

/** The blend mode that a layer really uses on a map: height adds up and normals turn, unless the cell says otherwise. */
export function effectiveBlend(layer: Layer, map: MapId): BlendId {
  const own = layer.cells[map]?.blend;
  if (own) return own;
  const { joins } = mapInfo(map);
  if (joins) return LAYERS[layer.kind].byItself ? joins.layer : joins.adjust;
  if (mapKind(map) === 'value' && (WHOLE_BLENDS as readonly string[]).includes(layer.blend)) return 'normal';
  return layer.blend;
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

class Compiler implements LayerBuild {
  private members = new Map<string | null, Layer[]>();
  private byId: Map<string, Layer>;
  private masks: Map<string, Mask>;
  /** Echoes being opened: a cycle that slipped through ends here. */
  private opening = new Set<string>();

  /** `shared`: what compilers of the same sheet, or of what lies below a layer of it, have made already. */
  constructor(
    readonly sheet: Sheet,
    private shared: Shared = sharedOf(sheet),
    /** What is compiled is a fence, which is no part of the stack: it sees all of it. */
    private fencing = false,
  ) {
    this.byId = new Map(sheet.layers.map((l) => [l.id, l]));
    this.masks = new Map(sheet.masks.map((m) => [m.id, m]));
    for (const l of sheet.layers) {
      const list = this.members.get(l.parent);
      if (list) list.push(l);
      else this.members.set(l.parent, [l]);
    }
  }

  scope(map: MapId, layers: readonly Layer[], ground: readonly number[] | null, weights: Weights = {}): Scope {
    const ops = this.opsOf(layers, map, weights);
    if (ground && ops.length > 0 && mapInfo(map).relief) ops.push({ ...plainOp('hold'), type: 'hold' });
    return this.finish(mapKind(map), ground, ops);
  }

  private opsOf(layers: readonly Layer[], map: MapId, weights: Weights): Op[] {
    const ops: Op[] = [];
    for (const layer of layers) this.layer(ops, layer, map, weights);
    return ops;
  }

  outermost(): Layer[] {
    return this.members.get(null) ?? [];
  }

  private everything(map: MapId): Scope | null {
    return this.sheet.maps.includes(map) ? programOf(this.sheet, map) : null;
  }

  private finish(kind: MapKind, ground: readonly number[] | null, ops: Op[]): Scope {
    const channels = kind === 'value' ? 1 : 3;
    return { kind, channels, ground, ops, key: textSignature(`${kind} ${channels} ${ground?.join() ?? 'clear'}`) };
  }

  layer(ops: Op[], layer: Layer, map: MapId, weights: Weights): void {
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
      STEPS[only.source.type].painted &&
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
    if (mask.invert) this.adjust(ops, plainOp('invert'), { type: 'invert' }, 'mask', context);
    return { painted, scope: { ...this.finish('value', [mask.ground], ops), whole: true } };
  }

  private step(ops: Op[], step: Step, context: Context): void {
    const source = STEPS[step.source.type].compile(step.source, this.buildFor(step, context));
    if (!source) return;
    const what = `step ${step.blend} ${step.amount}`;
    const base = { layerId: step.id, opacity: step.amount, mask: null };
    const key = (s: Node) => textSignature(`${what} ${s.text}`);
    if (step.filters.length === 0 && !step.invert) {
      ops.push({ ...base, type: 'blend', source, blend: step.blend, key: key(source) });
      return;
    }
    const inner: Op[] = [{ ...plainOp(source.text), layerId: step.id, type: 'blend', source, blend: 'normal' }];
    for (const filter of step.filters) this.adjust(inner, plainOp(JSON.stringify(filter)), filter, 'mask', context);
    if (step.invert) this.adjust(inner, plainOp('invert'), { type: 'invert' }, 'mask', context);
    const scope = new ScopeNode(this.finish('value', null, inner));
    ops.push({ ...base, type: 'blend', source: scope, blend: step.blend, key: key(scope) });
  }

  /** What a step may be built from, for the layer that its mask is on. */
  private buildFor(step: Step, context: Context): Build<Node, Scope> {
    return {
      paint: () => new PlaneNode(planeKey(step.id, 'mask')),
      value: (v) => new ValueNode([v]),
      made: (made, placement) => new MadeNode(made, placement, { low: [0], high: [1], ramp: null }),
      picture: (use, placement) => {
        const picture = findPicture(this.sheet, use.picture);
        return picture ? new PictureNode(picture, use, placement) : null;
      },
      onSurface: (settings, values) => new SurfaceNode(settings, values),
      baked: (of) => {
        const picture = bakeOf(this.sheet, of);
        return picture ? new PictureNode(picture, { picture: picture.id, take: 'luminance', neutral: 0 }, null) : null;
      },
      bakedColours: (of) => {
        const picture = bakeOf(this.sheet, of);
        if (!picture) return null;
        const source = new PictureNode(picture, { picture: picture.id, take: 'luminance', neutral: 0 }, null);
        return this.finish('colour', null, [{ ...plainOp(source.text), type: 'blend', source, blend: 'normal' }]);
      },
      bakedElsewhere: (of) => bakeOf(this.sheet, of)?.bake?.made === 'file',
      broken: (values, by) => {
        const inner: Op[] = [{ ...plainOp(values.text), type: 'blend', source: values, blend: 'normal' }];
        return new BrokenNode(this.finish('value', [0], inner), by);
      },
      alone: (layerId, map) => this.alone(layerId, map, {}),
      own: (map) => context && this.scope(map, [{ ...context, mask: null, visible: true, opacity: 1 }], mapGround(map)),
      below: (map) => context && this.below(map, context),
      seen: (map) => (this.fencing ? this.everything(map) : context && this.below(map, context)),
      likeColours: (scope, colours, tolerance, soft) =>
        scope.kind === 'colour' ? new LikeColoursNode(scope, colours, tolerance, soft) : null,
      adjusted: (values, filters) => {
        const ops: Op[] = [{ ...plainOp(values.text), type: 'blend', source: values, blend: 'normal' }];
        for (const filter of filters) this.adjust(ops, plainOp(JSON.stringify(filter)), filter, 'mask', null);
        return new ScopeNode(this.finish('value', null, ops));
      },
      mask: (maskId) => {
        const other = this.masks.get(maskId);
        return other ? this.mask(other, context).scope : null;
      },
      asValue: (scope, by) => this.asValue(scope, by),
      alpha: (scope) => new AlphaNode(scope),
      laid: (parts, filters) => this.laid(parts, filters),
    };
  }

  private laid(parts: Parameters<Build<Node, Scope>['laid']>[0], filters: readonly Filter[]): Node {
    const put = (scope: Scope, opacity = 1): Op => ({
      ...plainOp(`laid ${opacity}`),
      opacity,
      type: 'blend',
      source: new ScopeNode(scope),
      blend: 'normal',
    });
    const ops: Op[] = [];
    for (const { scope, filters: own = [], opacity } of parts) {
      const inner = own.length === 0 ? scope : this.finish('value', null, [put(scope)]);
      for (const filter of own) this.adjust(inner.ops, plainOp(JSON.stringify(filter)), filter, 'mask', null);
      ops.push(put(inner, opacity));
    }
    for (const filter of filters) this.adjust(ops, plainOp(JSON.stringify(filter)), filter, 'mask', null);
    return new ScopeNode(this.finish('value', null, ops));
  }

  private asValue(scope: Scope, by: Grey): Node | null {
    if (scope.kind === 'normal') return null;
    return scope.kind === 'value' ? new ScopeNode(scope) : new ConvertedNode(scope, by);
  }

  /** A layer by itself, without its opacity and whether it is shown; null if it says nothing on the map or would be made from itself. */
  private alone(layerId: string, map: MapId, weights: Weights, ground: readonly number[] | null = null): Scope | null {
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
  below(map: MapId, layer: Layer): Scope | null {
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

  /** Adds an adjustment, if it does anything to such a map. */
  adjust(ops: Op[], base: OpBase & { blend?: BlendId }, filter: Filter, map: MapId | 'mask', context: Context): void {
    const def = FILTERS[filter.type];
    const passes = def.passes?.(filter, this.sheet) ?? null;
    if (!def.fits(mapKind(map)) || passes?.length === 0) return;
    const other = def.aux?.(filter);
    const below = other && context ? this.below(other, context) : null;
    let aux: Scope | null = below;
    // One value a texel: a colour by its luminosity.
    if (below && below.kind !== 'value') {
      const source = this.asValue(below, 'luminance');
      aux = source && this.finish('value', [0], [{ ...plainOp(source.text), type: 'blend', source, blend: 'normal' }]);
    }
    ops.push({ blend: 'normal', ...base, type: 'adjust', filter, passes, aux });
  }

  private put(ops: Op[], layer: Layer, map: MapId, opacity: number, mask: MaskUse | null, weights: Weights): void {
    const blend = effectiveBlend(layer, map);
    const how = `${blend} ${opacity} ${mask ? (mask.painted ? JSON.stringify(mask.painted) : `mask ${mask.scope.key}`) : ''}`;
    const key = (what: string) => textSignature(`${what} ${how}`);
    LAYER_OPS[layer.kind](this, { ops, layer, map, opacity, mask, blend, weights, key });
  }

  /** The groups around a layer, from the outermost in, and the layer itself. null: one of them is not seen on this map. */
  standing(map: MapId, layer: Layer): Standing[] | null {
    const out: Standing[] = [];
    let before: Layer[] = [];
    let ground: readonly number[] | null = mapGround(map);
    const path = [...ancestors(this.sheet.layers, layer.id).toReversed(), layer];
    for (const at of path) {
      const siblings = this.members.get(at.parent) ?? [];
      before = [...before, ...siblings.slice(0, siblings.indexOf(at))];
      const cell = at.cells[map];
      const opacity = at.opacity * (cell?.opacity ?? 1);
      if (!at.visible || !cell?.on || opacity === 0) return null;
      const mask = this.maskOf(at);
      const through = at !== layer && at.passThrough;
      if (!through || opacity < 1 || mask) {
        const below = this.finish(mapKind(map), ground, this.opsOf(before, map, {}));
        out.push({ blend: through ? 'through' : effectiveBlend(at, map), opacity, mask, below });
      }
      if (!through) [before, ground] = [[], null];
    }
    return out;
  }

  membersOf(groupId: string): Layer[] {
    return this.members.get(groupId) ?? [];
  }

  original(layer: Layer, of: string, map: MapId, weights: Weights, ground: readonly number[] | null): Scope | null {
    if (this.opening.has(layer.id)) return null;
    this.opening.add(layer.id);
    const inner = this.alone(of, map, weights, ground);
    this.opening.delete(layer.id);
    return inner;
  }

  filtered(source: Node, filters: readonly Filter[], map: MapId, layer: Layer): Scope {
    const ops: Op[] = [{ ...plainOp(source.text), layerId: layer.id, type: 'blend', source, blend: 'normal' }];
    for (const filter of filters) this.adjust(ops, { ...plainOp(JSON.stringify(filter)), layerId: layer.id }, filter, map, layer);
    return this.finish(mapKind(map), null, ops);
  }
}

/** An operation at full strength that belongs to no layer. */
const plainOp = (what: string) => ({ layerId: '', opacity: 1, mask: null, key: textSignature(what) });

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

/** A bake as it is looked at: its values as they are, loud where it met nothing, dark off the islands. */
export function programOfBake(sheet: Sheet, picture: Picture): Scope {
  return remember(sheet, `bake ${JSON.stringify(picture)}`, () => {
    const source = new PictureNode(picture, { picture: picture.id, take: 'luminance', neutral: 0 }, null);
    const loud = picture.bake && picture.bake.missed > 0 ? [new MissedNode()] : [];
    const ops = [...loud, source].map((node): Op => ({ ...plainOp(node.text), type: 'blend', source: node, blend: 'normal' }));
    return { kind: 'colour', channels: 3, ground: OFF_ISLANDS, ops, key: textSignature(`look at ${picture.id}`) };
  });
}
const OFF_ISLANDS = [0.12, 0.12, 0.12];

/** What a map shows below a layer; null if the sheet does not carry it. */
export const programBelow = (sheet: Sheet, map: MapId, layer: Layer): Scope | null => new Compiler(sheet).below(map, layer);

/** What a map shows up to a layer: without all that lies above it. */
export function programThrough(sheet: Sheet, map: MapId, layer: Layer): Scope {
  return remember(sheet, `${map} through ${layer.id}`, () => {
    const { layers } = sheet;
    const at = layers.findIndex((l) => l.id === layer.id);
    const around = new Set(ancestors(layers, layer.id).map((g) => g.id));
    const shown = layers.map((l, n) => (n > at && !around.has(l.id) ? { ...l, visible: false } : l));
    return programOf({ ...sheet, layers: shown }, map);
  });
}

/** How a layer stands in the stack of a map (standing.ts); null where it is not seen on it. */
export const standingOf = (sheet: Sheet, map: MapId, layer: Layer): Standing[] | null =>
  sheet.maps.includes(map) ? new Compiler(sheet).standing(map, layer) : null;

/** A mask by itself as the layer that it is on uses it; null if it is not there. */
export function programOfMask(sheet: Sheet, maskId: string, layerId: string | null): MaskUse | null {
  const mask = maskOrFence(sheet, maskId);
  const layer = sheet.layers.find((l) => l.id === layerId) ?? null;
  return mask ? new Compiler(sheet, sharedOf(sheet), isFence(mask)).mask(mask, layer) : null;
}

/** A fence as values, 1 where it lets through, before it is softened: for a layer at work, or none. */
export function programOfFence(sheet: Sheet, fence: Fence, layerId: string | null): Scope {
  const layer = sheet.layers.find((l) => l.id === layerId) ?? null;
  return new Compiler(sheet, sharedOf(sheet), true).mask(asMask(fence), layer).scope;
}

/** One step of a mask by itself: for its thumbnail. */
export function programOfStep(sheet: Sheet, maskId: string, stepId: string, layerId: string | null): MaskUse | null {
  const mask = maskOrFence(sheet, maskId);
  const step = mask?.steps.find((s) => s.id === stepId);
  if (!mask || !step) return null;
  const layer = sheet.layers.find((l) => l.id === layerId) ?? null;
  const only: Mask = { ...mask, ground: 0, invert: false, steps: [{ ...step, on: true, blend: 'normal', amount: 1 }] };
  return new Compiler(sheet, sharedOf(sheet), isFence(mask)).mask(only, layer);
}

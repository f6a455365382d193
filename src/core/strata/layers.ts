/** What each kind of layer lays down on a map. */
import type { BlendId } from '../colour/blend';
import { planeKey } from '../document/planes';
import { findPicture, type Layer, type Sheet } from '../document/schema';
import type { Filter } from '../kinds/filters';
import type { LayerKind } from '../kinds/layers';
import { mapGround, mapKind, type MapId } from '../kinds/maps';
import { DecalNode } from './nodes/decal';
import { ConvertedNode, ScopeNode } from './nodes/inner';
import { MadeNode } from './nodes/made';
import { PlaneNode } from './nodes/paint';
import { PictureNode } from './nodes/picture';
import { ReliefNode } from './nodes/relief';
import { ValueNode } from './nodes/value';
import type { MaskUse, Node, Op, Scope } from './scope';
import { textSignature, type Signature } from './signature';

/** What layers may ask of whoever compiles them (program.ts). */
export interface LayerBuild {
  readonly sheet: Sheet;
  membersOf(groupId: string): Layer[];
  /** Adds a layer's operations. `weights`: members that weigh differently. */
  layer(ops: Op[], layer: Layer, map: MapId, weights: Weights): void;
  scope(map: MapId, layers: readonly Layer[], ground: readonly number[] | null, weights?: Weights): Scope;
  /** Filters of the layer itself, one after another over a source. */
  filtered(source: Node, filters: readonly Filter[], map: MapId, layer: Layer): Scope;
  /** Adds an adjustment of what is there, if it does anything to such a map. */
  adjust(ops: Op[], base: OpBase & { blend?: BlendId }, filter: Filter, map: MapId, layer: Layer): void;
  /** Another layer by itself, for this one; null if it says nothing on the map or would be made from itself. */
  original(layer: Layer, of: string, map: MapId, weights: Weights, ground: readonly number[] | null): Scope | null;
}

export type Weights = Record<string, number>;
export type OpBase = Pick<Op, 'layerId' | 'opacity' | 'mask' | 'key'>;

/** One layer on its way into a list of operations. */
export interface Putting {
  ops: Op[];
  layer: Layer;
  map: MapId;
  opacity: number;
  mask: MaskUse | null;
  blend: BlendId;
  weights: Weights;
  /** Key of an operation with these settings that does `what`. */
  key(what: string): Signature;
}

type Put = (build: LayerBuild, putting: Putting) => void;

const base = ({ layer, opacity, mask }: Putting) => ({ layerId: layer.id, opacity, mask });

function add(putting: Putting, source: Node): void {
  putting.ops.push({ ...base(putting), type: 'blend', source, blend: putting.blend, key: putting.key(source.text) });
}

const painted: Put = (_build, putting) => add(putting, new PlaneNode(planeKey(putting.layer.id, putting.map)));

const coat: Put = ({ sheet }, putting) => {
  const { layer, map } = putting;
  const { source, placement } = layer;
  const { picture, placed, low, value, ramp } = layer.cells[map]!;
  if (picture) return add(putting, new PlaneNode(planeKey(layer.id, map)));
  if (placed) {
    const found = findPicture(sheet, placed.picture);
    return found && add(putting, new PictureNode(found, placed, placement));
  }
  const along = mapKind(map) === 'colour' && ramp ? ramp : null;
  const made =
    source && (low || along)
      ? new MadeNode(source, placement, { low: low ?? value!, high: value!, ramp: along })
      : new ValueNode(value!);
  const shape = placement?.by === 'decal' ? decalShape(sheet, layer) : null;
  add(putting, shape ? new DecalNode(made, shape) : made);
};

/** The picture that a decal shows: the first one that its layer lays down, on a map that is on or not. */
function decalShape(sheet: Sheet, { cells, placement }: Layer): PictureNode | null {
  for (const map of sheet.maps) {
    const placed = cells[map]?.placed;
    const found = placed && findPicture(sheet, placed.picture);
    if (found) return new PictureNode(found, placed, placement);
  }
  return null;
}

const group: Put = (build, putting) => {
  const { ops, layer, map, opacity, mask, weights } = putting;
  const members = build.membersOf(layer.id);
  if (!layer.passThrough) {
    const scope = build.scope(map, members, null, weights);
    if (scope.ops.length) add(putting, new ScopeNode(scope));
    return;
  }
  const plain = opacity === 1 && !mask;
  const inside: Op[] = [];
  for (const member of members) build.layer(inside, member, map, weights);
  if (inside.length === 0) return;
  if (!plain) ops.push({ ...base(putting), type: 'save', key: textSignature('save') });
  ops.push(...inside);
  if (!plain) ops.push({ ...base(putting), type: 'restore', key: putting.key('restore') });
};

const adjust: Put = (build, putting) => {
  const filter = putting.layer.filter!;
  const { ops, layer, map, blend } = putting;
  build.adjust(ops, { ...base(putting), blend, key: putting.key(JSON.stringify(filter)) }, filter, map, layer);
};

/** The original on its own, converted and adjusted. */
const echo: Put = (build, putting) => {
  const { layer, map } = putting;
  const { of, from, members, filters, by, relief } = layer.echo!;
  const [kind, fromKind] = [mapKind(map), mapKind(from)];
  const steep = kind === 'normal' && fromKind === 'value';
  if ((kind === 'normal') !== (fromKind === 'normal') && !steep) return;
  const inner = build.original(layer, of, from, members, steep ? mapGround(from) : null);
  if (!inner) return;
  const source = steep
    ? new ReliefNode(inner, relief.strength, relief.kernel)
    : kind === fromKind
      ? new ScopeNode(inner)
      : new ConvertedNode(inner, by);
  add(putting, new ScopeNode(build.filtered(source, filters, map, layer)));
};

export const LAYER_OPS: Record<LayerKind, Put> = { painted, coat, group, adjust, echo };

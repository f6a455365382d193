/**
 * What has to be done for one map of a sheet, as a list of operations in order, from the bottom up. A scope is a
 * stack that blends among itself first: the sheet itself (over its ground) or an isolated group (over nothing).
 * Groups that pass through are written into the scope that they are in.
 */
import type { BlendId } from '../colour/blend';
import type { Sheet } from '../document/schema';
import type { Filter } from '../kinds/filters';
import type { MapKind, Pass } from '../kinds/filters/filter';
import type { Rect } from '../tile/mips';
import type { TileIndex, TileStore } from '../tile/tiles';
import type { State } from './planes';
import { numberSignature, type Signature } from './signature';
import type { Surface } from '../mesh/surface';
import type { TileValue } from './tileCache';

/** Stands for "nothing here" in signatures. */
export const NOTHING = numberSignature(7);
/** Stands for "the same everywhere". */
export const EVERYWHERE = numberSignature(1);

/**
 * Texels of a whole tile that are seen: where a number is not 0. What is made of the others counts for nothing, so it need not be made;
 * what is made has the same bits either way.
 */
export interface SeenTexels {
  /** Of the numbers. */
  signature: Signature;
  /** null: all of the tile. Valid until the node has been carried out. */
  where: () => Float32Array | null;
}

/** What signatures of nodes are made of: one moment of a sheet. */
export interface Moment {
  readonly sheet: Sheet;
  readonly store: TileStore;
  /** There is a model, whether its surface has been made yet or not. */
  readonly onModel: boolean;
  /** Of what is stored on a tile of a plane; NOTHING where nothing is. */
  stamp(plane: string, tile: TileIndex): Signature;
  /** Of a scope's whole result on a tile. */
  signatureOf(scope: Scope, tile: TileIndex): Signature;
  /** Of what hangs on the place: which tile of which sheet over which model. */
  place(tile: TileIndex): Signature;
  /** Of a picture's pixels. */
  pictureStamp(id: string): Signature;
  /** The tiles that a reach in texels touches, in a fixed order; beyond the border only where the sheet wraps. */
  around(tile: TileIndex, reach: { rx: number; ry: number }): TileIndex[];
}

/** What nodes find around them while they are carried out. */
export interface At extends Moment {
  /** The model under the sheet; null on a canvas. */
  readonly surface: Surface | null;
  /** A whole tile of a scope, through the cache. */
  tileOf(scope: Scope, tile: TileIndex): TileValue;
  /** A scope over a rectangle of a tile. */
  run(scope: Scope, tile: TileIndex, rect: Rect, asked?: SeenTexels | null): State;
  cached(signature: Signature, make: () => TileValue): TileValue;
  /** What is kept, if it is. */
  known(signature: Signature): TileValue | null;
  /** A rectangle of a tile as planes in the kernels' arena; planes that are not there are 1. */
  cut(planes: number, value: TileValue, rect: Rect): State;
}

/** Where the values come from that an operation lays down. Each kind is a file in nodes/. */
export interface Node {
  /** What it is beside the scopes and planes in it: for signatures. */
  readonly text: string;
  /** Planes of the store that it reads. */
  readonly planes: readonly string[];
  /** Scopes in it, and how many texels around each it looks at. */
  readonly scopes: readonly { scope: Scope; around: number }[];
  /** What it takes from the tile beside its text; NOTHING: there is nothing here. */
  part(at: Moment, tile: TileIndex): Signature;
  /** Values, then alpha, over a rectangle of a tile; `asked`: where they are seen, for what saves by it. Never asked where `absent`. */
  evaluate(at: At, tile: TileIndex, rect: Rect, into: Pick<Scope, 'kind' | 'channels'>, asked?: SeenTexels | null): State;
  /** There is nothing to lay down here. Quick to ask. */
  absent?(at: At, tile: TileIndex): boolean;
  /** Stored texels that can be laid down as they are. */
  stored?(at: At, tile: TileIndex): Uint16Array;
}

/** A mask as it is used: only painted, which is quick, or a scope of values. */
export interface MaskUse {
  painted: { plane: string; ground: number; invert: boolean } | null;
  scope: Scope;
}

export type Op = { layerId: string; opacity: number; mask: MaskUse | null; key: Signature } & (
  | { type: 'blend'; source: Node; blend: BlendId }
  /** `aux`: values of another map that the passes ask for. */
  | { type: 'adjust'; filter: Filter; passes: Pass[] | null; blend: BlendId; aux: Scope | null }
  /** A group that passes through, with opacity or a mask: what was before is kept … */
  | { type: 'save' }
  /** … and mixed with what its members made of it. */
  | { type: 'restore' }
  /** Values that went beyond 0..1 while layers added up are held to it, once. */
  | { type: 'hold' }
);

export interface Scope {
  kind: MapKind;
  channels: 1 | 3;
  /** null: an isolated group, empty where nothing is. */
  ground: readonly number[] | null;
  ops: Op[];
  key: Signature;
  /** A mask's: always asked for in whole tiles. */
  whole?: true;
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

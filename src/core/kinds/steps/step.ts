/**
 * What a step of a mask takes its values from. Each kind is a file beside this one with a line in `index.ts`, and a
 * file with a line in ui/bench/recipe/steps, where it is added to a mask and set.
 */
import type { z } from 'zod';
import type { PictureUse } from '../fields';
import type { Filter } from '../filters';
import type { BakeType } from '../bakes';
import type { Grey } from '../grey';
import type { MapId, OwnMap } from '../maps';
import type { Placement } from '../placement';
import type { Made } from '../sources';

/** Names of what a step may point at, for its word in the mask's sentence. */
export interface Names {
  layers: readonly { id: string; name: string }[];
  masks: readonly { id: string; name: string }[];
  pictures: readonly { id: string; name: string }[];
  ownMaps: readonly OwnMap[];
}

/** New ids of copied records; those that were not copied stay. */
export interface Renaming {
  layer: (id: string) => string;
  mask: (id: string) => string;
  picture: (id: string) => string;
}

/** Other records of the sheet that a step is made from. */
export interface Asking {
  layers?: readonly string[];
  masks?: readonly string[];
  pictures?: readonly string[];
  /** All that lies below the layer that the mask is on. */
  below?: boolean;
}

export type Region =
  | { type: 'parts'; names: readonly string[] }
  | { type: 'islands'; ids: readonly number[] }
  | { type: 'faces'; ids: readonly number[] };

/** Values of the model's shape. Lengths are shares of its size, its longest side; places are model units. */
export type Shape =
  /** 1 along edges that stand out by at least `angle` degrees, 0 from `width` on. */
  | { type: 'edges'; angle: number; width: number }
  /** 1 along the direction, 0 from `angle` degrees off it on. */
  | { type: 'facing'; direction: readonly number[]; angle: number; soft: number }
  | { type: 'span'; axis: 'x' | 'y' | 'z'; from: number; to: number; soft: number }
  | { type: 'distance'; shape: 'point' | 'plane'; at: readonly number[]; normal: readonly number[]; reach: number; soft: number };

export interface Breakup {
  contrast: number;
  breakup: number;
  grain: number;
  seed: number;
}

/**
 * What a step is built from. `Node`: values to lay down; `Scope`: a stack blended among itself. Whoever compiles
 * (strata/program.ts) says what both are. null: what was asked for is not there, or would be made from itself.
 */
export interface Build<Node, Scope> {
  /** The step's own paint. */
  paint(): Node;
  value(v: number): Node;
  made(made: Made, placement: Placement | null): Node;
  picture(use: PictureUse, placement: Placement | null): Node | null;
  region(region: Region): Node;
  shape(shape: Shape): Node;
  /** The sheet's bake of a kind; null: there is none. */
  baked(of: BakeType): Node | null;
  /** The same in its colours. */
  bakedColours(of: BakeType): Scope | null;
  /** It came in as a picture instead of being baked here. */
  bakedElsewhere(of: BakeType): boolean;
  /** Values made uneven by a noise, and sharper. */
  broken(values: Node, by: Breakup): Node;
  /** What another layer by itself says on a map. */
  alone(layerId: string, map: MapId): Scope | null;
  /** What the layer that the mask is on says on a map, without the mask. */
  own(map: MapId): Scope | null;
  /** What a map shows below that layer. */
  below(map: MapId): Scope | null;
  /** What a map shows, for a fence all of it; for a mask, which must not be made from itself, what lies below. */
  seen(map: MapId): Scope | null;
  /** How near colours are to one of some: 1 within `tolerance` of it (distance in OKLab; 0: the same code of 8 bits), 0 beyond that and `soft`; null for others. */
  likeColours(scope: Scope, colours: readonly (readonly number[])[], tolerance: number, soft: number): Node | null;
  mask(maskId: string): Scope | null;
  /** A scope as values: colours by one number of theirs; null for directions. */
  asValue(scope: Scope, by: Grey): Node | null;
  alpha(scope: Scope): Node;
  /** Values after some adjustments. */
  adjusted(values: Node, filters: readonly Filter[]): Node;
  /** Values laid over each other from the first to the last, then adjusted. */
  laid(parts: readonly { scope: Scope; filters?: readonly Filter[]; opacity?: number }[], filters: readonly Filter[]): Node;
}

export interface StepDef<P extends { type: string } = { type: string }> {
  type: P['type'];
  schema: z.ZodType<P>;
  /** How it reads in the mask's sentence. */
  word: (p: P, names: Names) => string;
  /** Left out: none. */
  asks?: (p: P) => Asking;
  /** The same step among copied records; left out where nothing is asked for. */
  renamed?: (p: P, to: Renaming) => P;
  /** It has paint of its own. */
  painted?: boolean;
  /** It hangs on the model's places, parts or faces: the surface has to be there first. */
  onSurface?: (p: P) => boolean;
  /** It means the same on any sheet, so that a saved recipe can keep it. */
  anywhere: boolean;
  compile: <Node, Scope>(p: P, build: Build<Node, Scope>) => Node | null;
}

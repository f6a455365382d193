/**
 * What a step of a mask takes its values from. Each kind is a file beside this one with a line in `index.ts`, and a
 * file with a line in ui/bench/recipe/steps, where it is added to a mask.
 */
import type { z } from 'zod';
import type { Surface, SurfaceTexels } from '../../mesh/surface';
import type { BakeType } from '../bakes';
import type { Control } from '../control';
import type { PictureUse } from '../fields';
import type { Filter } from '../filters';
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
  /** A bake whose values it takes. */
  bake?: BakeType;
}

export interface Breakup {
  contrast: number;
  breakup: number;
  grain: number;
  seed: number;
}

/**
 * Fills `out`, one value a texel of a tile (all 0 so far), from where the texels lie on the model. Texels whose face is
 * −1 may hold anything. Returns a number instead where all of them are the same.
 */
export type SurfaceValues = (surface: Surface, texels: SurfaceTexels, out: Float32Array) => void | number;

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
  /** Values of the model's places, parts or faces; nothing on a canvas. Equal `settings` of a kind give equal values. */
  onSurface(settings: { type: string }, values: SurfaceValues): Node;
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

type Vector = [number, number, number];

/** What was clicked on: on the model (model units) or nowhere, and the colour of the bake that the kind asks for there. */
export interface Picked {
  on: { place: Vector; normal: Vector; part: string; island: number; face: number } | null;
  /** sRGB 0..1. */
  colour: Vector | null;
}

export interface Picking<P> {
  /** What is clicked on, in the plural. */
  of: string;
  /** Whose colour under the pointer is told too; then the click need not meet the model. */
  colourOf?: BakeType;
  /** One click is all: picking ends with it. */
  once?: boolean;
  /** The step with what was clicked on in it (or out of it again) and what the history says, or a sentence why not. */
  take: (p: P, picked: Picked) => { step: P; label: string } | string;
  /** The step with faces that a box or a lasso goes around, or without them; left out: it takes none. */
  takeFaces?: (p: P, faces: readonly number[], out: boolean) => { step: P; label: string };
}

/** Settings that do something useful at once. */
export interface Preset<P> {
  /** In the menu of steps. */
  label: string;
  hint?: string;
  settings: P;
  /** What the step that was added is called in the history. */
  added: string;
  /** It makes a mask of its own too, which is called so. */
  mask?: { label: string; hint: string };
}

export interface StepDef<P extends { type: string } = { type: string }> {
  type: P['type'];
  schema: z.ZodType<P>;
  /** What a new one begins with, and what its numbers are reset to. Where it points at a record the id names none yet. */
  start: P;
  /** Its editor, or what stands below the part that is its own (ui/bench/recipe/steps). */
  controls: readonly Control[];
  /** Left out: none. */
  presets?: readonly Preset<P>[];
  /** How it reads in the mask's sentence. */
  word: (p: P, names: Names) => string;
  /** Left out: none. */
  asks?: (p: P) => Asking;
  /** The same step among copied records; left out where nothing is asked for. */
  renamed?: (p: P, to: Renaming) => P;
  /** What another step of the kind chooses goes in, or out again where all of it is in; left out: it chooses nothing. */
  joined?: (p: P, more: P) => P;
  /** Clicks on the model or the sheet set it; left out: they do not. */
  pick?: Picking<P>;
  /** It has paint of its own. */
  painted?: boolean;
  /** It means something only where there is a model; left out: on canvases too. */
  needsModel?: boolean;
  /** It hangs on the model's places, parts or faces: the surface has to be there first. */
  onSurface?: (p: P) => boolean;
  /** It means the same on any sheet, so that a saved recipe can keep it. */
  anywhere: boolean;
  compile: <Node, Scope>(p: P, build: Build<Node, Scope>) => Node | null;
}

/** An id that no record has: what a step points at before one is chosen. */
export const NO_RECORD = 'none';

/** All of `more` goes into a list, or out of it where all of it is in. */
export const toggled = <T>(list: readonly T[], ...more: readonly T[]): T[] =>
  more.every((v) => list.includes(v)) ? list.filter((v) => !more.includes(v)) : [...new Set([...list, ...more])];

/** Messages between the page and the engine. One engine has one piece open. */
import type { Brush } from '../core/hand/brush';
import type { FaceChange } from '../core/hand/chosenFaces';
import type { Sample } from '../core/hand/sample';
import type { View } from '../core/hand/view';
import type { DispatchOptions } from '../core/deliver/options';
import type { Edit } from '../core/document/edits';
import type { MapId } from '../core/kinds/maps';
import type { Piece } from '../core/document/schema';
import type { Stencil } from '../core/document/stencil';
import type { Place } from '../core/document/tree';
import type { Bitmap } from '../core/tile/bitmap';
import type { MipPatch, Rect } from '../core/tile/mips';
import type { Reshape } from '../core/document/reshape';
import type { Miss } from '../core/strata/misses';
import type { Look } from '../core/strata/displayPlanes';
import type { PlaneId } from '../core/kinds/shown';
import type { Clip } from '../core/document/work/copy';
import type { NewPicture } from '../core/document/work/fill';
import type { KeyedBake, TakenBake } from '../core/document/work/bakes';
import type { MergeHow } from '../core/document/work/merge';
import type { Histogram, SmallPicture, Want } from './answers/pictures';

/** Changes that the engine works out, since they need pixels. */
export type LayersRequest =
  | { do: 'duplicate'; sheetId: string; ids: string[] }
  | { do: 'merge'; sheetId: string; how: MergeHow; ids: string[] }
  | { do: 'paste'; sheetId: string; clip: Clip; place: Place }
  | { do: 'reshape'; sheetId: string; by: Reshape }
  | { do: 'fill-mask'; sheetId: string; maskId: string; value: number }
  /** What was baked on the server comes to a picture of the sheet, in place of what it had. */
  | { do: 'take-bake'; sheetId: string; taken: KeyedBake | TakenBake }
  /** Of a normal map that was baked elsewhere. */
  | { do: 'turn-normal-y'; sheetId: string; pictureId: string }
  /** Pictures come in, and the edit that uses them. */
  | { do: 'pictures'; sheetId: string; pictures: NewPicture[]; then: Edit; label: string; select?: string[] };

/** Questions with an answer. */
export type Question =
  /** `layerId`: only what that layer by itself has there. `pictureId`: what that picture, laid over the sheet, has there too. */
  | { ask: 'pick'; sheetId: string; place: PickPlace; layerId?: string | null; pictureId?: string }
  | { ask: 'copy'; sheetId: string; ids: string[] }
  | { ask: 'thumbnails'; sheetId: string; wants: Want[] }
  /** Base colour of a sheet, as it is drawn, 256 a side at most. */
  | { ask: 'sheet-picture'; sheetId: string }
  /**
   * Faces of a sheet: within a polygon of a pane (texels, or pixels where there is a view), from others, or those that its
   * fence lets through.
   */
  | {
      ask: 'faces';
      sheetId: string;
      of: { within: { x: number; y: number }[]; view: View | null } | { ids: number[]; how: FaceChange } | 'fence';
    }
  /** What a stencil shows, 1024 a side at most, as colours and alpha; null: its picture is gone. */
  | { ask: 'stencil'; sheetId: string; stencil: Stencil }
  /** Has a bake that is done on the server fetched, so that taking it holds nothing up. */
  | { ask: 'fetch-bake'; sheetId: string; key: string }
  /** Where a bake met nothing of its twin, the largest places first. */
  | { ask: 'misses'; sheetId: string; pictureId: string }
  /** A mask of a sheet as a grey picture, 512 a side at most; null: it is gone. */
  | { ask: 'mask'; sheetId: string; maskId: string }
  | { ask: 'histogram'; sheetId: string; layerId: string; map: MapId };
export interface Answers {
  pick: PickedValues | null;
  copy: Clip;
  /** One a want. */
  thumbnails: SmallPicture[];
  'sheet-picture': { width: number; height: number; data: Uint8ClampedArray<ArrayBuffer> } | null;
  faces: number[];
  misses: Miss[];
  'fetch-bake': null;
  mask: Bitmap | null;
  stencil: { width: number; height: number; data: Uint8ClampedArray<ArrayBuffer> } | null;
  histogram: Histogram | null;
}

/** What the page shows beyond the document; none of it is kept. */
export interface Viewing {
  look: Look | null;
  /** Layers that are shown alone; none: all. */
  solo: string[];
  /** The layer at work. */
  hot: string | null;
  /** Texels that the flat pane shows. */
  visible: Rect | null;
}

export type Request =
  /** `client`: the tab; entries of the journal belong to one. */
  | { type: 'open'; pieceId: string; sheetId?: string; client: string; takeOver?: boolean }
  /** The sheet that is worked on: drawn first. */
  | { type: 'focus'; sheetId: string }
  /** A finished edit. `serial` comes back with the document it led to. */
  | { type: 'edit'; id: string; edit: Edit; label: string; serial: number }
  /** A passing edit (a slider on its way); null takes it back. */
  | { type: 'preview'; edit: Edit | null }
  | { type: 'layers'; id: string; what: LayersRequest; serial: number }
  | { type: 'viewing'; viewing: Viewing }
  /** The first try of a bake that is to be looked at, as soon as it is there; null: none, and that which is there goes. */
  | { type: 'expect-try'; id: number | null }
  /** Such a try, from the thread that makes them (TriesPort): no part of the document. */
  | ({ type: 'try-bake' } & TriedBake)
  | { type: 'undo'; id: string; serial: number }
  | { type: 'redo'; id: string; serial: number }
  | {
      type: 'stroke-begin';
      id: string;
      seed: number;
      sheetId: string;
      layerId: string;
      brush: Brush;
      samples: Sample[];
      at: number;
    }
  | { type: 'stroke-add'; samples: Sample[]; at: number }
  | { type: 'stroke-end'; samples: Sample[]; at: number }
  | { type: 'stroke-cancel' }
  | { type: 'question'; id: number; question: Question }
  | { type: 'dispatch'; id: number; options: DispatchOptions }
  | { type: 'export-piece'; id: number }
  | { type: 'cancel'; id: number }
  | { type: 'retry' }
  /** `ids`: what is dropped, by name; nothing else is. */
  | { type: 'resolve-conflict'; choice: 'copy' }
  /** To a server that was set back: what this page still has. */
  | { type: 'resolve-conflict'; choice: 'give-back' }
  | { type: 'resolve-conflict'; choice: 'drop'; ids: string[] }
  /** Of a change that was refused and set aside. */
  | { type: 'aside'; id: string; do: 'again' | 'drop' }
  /** Brings a deleted piece back. */
  | { type: 'restore' };

/** A first try of a bake: RGBA, 16 bit, straight. */
export interface TriedBake {
  id: number;
  width: number;
  height: number;
  data: Uint16Array;
}

/** To the engine's worker: where tries come from. */
export interface TriesPort {
  type: 'tries';
  port: MessagePort;
}

/** Requests that change the piece: one id each, from the journal to the server. */
export type Changing = 'edit' | 'layers' | 'undo' | 'redo';
type Without<T, K extends string> = T extends unknown ? Omit<T, K> : never;
/** As the page asks: ids are the desk's matter (desk.ts). */
export type PageRequest =
  | Without<Extract<Request, { type: Changing | 'stroke-begin' }>, 'id' | 'seed'>
  | Exclude<Request, { type: Changing | 'stroke-begin' }>;

export type PickPlace =
  | { pane: 'flat'; x: number; y: number }
  | { pane: 'model'; origin: [number, number, number]; direction: [number, number, number] };

export interface PickedValues {
  sheetId: string;
  x: number;
  y: number;
  values: Partial<Record<MapId, number[]>>;
  /** Of the picture that was asked for, RGB 0 … 1; null: it has nothing there. */
  picture: number[] | null;
  /** What lies there on the model; null on a canvas and off the islands. */
  on: { face: number; island: number; part: string; place: [number, number, number]; normal: [number, number, number] } | null;
}

/** What the viewport draws: the model without its pictures. */
export interface Geometry {
  positions: Float32Array;
  normals: Float32Array;
  uv: Float32Array;
  indices: Uint32Array;
  facePart: Uint16Array;
  faceMaterial: Uint16Array;
  parts: string[];
  /** Texels per metre of each sheet, by sheet id. */
  texelsPerMetre: Record<string, number>;
  /** UV edges of each sheet, 4 × float32 a line (u v u v). */
  wires: Record<string, Float32Array>;
}

export interface KeptState {
  /** `behind`: the server was set back to an older state, from a dump perhaps. */
  state: 'kept' | 'keeping' | 'offline' | 'conflict' | 'behind' | 'gone';
  /** Why it does not pass just now. */
  why?: string | null;
  /** Gone: it cannot be brought back, only begun anew from what this page has. */
  forGood?: boolean;
  /** Behind: so many kept changes are lost on the server. */
  lost?: number;
  /** Operations that the server has not taken yet. */
  waiting: number;
  /** In a conflict or where the piece is gone: those that wait, by name. */
  entries?: NamedEntry[];
  /** Refused: nothing hangs on them any more, and they leave only by hand. */
  aside: NamedEntry[];
  /** How many of the page's changes the engine has come to; those it has not come to are not kept yet. */
  reached: number;
}

export interface NamedEntry {
  id: string;
  label: string;
  /** Milliseconds since 1970. */
  at: number;
  /** Made in this tab, or found in this browser. */
  own: boolean;
  why: string | null;
}

/** `labels`: of the steps that can be undone or redone. */
export interface TrailState {
  labels: string[];
  position: number;
}

/** New texels of a plane, RGBA8. */
export interface PixelPatch extends MipPatch {
  sheetId: string;
  plane: PlaneId;
}

export type Event =
  | { type: 'opening'; what: string; done: number; total: number }
  | { type: 'opened'; document: Piece; trail: TrailState; geometry: Geometry | null }
  /** All of it is at hand. `missing`: planes of which tiles are lost on the server. */
  | { type: 'ready'; missing: string[] }
  /** `deleted`: it can be brought back. `stopped`: by a fault of the engine itself. */
  | { type: 'failed'; message: string; deleted?: boolean; waiting?: number }
  /** The piece as it is now, whatever the page asked for last: something was taken out of it. */
  | { type: 'renewed'; document: Piece; trail: TrailState }
  /** Another tab has the piece now. */
  | { type: 'handed-over' }
  /** Another tab has the piece and does not answer. */
  | { type: 'taken-elsewhere' }
  /** What the request with that `serial` has led to. */
  | { type: 'document'; document: Piece; trail: TrailState; serial: number; select?: string[] }
  /** A stroke has become a step. */
  | { type: 'trail'; trail: TrailState }
  /** `strokeAt`: time stamp of the newest pointer event that these texels contain. `exact`: nothing is left to be drawn. */
  | { type: 'pixels'; patches: PixelPatch[]; strokeAt: number | null; exact: boolean }
  | { type: 'kept'; kept: KeptState }
  | { type: 'answer'; id: number; answer: Answers[keyof Answers] }
  | { type: 'no-answer'; id: number; message: string }
  | { type: 'job-progress'; id: number; done: number; total: number; what: string }
  /** `warning`: what is not in it, though it should be. */
  | { type: 'job-done'; id: number; bytes: Uint8Array<ArrayBuffer>; name: string; warning: string | null }
  | { type: 'job-failed'; id: number; message: string; cancelled: boolean }
  | { type: 'notice'; message: string }
  /** The piece should be opened anew (after a conflict), or another one instead. */
  | { type: 'goto'; pieceId: string };

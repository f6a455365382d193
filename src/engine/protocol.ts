/** Messages between the page and the engine. One engine has one piece open. */
import type { Brush, Sample } from '../core/brush/brush';
import type { DispatchOptions } from '../core/deliver/plan';
import type { Edit } from '../core/document/edits';
import type { MapId } from '../core/document/maps';
import type { Piece } from '../core/document/schema';
import type { Rect } from '../core/raster/mips';
import type { PlaneId } from '../core/strata/displayPlanes';

export type Request =
  | { type: 'open'; pieceId: string; sheetId?: string }
  /** The sheet that is worked on: drawn first. */
  | { type: 'focus'; sheetId: string }
  /** A finished edit. `serial` comes back with the document it led to. */
  | { type: 'edit'; edit: Edit; label: string; serial: number }
  /** A passing edit (a slider on its way); null takes it back. */
  | { type: 'preview'; edit: Edit | null }
  | { type: 'duplicate-layer'; sheetId: string; layerId: string; newId: string; name: string; serial: number }
  | { type: 'undo'; serial: number }
  | { type: 'redo'; serial: number }
  | { type: 'stroke-begin'; sheetId: string; layerId: string; brush: Brush; samples: Sample[]; at: number }
  | { type: 'stroke-add'; samples: Sample[]; at: number }
  | { type: 'stroke-end'; samples: Sample[]; at: number }
  | { type: 'stroke-cancel' }
  | { type: 'pick'; id: number; sheetId: string; place: PickPlace }
  | { type: 'dispatch'; id: number; options: DispatchOptions }
  | { type: 'export-piece'; id: number }
  | { type: 'cancel'; id: number }
  | { type: 'retry' }
  | { type: 'resolve-conflict'; choice: 'copy' | 'discard' };

export type PickPlace =
  | { pane: 'flat'; x: number; y: number }
  | { pane: 'model'; origin: [number, number, number]; direction: [number, number, number] };

export interface PickedValues {
  sheetId: string;
  x: number;
  y: number;
  values: Partial<Record<MapId, number[]>>;
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
  state: 'kept' | 'keeping' | 'offline' | 'conflict';
  /** Operations that the server has not taken yet. */
  waiting: number;
}

export interface TrailState {
  labels: string[];
  position: number;
}

/** New texels of a plane: level by level, RGBA8, tightly packed one rectangle after another. */
export interface PixelPatch {
  sheetId: string;
  plane: PlaneId;
  rects: Rect[];
  data: Uint8Array<ArrayBuffer>;
}

export type Event =
  | { type: 'opening'; what: string; done: number; total: number }
  | { type: 'opened'; document: Piece; trail: TrailState; geometry: Geometry | null }
  | { type: 'failed'; message: string }
  | { type: 'document'; document: Piece; trail: TrailState; serial: number }
  /** `strokeAt`: time stamp of the newest pointer event that these texels contain. */
  | { type: 'pixels'; patches: PixelPatch[]; strokeAt: number | null }
  | { type: 'kept'; kept: KeptState }
  | { type: 'picked'; id: number; picked: PickedValues | null }
  | { type: 'job-progress'; id: number; done: number; total: number; what: string }
  | { type: 'job-done'; id: number; bytes: Uint8Array<ArrayBuffer>; name: string }
  | { type: 'job-failed'; id: number; message: string; cancelled: boolean }
  | { type: 'notice'; message: string }
  /** The piece should be opened anew (after a conflict), or another one instead. */
  | { type: 'goto'; pieceId: string };

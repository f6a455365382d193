/** Messages between whoever hands out bakes and the threads that carry them out. */
import type { BakeSpec } from '../../core/kinds/bakes/spec';

export type ToThread =
  | { type: 'model'; address: string; name: string; bytes: Uint8Array }
  /** A grey picture over the sheet, as PNG. */
  | { type: 'share'; address: string; bytes: Uint8Array }
  | { type: 'tiles'; id: number; spec: BakeSpec }
  | { type: 'tile'; id: number; spec: BakeSpec; tile: number; pack: boolean }
  | { type: 'cancel'; id: number };

/** A tile as it is kept: its address and its packed texels (core/codec/tileBlob.ts). */
export interface PackedTile {
  hash: string;
  blob: Uint8Array;
}

export interface BakedAnswer {
  data: Uint16Array;
  missed: number;
  packed: PackedTile | null;
}

export type FromThread =
  | { type: 'tiles'; id: number; tiles: number[] }
  /** null: nothing of the model lies there. */
  | { type: 'tile'; id: number; tile: BakedAnswer | null }
  | { type: 'cancelled'; id: number }
  /** `final`: it fails however often it is tried. */
  | { type: 'failed'; id: number; message: string; final: boolean };

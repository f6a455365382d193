/**
 * What was drawn, tile by tile, kept in the browser by lasting signature (core/strata/evaluator.ts): a piece that is opened again is
 * shown without evaluating anything. It is only ever a copy of what can be drawn again: whatever goes wrong with it costs time.
 *
 * A file a sheet and build. Layout: MOST entries of 32 bytes, then as many slots of a tile's RGBA.
 *   entry: 0 u8 kind (0 nothing, 1 texels, 2 one texel) · 1 u8 plane (place in PLANE_IDS) · 4 u32 tile · 8 u32 that one texel ·
 *   12 u16 × 8 signature · 28 u32 check of what stands before it (FNV-1a, Fowler, Noll, Vo). Little endian.
 * An entry is taken away before its slot is written, and comes back after: a crash in between leaves a tile less, never a wrong one.
 */
import { PLANE_IDS, type PlaneId } from '../core/kinds/shown';
import type { Signature } from '../core/strata/signature';
import { TILE_TEXELS, type TileIndex } from '../core/tile/tiles';

/** As much of a file system's access handle as is needed here. */
export interface ShelfFile {
  read(into: Uint8Array<ArrayBuffer>, options: { at: number }): number;
  write(from: Uint8Array<ArrayBuffer>, options: { at: number }): number;
  flush(): void;
  close(): void;
}

const ENTRY = 32;
/** 4,096 tiles of 8192² on six planes, and some. */
const MOST = 32768;
const SLOTS_AT = MOST * ENTRY;
const SLOT = TILE_TEXELS * 4;
/** Of one sheet: 2,000 tiles of 8192² find no place, and are drawn again. */
const MOST_SLOTS = 8192;
/** What waits to be written: 4 MiB. */
const BATCH = 64;

interface Entry {
  at: number;
  signature: Signature;
  /** null: its texels are in the slot. */
  even: number | null;
}

const keyOf = (plane: PlaneId, tile: TileIndex): string => `${plane} ${tile}`;

export class Shelf {
  private entries = new Map<string, Entry>();
  private free: number[] = [];
  private next = 0;
  private waiting = new Map<string, { plane: PlaneId; tile: TileIndex; signature: Signature; texels: Uint8Array | number }>();
  /** It could not be written to: no room, or the file is gone. It is read on. */
  private full = false;

  constructor(private file: ShelfFile) {
    const index = new Uint8Array(SLOTS_AT);
    const bytes = file.read(index, { at: 0 });
    const view = new DataView(index.buffer);
    for (let at = 0; at < MOST && (at + 1) * ENTRY <= bytes; at++) {
      const o = at * ENTRY;
      if (index[o] === 0) continue;
      this.next = at + 1;
      const plane = PLANE_IDS[index[o + 1]];
      if (!plane || index[o] > 2 || view.getUint32(o + 28, true) !== check(index, o)) this.free.push(at);
      else {
        const signature = String.fromCharCode(...Array.from({ length: 8 }, (_, k) => view.getUint16(o + 12 + k * 2, true)));
        const even = index[o] === 2 ? view.getUint32(o + 8, true) : null;
        this.entries.set(keyOf(plane, view.getUint32(o + 4, true)), { at, signature, even });
      }
    }
  }

  signatureOf(plane: PlaneId, tile: TileIndex): Signature | null {
    const key = keyOf(plane, tile);
    return this.waiting.get(key)?.signature ?? this.entries.get(key)?.signature ?? null;
  }

  /** A whole tile, RGBA, or the one texel that it consists of; null: there is none of that signature. */
  read(plane: PlaneId, tile: TileIndex, signature: Signature): Uint8Array | number | null {
    const key = keyOf(plane, tile);
    const waiting = this.waiting.get(key);
    if (waiting) return waiting.signature === signature ? waiting.texels : null;
    const entry = this.entries.get(key);
    if (entry?.signature !== signature) return null;
    if (entry.even !== null) return entry.even;
    const texels = new Uint8Array(SLOT);
    try {
      return this.file.read(texels, { at: SLOTS_AT + entry.at * SLOT }) === SLOT ? texels : null;
    } catch {
      return null;
    }
  }

  /** `texels`: not to be changed afterwards. */
  put(plane: PlaneId, tile: TileIndex, signature: Signature, texels: Uint8Array | number): void {
    if (this.full || this.signatureOf(plane, tile) === signature) return;
    this.waiting.set(keyOf(plane, tile), { plane, tile, signature, texels });
    if (this.waiting.size >= BATCH) this.flush();
  }

  /** Writes what waits. */
  flush(): void {
    if (this.waiting.size === 0) return;
    try {
      this.write();
    } catch {
      // What is not written is drawn again.
      this.full = true;
    }
    this.waiting.clear();
  }

  private write(): void {
    const { file } = this;
    const nothing = new Uint8Array(ENTRY);
    let cleared = false;
    for (const key of this.waiting.keys()) {
      const old = this.entries.get(key);
      if (!old) continue;
      this.entries.delete(key);
      this.free.push(old.at);
      file.write(nothing, { at: old.at * ENTRY });
      cleared = true;
    }
    if (cleared) file.flush();
    const written: [string, Entry, PlaneId, TileIndex][] = [];
    for (const [key, { plane, tile, signature, texels }] of this.waiting) {
      const at = this.free.pop() ?? (this.next < MOST_SLOTS ? this.next++ : -1);
      if (at < 0) break;
      const even = typeof texels === 'number' ? texels : null;
      if (typeof texels !== 'number' && file.write(new Uint8Array(texels), { at: SLOTS_AT + at * SLOT }) !== SLOT)
        throw new Error('The file was cut short');
      written.push([key, { at, signature, even }, plane, tile]);
    }
    file.flush();
    for (const [key, entry, plane, tile] of written) {
      file.write(bytesOf(entry, plane, tile), { at: entry.at * ENTRY });
      this.entries.set(key, entry);
    }
    file.flush();
  }

  close(): void {
    this.flush();
    this.file.close();
  }
}

function bytesOf({ signature, even }: Entry, plane: PlaneId, tile: TileIndex): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(ENTRY);
  const view = new DataView(out.buffer);
  out[0] = even === null ? 1 : 2;
  out[1] = PLANE_IDS.indexOf(plane);
  view.setUint32(4, tile, true);
  view.setUint32(8, even ?? 0, true);
  for (let k = 0; k < 8; k++) view.setUint16(12 + k * 2, signature.charCodeAt(k), true);
  view.setUint32(28, check(out, 0), true);
  return out;
}

function check(bytes: Uint8Array, from: number): number {
  let hash = 0x811c9dc5;
  for (let i = from; i < from + 28; i++) hash = Math.imul(hash ^ bytes[i], 0x01000193);
  return hash >>> 0;
}

/** Where shelves and other things are kept that can be made again. null: nothing can be kept, or another tab has it. */
export interface Keeping {
  /** The shelf of a sheet. */
  shelf(pieceId: string, sheetId: string): Promise<Shelf | null>;
  /** A file for what goes by that name, empty if it is new. */
  file(name: string): Promise<ShelfFile | null>;
}

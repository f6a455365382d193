/**
 * Rendered tiles, cached in the browser by lasting signature (core/strata/signatures.ts), so that a piece that is opened again is shown
 * without evaluating anything. All of it can be rendered again: a fault here costs time, never work.
 *
 * One file (slots.ts) for each sheet and build; a slot holds the RGBA of a tile. An entry's body, little endian:
 *   0 u8 kind (1 texels, 2 all texels equal) · 1 u8 plane (index in PLANE_IDS) · 4 u32 tile · 8 u32 the texel of kind 2 · 12 u16 × 8 signature.
 */
import { PLANE_IDS, type PlaneId } from '../../core/kinds/shown';
import type { Signature } from '../../core/strata/signature';
import { putRows, type Rect } from '../../core/tile/mips';
import { TILE, TILE_TEXELS, tileIndex, type TileIndex } from '../../core/tile/tiles';
import { Slots, type ShelfFile } from './slots';
import { evenTile } from '../show/tilePictures';

export type { ShelfFile };

export const BODY = 28;
const SLOT = TILE_TEXELS * 4;
/** 4,096 tiles of 8192² on six planes, and some. */
const SHAPE = { most: 32768, body: BODY, slot: SLOT };
/** Of one sheet. Some 2,000 tiles of a full sheet of 8192² exceed it and are rendered again. */
const MOST_SLOTS = 8192;
/** Tiles that are written together: 4 MiB. */
const BATCH = 64;

interface Entry {
  at: number;
  signature: Signature;
  /** The texel, if all texels of the tile are equal; null: the texels are in the slot. */
  even: number | null;
}

/** A rendered tile of a plane. `texels`: RGBA of all texels, or one number if all are equal. */
export interface Drawn {
  plane: PlaneId;
  tile: TileIndex;
  signature: Signature;
  texels: Uint8Array | number;
}

const keyOf = (plane: PlaneId, tile: TileIndex): string => `${plane} ${tile}`;
const placeOf = (key: string): [PlaneId, TileIndex] => {
  const [plane, tile] = key.split(' ');
  return [plane as PlaneId, Number(tile)];
};

export class Shelf {
  private slots: Slots;
  private entries = new Map<string, Entry>();
  private waiting = new Map<string, Drawn>();

  constructor(file: ShelfFile) {
    this.slots = new Slots(file, SHAPE, MOST_SLOTS, (at, body) => {
      const told = readBody(body);
      if (told) this.entries.set(keyOf(told.plane, told.tile), { at, signature: told.signature, even: told.even });
      return told !== null;
    });
  }

  get empty(): boolean {
    return this.entries.size === 0 && this.waiting.size === 0;
  }

  signatureOf(plane: PlaneId, tile: TileIndex): Signature | null {
    const key = keyOf(plane, tile);
    return this.waiting.get(key)?.signature ?? this.entries.get(key)?.signature ?? null;
  }

  /** A tile's RGBA, or one number if all texels are equal; null: no tile with that signature is cached. */
  read(plane: PlaneId, tile: TileIndex, signature: Signature): Uint8Array | number | null {
    const key = keyOf(plane, tile);
    const waiting = this.waiting.get(key);
    if (waiting) return waiting.signature === signature ? waiting.texels : null;
    const entry = this.entries.get(key);
    if (entry?.signature !== signature) return null;
    if (entry.even !== null) return entry.even;
    const texels = new Uint8Array(SLOT);
    return this.slots.read(entry.at, texels) ? texels : null;
  }

  /** Every cached tile. */
  *all(): Generator<Drawn> {
    for (const key of new Set([...this.entries.keys(), ...this.waiting.keys()])) {
      const [plane, tile] = placeOf(key);
      const signature = this.signatureOf(plane, tile);
      const texels = signature === null ? null : this.read(plane, tile, signature);
      if (texels !== null) yield { plane, tile, signature: signature!, texels };
    }
  }

  /** Stores a tile. `texels` must not be changed afterwards. */
  put(plane: PlaneId, tile: TileIndex, signature: Signature, texels: Uint8Array | number): void {
    if (!this.slots.writable || this.signatureOf(plane, tile) === signature) return;
    this.waiting.set(keyOf(plane, tile), { plane, tile, signature, texels });
    if (this.waiting.size >= BATCH) this.flush();
  }

  /** Writes all pending tiles. */
  flush(): void {
    if (this.waiting.size === 0) return;
    const removed: number[] = [];
    for (const key of this.waiting.keys()) {
      const old = this.entries.get(key);
      if (old) removed.push(old.at);
      this.entries.delete(key);
    }
    const added = [...this.waiting];
    const places = this.slots.replace(
      removed,
      added.map(([, { plane, tile, signature, texels }]) => ({
        body: bodyOf({ plane, tile, signature, texels }),
        slot: typeof texels === 'number' ? null : new Uint8Array(texels),
      })),
    );
    places.forEach((at, n) => {
      const [key, { signature, texels }] = added[n];
      this.entries.set(key, { at, signature, even: typeof texels === 'number' ? texels : null });
    });
    this.waiting.clear();
  }

  close(): void {
    this.flush();
    this.slots.close();
  }
}

/** What a body says; null: it makes no sense. `even` null: the texels are elsewhere. */
export function readBody(body: DataView): { plane: PlaneId; tile: TileIndex; signature: Signature; even: number | null } | null {
  const [kind, plane] = [body.getUint8(0), PLANE_IDS[body.getUint8(1)]];
  if (!plane || (kind !== 1 && kind !== 2)) return null;
  const signature = String.fromCharCode(...Array.from({ length: 8 }, (_, k) => body.getUint16(12 + k * 2, true)));
  return { plane, tile: body.getUint32(4, true), signature, even: kind === 2 ? body.getUint32(8, true) : null };
}

export function bodyOf({ plane, tile, signature, texels }: Drawn): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(BODY);
  const view = new DataView(out.buffer);
  out[0] = typeof texels === 'number' ? 2 : 1;
  out[1] = PLANE_IDS.indexOf(plane);
  view.setUint32(4, tile, true);
  view.setUint32(8, typeof texels === 'number' ? texels : 0, true);
  for (let k = 0; k < 8; k++) view.setUint16(12 + k * 2, signature.charCodeAt(k), true);
  return out;
}

/** Where shelves and other things are kept that can be made again. null: nothing can be kept, or another tab has it. */
export interface BrowserShelves {
  /** The shelf of a sheet. */
  shelf(pieceId: string, sheetId: string): Promise<Shelf | null>;
  /** A file for what goes by that name, empty if it is new. */
  file(name: string): Promise<ShelfFile | null>;
}

/** Tiles that lie side by side, as one rectangle of RGBA; null where one of them cannot be read. */
export function readRun(
  shelf: Shelf,
  plane: PlaneId,
  rect: Rect,
  signatureOf: (tile: TileIndex) => Signature,
): Uint8Array | null {
  const texels = new Uint8Array(rect.width * rect.height * 4);
  for (let x = rect.x; x < rect.x + rect.width; x += TILE) {
    const tile = tileIndex(x / TILE, rect.y / TILE);
    const kept = shelf.read(plane, tile, signatureOf(tile));
    if (kept === null) return null;
    const columns = Math.min(TILE, rect.x + rect.width - x);
    const from = typeof kept === 'number' ? evenTile(kept) : kept;
    putRows(from, TILE, { x: x - rect.x, y: 0, width: columns, height: rect.height }, { width: rect.width, data: texels });
  }
  return texels;
}

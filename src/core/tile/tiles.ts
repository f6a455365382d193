/**
 * Stored pixels: sparse 128 × 128 tiles of 16-bit unorm. An untouched tile does not exist.
 *
 * Layout of a tile's data: rows top to bottom, texels left to right, channels interleaved.
 *   4 channels: R G B A, straight alpha, RGB in the sRGB curve (base colour).
 *   2 channels: V C, value and coverage (every other map).
 * Tiles at the right and bottom border of a sheet are whole; the texels beyond the border stay zero.
 */
import type { Heap, TexelPlace, View, ViewKind } from './heap';

export const TILE = 128;
export const TILE_TEXELS = TILE * TILE;
export const MAX16 = 65535;
/** Texels within a tile. */
export const WHOLE_TILE = { x: 0, y: 0, width: TILE, height: TILE } as const;

/** 8192 / 128 = 64 tiles a side at most; 256 leaves room and keeps indices small integers. */
const TILE_STRIDE = 256;
export type TileIndex = number;
export const tileIndex = (tileX: number, tileY: number): TileIndex => tileY * TILE_STRIDE + tileX;
export const tileX = (index: TileIndex): number => index % TILE_STRIDE;
export const tileY = (index: TileIndex): number => (index / TILE_STRIDE) | 0;
export const tilesAcross = (texels: number): number => Math.ceil(texels / TILE);

export function* tilesOf(width: number, height: number): Generator<TileIndex> {
  for (let y = 0; y < tilesAcross(height); y++) for (let x = 0; x < tilesAcross(width); x++) yield tileIndex(x, y);
}

/**
 * The same in bands, in each column by column: what is worked out around a tile is still at hand when its neighbours below and beside
 * it come, in a cache that need hold no more than two columns of a band, however large the sheet.
 */
export function* tilesInBands(width: number, height: number, band = 16): Generator<TileIndex> {
  const down = tilesAcross(height);
  for (let top = 0; top < down; top += band)
    for (let x = 0; x < tilesAcross(width); x++) for (let y = top; y < Math.min(down, top + band); y++) yield tileIndex(x, y);
}

/**
 * One immutable state of one tile. `data` may be dropped for old states once `hash` is known: the
 * pixels are then fetched again by hash. `hash` is null until the tile has been kept.
 */
export interface TileVersion {
  data: Uint16Array | null;
  hash: string | null;
  /** See `stampOf`. */
  stamp?: number;
}

let shared = false;
let heap: Heap | null = null;

/**
 * From now on new tiles lie in shared memory, so that several threads see one copy: in `heap` while it has room, else
 * each in a piece of its own. Where there is no shared memory they stay as they are.
 */
export function shareTexels(inHeap: Heap | null = null): void {
  shared = typeof SharedArrayBuffer !== 'undefined';
  heap = inHeap;
}

/** Texels of a new tile, zero. */
export function newTexels(length: number): Uint16Array<ArrayBuffer> {
  // Typed as plain: what reads and writes texels does not care, and what does (hashing) copies.
  const texels = heap?.texels(length) ?? (shared ? new Uint16Array(new SharedArrayBuffer(length * 2)) : new Uint16Array(length));
  return texels as Uint16Array<ArrayBuffer>;
}

/** Texels that another thread unpacked, in the heap if there is one. */
export function adoptTexels(texels: Uint16Array): Uint16Array {
  if (!heap || heap.placeOf(texels)) return texels;
  const own = heap.texels(texels.length);
  if (!own) return texels;
  own.set(texels);
  return own;
}

/** Texels as another thread is told of them: where they lie in the memory that it shares, else themselves. */
export const sentTexels = (texels: Uint16Array): Uint16Array | TexelPlace => heap?.placeOf(texels) ?? texels;

/**
 * Numbers that stay, whatever they are: where kernels and other threads read them in place if there is room, else in memory
 * that threads share, else anywhere.
 */
export function lasting<T extends View>(kind: ViewKind<T>, length: number): T {
  const own = heap?.view(kind, length);
  if (own) return own;
  const bytes = length * kind.BYTES_PER_ELEMENT;
  return new kind(shared ? new SharedArrayBuffer(bytes) : new ArrayBuffer(bytes), 0, length);
}

/** Numbers where kernels read them in place: a copy, if these lie elsewhere and there is room. */
export function placed<T extends Float32Array | Uint32Array>(numbers: T): T {
  const own = heap?.view(numbers.constructor as ViewKind<T>, numbers.length);
  if (!own) return numbers;
  own.set(numbers);
  return own;
}

let lastStamp = 0;
/** A number that is this state's alone: what caches go by. From its address where that is known, which is the same another day. */
export function stampOf(version: TileVersion): number {
  return (version.stamp ??= version.hash ? stampOfHash(version.hash) : ++lastStamp);
}

/** 52 bits of an address; numbers that are counted within a thread never come near them. */
export const stampOfHash = (hash: string): number => parseInt(hash.slice(0, 13), 16);

/** Says that the pixels were changed in place, as a running stroke does to its own copies. */
export function touch(version: TileVersion): void {
  version.stamp = ++lastStamp;
}

/** What happened to one tile: undo puts `before` back. null: the tile does not exist. */
export interface TileChange {
  plane: string;
  tile: TileIndex;
  before: TileVersion | null;
  after: TileVersion | null;
}

/** Planes of tiles, each by its name. */
export class TileStore {
  private planes = new Map<string, Map<TileIndex, TileVersion>>();

  get(plane: string, tile: TileIndex): TileVersion | null {
    return this.planes.get(plane)?.get(tile) ?? null;
  }

  /** Data of a tile that exists, or null. Throws if the pixels of a current tile are not in memory. */
  data(plane: string, tile: TileIndex): Uint16Array | null {
    const version = this.get(plane, tile);
    if (!version) return null;
    if (!version.data) throw new Error(`Tile ${tile} of "${plane}" is not in memory (${version.hash})`);
    return version.data;
  }

  set(plane: string, tile: TileIndex, version: TileVersion | null): void {
    const tiles = this.planes.get(plane);
    if (version) {
      if (tiles) tiles.set(tile, version);
      else this.planes.set(plane, new Map([[tile, version]]));
    } else if (tiles) {
      tiles.delete(tile);
      if (tiles.size === 0) this.planes.delete(plane);
    }
  }

  apply(changes: readonly TileChange[]): void {
    for (const c of changes) this.set(c.plane, c.tile, c.after);
  }

  tilesOf(plane: string): ReadonlyMap<TileIndex, TileVersion> {
    return this.planes.get(plane) ?? EMPTY;
  }

  planeKeys(): string[] {
    return [...this.planes.keys()];
  }

  /** Bytes of pixel data held for current tiles. */
  bytes(): number {
    let sum = 0;
    for (const tiles of this.planes.values()) for (const v of tiles.values()) sum += v.data?.byteLength ?? 0;
    return sum;
  }

  clone(): TileStore {
    const copy = new TileStore();
    for (const [key, tiles] of this.planes) copy.planes.set(key, new Map(tiles));
    return copy;
  }
}

const EMPTY: ReadonlyMap<TileIndex, TileVersion> = new Map();

export function invertChanges(changes: readonly TileChange[]): TileChange[] {
  return changes.map((c) => ({ ...c, before: c.after, after: c.before })).reverse();
}

/** Cuts a picture into tiles; tiles without any coverage are left out. `pixels` is interleaved 16 bit. */
export function tilesFromPicture(
  pixels: Uint16Array,
  width: number,
  height: number,
  channels: 2 | 4,
): Map<TileIndex, Uint16Array> {
  const out = new Map<TileIndex, Uint16Array>();
  for (const index of tilesOf(width, height)) {
    const x0 = tileX(index) * TILE;
    const y0 = tileY(index) * TILE;
    const data = newTexels(TILE_TEXELS * channels);
    const columns = Math.min(TILE, width - x0);
    for (let y = 0; y < Math.min(TILE, height - y0); y++) {
      const from = ((y0 + y) * width + x0) * channels;
      data.set(pixels.subarray(from, from + columns * channels), y * TILE * channels);
    }
    let covered = false;
    for (let i = channels - 1; i < data.length && !covered; i += channels) covered = data[i] !== 0;
    if (covered) out.set(index, data);
  }
  return out;
}

/** The reverse of `tilesFromPicture`: missing tiles are zero. */
export function pictureFromTiles(
  tiles: ReadonlyMap<TileIndex, TileVersion>,
  width: number,
  height: number,
  channels: 2 | 4,
): Uint16Array {
  const pixels = new Uint16Array(width * height * channels);
  for (const [index, version] of tiles) {
    // Pixels that are missing on the server count as empty.
    if (!version.data) continue;
    const x0 = tileX(index) * TILE;
    const y0 = tileY(index) * TILE;
    const columns = Math.min(TILE, width - x0);
    for (let y = 0; y < Math.min(TILE, height - y0); y++) {
      const from = y * TILE * channels;
      pixels.set(version.data.subarray(from, from + columns * channels), ((y0 + y) * width + x0) * channels);
    }
  }
  return pixels;
}

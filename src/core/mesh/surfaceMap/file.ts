/**
 * A surface map as bytes, to be kept beside the piece in a browser: made again it takes a second at 2048², read a tenth of that.
 * Layout, little endian: 16 bytes (magic, length of the head), the head as JSON, then from the next multiple of 16 on the arrays in
 * the order of `arraysOf`. The first 16 bytes are written last: a file that was not finished is none.
 */
import { lasting, TILE_TEXELS, tileIndex, tileX, tileY } from '../../tile/tiles';
import type { View } from '../../tile/heap';
import { placeCorners } from './corners';
import { BLOCKS_PER_TILE, type SurfaceMap, type SurfaceMapInput, type SurfaceTile } from './surfaceMap';

/** "surf", 1. */
const MAGIC = 0x66727573;
const VERSION = 1;
const FIRST = 16;

/** As much of a file as is needed here. */
export interface MapFile {
  read(into: Uint8Array<ArrayBuffer>, options: { at: number }): number;
  write(from: Uint8Array<ArrayBuffer>, options: { at: number }): number;
  flush(): void;
}

interface Head {
  version: number;
  width: number;
  height: number;
  gutterTexels: number;
  faces: number;
  faceBlocks: number;
  tiles: number[];
}

/** All that is kept, in order. */
function* arraysOf(map: SurfaceMap): Generator<View> {
  yield map.faceBlockStart;
  yield map.faceBlocks;
  yield map.blockBounds;
  yield map.shadowed;
  for (const { position, normal, face, blockNormals, bounds } of map.tileList) {
    yield position;
    yield face;
    yield blockNormals;
    yield bounds;
    yield normal;
  }
}

/** Writes it in steps of a few milliseconds: it is done when the generator is. Throws what the file throws. */
export function* writeSurfaceMap(map: SurfaceMap, file: MapFile): Generator<void> {
  const head: Head = {
    version: VERSION,
    width: map.width,
    height: map.height,
    gutterTexels: map.gutterTexels,
    faces: map.shadowed.length,
    faceBlocks: map.faceBlocks.length,
    tiles: map.tileList.map(({ x, y }) => tileIndex(x, y)),
  };
  const json = new TextEncoder().encode(JSON.stringify(head));
  file.write(new Uint8Array(FIRST), { at: 0 });
  file.flush();
  file.write(json, { at: FIRST });
  let at = (FIRST + json.length + 15) & ~15;
  let n = 0;
  for (const array of arraysOf(map)) {
    const bytes = new Uint8Array(bytesOf(array));
    if (file.write(bytes, { at }) !== bytes.length) throw new Error('The file was cut short');
    at += bytes.length;
    if (++n % 16 === 0) yield;
  }
  file.flush();
  const first = new Uint8Array(FIRST);
  new Uint32Array(first.buffer).set([MAGIC, json.length, at]);
  file.write(first, { at: 0 });
  file.flush();
}

/** The map of that model and size; null where the file has none, or another one. */
export function readSurfaceMap(file: MapFile, input: Omit<SurfaceMapInput, 'islands'>): SurfaceMap | null {
  const first = new Uint32Array(4);
  if (file.read(new Uint8Array(first.buffer), { at: 0 }) !== FIRST || first[0] !== MAGIC || first[1] > 1 << 20) return null;
  const json = new Uint8Array(first[1]);
  file.read(json, { at: FIRST });
  let head: Head;
  try {
    head = JSON.parse(new TextDecoder().decode(json)) as Head;
  } catch {
    return null;
  }
  const faces = input.model.indices.length / 3;
  if (head.version !== VERSION || head.width !== input.width || head.height !== input.height || head.faces !== faces) return null;
  const blocks = head.tiles.length * BLOCKS_PER_TILE;
  const blockBounds = lasting(Float32Array, blocks * 6);
  const tileList = head.tiles.map((tile, n): SurfaceTile => {
    const own = blockBounds.subarray(n * BLOCKS_PER_TILE * 6, (n + 1) * BLOCKS_PER_TILE * 6);
    return {
      x: tileX(tile),
      y: tileY(tile),
      position: lasting(Float32Array, TILE_TEXELS * 3),
      normal: lasting(Int8Array, TILE_TEXELS * 3),
      face: lasting(Int32Array, TILE_TEXELS),
      blockBounds: own,
      blockNormals: lasting(Float32Array, BLOCKS_PER_TILE * 4),
      bounds: new Float32Array(6),
    };
  });
  const map: SurfaceMap = {
    width: head.width,
    height: head.height,
    gutterTexels: head.gutterTexels,
    tiles: new Map(head.tiles.map((tile, n) => [tile, tileList[n]])),
    tileList,
    faceBlockStart: lasting(Uint32Array, faces + 1),
    faceBlocks: lasting(Uint32Array, head.faceBlocks),
    blockBounds,
    shadowed: new Uint8Array(faces),
    ...placeCorners(input),
  };
  let at = (FIRST + json.length + 15) & ~15;
  for (const array of arraysOf(map)) {
    if (!fill(array, file, at)) return null;
    at += array.byteLength;
  }
  return at === first[2] ? map : null;
}

const bytesOf = ({ buffer, byteOffset, byteLength }: View): Uint8Array => new Uint8Array(buffer, byteOffset, byteLength);

/** Browsers may refuse to read into memory that threads share. */
let direct = true;

function fill(array: View, file: MapFile, at: number): boolean {
  const bytes = bytesOf(array);
  if (direct)
    try {
      return file.read(bytes as Uint8Array<ArrayBuffer>, { at }) === bytes.length;
    } catch {
      direct = false;
    }
  const copy = new Uint8Array(bytes.length);
  if (file.read(copy, { at }) !== bytes.length) return false;
  bytes.set(copy);
  return true;
}

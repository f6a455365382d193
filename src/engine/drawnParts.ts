/**
 * What was drawn, in parts that travel: entries one behind the other, each a body (shelf.ts) and, unless the tile is of one texel, its
 * RGBA. They hang together by nothing but their signatures, so that parts of different days may be mixed.
 */
import { TILE_TEXELS, tileX, tileY, tilesAcross, type TileIndex } from '../core/tile/tiles';
import { BODY, bodyOf, readBody, type Drawn, type Shelf } from './shelf';

const SLOT = TILE_TEXELS * 4;
/** Tiles with texels in a part: 4 MiB. */
const IN_PART = 64;
const EVEN_IN_PART = 16_384;

/** What was drawn of pieces, kept for browsers that have not seen them yet. */
export interface DrawnElsewhere {
  /** How many parts there are; 0: nothing was drawn yet. */
  parts(pieceId: string, sheetId: string): Promise<number>;
  /** null: it is not there. */
  part(pieceId: string, sheetId: string, n: number): Promise<Uint8Array | null>;
  /** With the last one those of before go. */
  put(pieceId: string, sheetId: string, n: number, last: boolean, bytes: Uint8Array<ArrayBuffer>): Promise<void>;
}

/** All that is on a shelf, part by part, and whether it is the last. */
export function* partsOfShelf(shelf: Pick<Shelf, 'all'>): Generator<[part: Uint8Array<ArrayBuffer>, last: boolean]> {
  let part: Drawn[] = [];
  let [texels, even] = [0, 0];
  for (const drawn of shelf.all()) {
    if (texels === IN_PART || even === EVEN_IN_PART) {
      yield [packed(part), false];
      part = [];
      [texels, even] = [0, 0];
    }
    part.push(drawn);
    if (typeof drawn.texels === 'number') even++;
    else texels++;
  }
  if (part.length) yield [packed(part), true];
}

function packed(part: readonly Drawn[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(part.reduce((n, { texels }) => n + BODY + (typeof texels === 'number' ? 0 : SLOT), 0));
  let at = 0;
  for (const drawn of part) {
    out.set(bodyOf(drawn), at);
    at += BODY;
    if (typeof drawn.texels === 'number') continue;
    out.set(drawn.texels, at);
    at += SLOT;
  }
  return out;
}

/** What a part holds of a sheet of that size; it ends where it makes no sense any more. */
export function* readPart(part: Uint8Array, { width, height }: { width: number; height: number }): Generator<Drawn> {
  const onSheet = (tile: TileIndex) => tileX(tile) < tilesAcross(width) && tileY(tile) < tilesAcross(height);
  for (let at = 0; at + BODY <= part.length;) {
    const told = readBody(new DataView(part.buffer, part.byteOffset + at, BODY));
    at += BODY;
    if (!told || !onSheet(told.tile)) return;
    const { even, ...place } = told;
    if (even === null && at + SLOT > part.length) return;
    yield { ...place, texels: even ?? part.slice(at, at + SLOT) };
    if (even === null) at += SLOT;
  }
}

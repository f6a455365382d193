/**
 * Rendered tiles in parts that are sent over the network: entries one after another, each a body (shelf.ts) followed by its RGBA, unless
 * all texels of the tile are equal. Each entry is identified by its signature alone, so parts of different ages may be mixed.
 */
import { TILE_TEXELS, tileX, tileY, tilesAcross, type TileIndex } from '../../core/tile/tiles';
import { BODY, bodyOf, readBody, type Drawn, type Shelf } from './shelf';

const SLOT = TILE_TEXELS * 4;
/** Limits of a part: tiles with texels (4 MiB in all), and tiles of one colour. */
const IN_PART = 64;
const EVEN_IN_PART = 16_384;

/** Rendered tiles on the server, for browsers that open a piece for the first time. */
export interface DrawnElsewhere {
  /** Number of parts; 0: nothing was rendered yet. */
  parts(pieceId: string, sheetId: string): Promise<number>;
  /** null: there is no such part. */
  part(pieceId: string, sheetId: string, n: number): Promise<Uint8Array | null>;
  /** Stores one part. `last`: deletes parts with higher numbers and those of other builds. */
  put(pieceId: string, sheetId: string, n: number, last: boolean, bytes: Uint8Array<ArrayBuffer>): Promise<void>;
}

/** Everything on a shelf in parts, each with whether it is the last one. */
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

/** The entries of a part for a sheet of that size; stops at the first entry that is damaged. */
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

/** The piece files of the demo: painted by scripts, kept in the repository, so that a first start need not paint them. */
import { createHash } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { sha256 } from '../src/core/codec/tileBlob';
import { attachSurfaces } from '../src/core/strata/pieceSurfaces';
import { evaluateWhole16 } from '../src/core/strata/evaluate';
import { TileCache } from '../src/core/strata/tileCache';
import { writePieceFile } from '../src/core/piece/pieceFile';
import { ensureThumbnail } from '../src/core/piece/thumbnail';
import { TileStore } from '../src/core/tile/tiles';
import { DEMO, type DemoName } from './list';
import { modelOf, PAINT, type DemoBundle } from './scripts';

const FOLDER = join(fileURLToPath(new URL('.', import.meta.url)), 'pieces');
export const demoFile = (name: DemoName): string => join(FOLDER, `${name}.brindle`);

/** What a file was made from, so that a test can tell whether its script has changed since. */
interface Made {
  /** SHA-256 of the piece file. */
  file: string;
  /** SHA-256 of the maps that its script gives at `SMALL` texels. */
  small: string;
}
/** Small enough for a test; the size of golden/. */
export const SMALL = 128;
export const MOST_BYTES = 4 * 1024 * 1024;
const LIST = join(FOLDER, 'made.json');
export const madeFiles = (): Record<DemoName, Made> => JSON.parse(readFileSync(LIST, 'utf8')) as Record<DemoName, Made>;

/** SHA-256 of all evaluated maps of all sheets. */
export async function hashOfMaps(bundle: DemoBundle): Promise<string> {
  const { piece, store } = bundle;
  const model = await modelOf(bundle);
  if (model) attachSurfaces(store, model, 0);
  const hash = createHash('sha256');
  for (const sheet of piece.sheets) {
    const cache = new TileCache();
    for (const map of sheet.maps) {
      const { buffer, byteOffset, byteLength } = evaluateWhole16({ sheet, store, cache }, map);
      hash.update(map).update(new Uint8Array(buffer, byteOffset, byteLength));
    }
  }
  return hash.digest('hex');
}

/** The same piece with its texels rounded to 8 bits, which its file holds in a third of the bytes. */
export function inEightBits(bundle: DemoBundle): DemoBundle {
  const store = new TileStore();
  for (const plane of bundle.store.planeKeys())
    for (const [tile, { data }] of bundle.store.tilesOf(plane)) {
      const rounded = data!.map((v) => Math.round(v / 257) * 257);
      // A file holds no empty tiles.
      if (rounded.some((v) => v !== 0)) store.set(plane, tile, { data: rounded, hash: null });
    }
  return { ...bundle, store };
}

/** Paints a piece by its script and writes its file. Gives the file's size in bytes; throws where that is above `MOST_BYTES`. */
export async function writeDemoFile(name: DemoName): Promise<number> {
  const small = await hashOfMaps(await PAINT[name](SMALL));
  const bundle = inEightBits(await PAINT[name](DEMO[name].size));
  const bytes = writePieceFile(ensureThumbnail(bundle, await modelOf(bundle)));
  if (bytes.length > MOST_BYTES)
    throw new Error(`The file of "${name}" has ${bytes.length} bytes, more than ${MOST_BYTES}: paint it smaller.`);
  writeFileSync(demoFile(name), bytes);
  const list = { ...madeFiles(), [name]: { file: await sha256(bytes), small } };
  writeFileSync(LIST, `${JSON.stringify(list, null, 1)}\n`);
  return bytes.length;
}

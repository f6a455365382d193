/**
 * The piece file (`.brindle`): a zip of
 *   piece.json                     the document
 *   model.glb                      the mesh, for model pieces
 *   planes/<layer id>/<map>.png    painted pixels, 16 bit, the sheet's size: RGBA for colours and normals,
 *                                  grey + alpha (value + coverage) for the other maps
 *   planes/<step id>/mask.png      the paint of a mask's step: grey + alpha
 *   planes/<picture id>/picture.png   a picture that is placed: RGBA, its own size
 *   pins/<SHA-256>.webp            reference pictures of its pinboard
 *   thumbnail.png                  optional
 *   strokes.json                   optional: how its strokes came about (docs/strokes.md)
 * See docs/piece-file.md.
 */
import { strokesFile } from '../hand/replay';
import { holdsOf, storedChannels } from '../kinds/maps';
import { parsePiece, type Piece } from '../document/schema';
import { planesOfSheet } from '../document/planes';
import { strokeRecordSchema, type StrokeRecord } from '../keeping/operation';
import { fitPicture } from '../tile/fit';
import { pictureFromTiles, tilesFromPicture, TileStore } from '../tile/tiles';
import { decodePng, encodePng, PictureError } from '../codec/png';
import { ArchiveError, readZip, writeZip } from '../codec/zip';

export interface PieceBundle {
  piece: Piece;
  store: TileStore;
  /** GLB bytes; null for canvases. */
  modelGlb: Uint8Array | null;
  thumbnailPng: Uint8Array | null;
  /** Reference pictures that its pinboard names, WebP, by their SHA-256. Left out: none are at hand. */
  pinned?: ReadonlyMap<string, Uint8Array>;
  /** In the order in which they were painted. */
  strokes?: StrokeRecord[];
}

export class PieceFileError extends Error {}

export interface Progress {
  (done: number, total: number, what: string): void;
}

export function writePieceFile(bundle: PieceBundle, progress?: Progress): Uint8Array {
  const files: [string, Uint8Array][] = [['piece.json', new TextEncoder().encode(JSON.stringify(bundle.piece, null, 1))]];
  if (bundle.modelGlb) files.push(['model.glb', bundle.modelGlb]);
  const planes = bundle.piece.sheets.flatMap((sheet) =>
    planesOfSheet(sheet).filter(({ key }) => bundle.store.tilesOf(key).size > 0),
  );
  planes.forEach(({ owner, key, map, width, height }, n) => {
    progress?.(n, planes.length, `${owner.name}, ${map}`);
    const channels = storedChannels(map);
    const data = pictureFromTiles(bundle.store.tilesOf(key), width, height, channels);
    const png = encodePng({ width, height, channels, bits: 16, data });
    files.push([`planes/${key}.png`, png]);
  });
  const pins = new Set(bundle.piece.pins.map((pin) => pin.picture));
  for (const [hash, webp] of bundle.pinned ?? []) if (pins.has(hash)) files.push([`pins/${hash}.webp`, webp]);
  if (bundle.thumbnailPng) files.push(['thumbnail.png', bundle.thumbnailPng]);
  if (bundle.strokes?.length) files.push(['strokes.json', new TextEncoder().encode(JSON.stringify(strokesFile(bundle.strokes)))]);
  return writeZip(files);
}

/** Throws PieceFileError with one sentence when the file is not sound. */
export function readPieceFile(bytes: Uint8Array, name = 'The piece file'): PieceBundle {
  try {
    return unpack(readZip(bytes, name), name);
  } catch (error) {
    if (error instanceof ArchiveError || error instanceof PictureError) throw new PieceFileError(error.message);
    throw error;
  }
}

function unpack(files: Map<string, Uint8Array>, name: string): PieceBundle {
  const json = files.get('piece.json');
  if (!json)
    throw new PieceFileError(`${name} holds no piece.json, so it is not a Brindle piece: check that it is the right file.`);
  let raw: unknown;
  try {
    raw = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(json));
  } catch {
    throw new PieceFileError(`The piece.json in ${name} is not readable JSON in UTF-8: export the piece again.`);
  }
  const parsed = parsePiece(raw);
  if (!parsed.ok) throw new PieceFileError(parsed.message);
  const piece = parsed.value;
  const modelGlb = files.get('model.glb') ?? null;
  if (piece.kind === 'model' && !modelGlb) throw new PieceFileError(`${name} lacks its model.glb: export the piece again.`);
  const store = new TileStore();
  const places = new Map(piece.sheets.flatMap((sheet) => planesOfSheet(sheet).map((plane) => [plane.key, plane] as const)));
  for (const [path, content] of files) {
    const match = /^planes\/(.+)\.png$/.exec(path);
    if (!match) continue;
    const place = places.get(match[1]);
    if (!place)
      throw new PieceFileError(
        `${name} holds "${path}", which belongs to no painted layer, coat or mask: export the piece again.`,
      );
    const { map, width, height, wraps } = place;
    const channels = storedChannels(map);
    // A picture of another size is fitted to its sheet, so that files can be put together by hand.
    const pixels = fitPicture(decodePng(content, `"${path}"`), width, height, channels, holdsOf(map), wraps);
    for (const [tile, data] of tilesFromPicture(pixels, width, height, channels))
      store.set(place.key, tile, { data, hash: null });
  }
  const pinned = new Map<string, Uint8Array>();
  for (const { picture } of piece.pins) {
    const webp = files.get(`pins/${picture}.webp`);
    if (webp) pinned.set(picture, webp);
  }
  const strokes = readStrokes(files.get('strokes.json'));
  return { piece, store, modelGlb, thumbnailPng: files.get('thumbnail.png') ?? null, pinned, strokes };
}

/** What cannot be read of them is left out: the paint itself is in the planes. */
function readStrokes(json: Uint8Array | undefined): StrokeRecord[] {
  if (!json) return [];
  try {
    const { strokes } = JSON.parse(new TextDecoder().decode(json)) as { strokes: unknown[] };
    return strokes.flatMap((s) => strokeRecordSchema.safeParse(s).data ?? []);
  } catch {
    return [];
  }
}

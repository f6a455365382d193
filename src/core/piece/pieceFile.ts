/**
 * The piece file (`.brindle`): a zip of
 *   piece.json                     the document
 *   model.glb                      the mesh, for model pieces
 *   planes/<layer id>/<map>.png    painted pixels, 16 bit (8 where nothing is lost by it), the sheet's size: RGBA for colours
 *                                  and normals, grey + alpha (value + coverage) for the other maps
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
import { planesOfSheet, type Plane } from '../document/planes';
import { strokeRecordSchema, type StrokeRecord } from '../keeping/operation';
import { fitPicture } from '../tile/fit';
import { fewestBits, toStored } from '../tile/bitmap';
import { TileStrips } from '../tile/strips';
import { pictureFromTiles, tilesFromPicture, TileStore, type TileIndex, type TileVersion } from '../tile/tiles';
import { decodePng, encodePng, PictureError } from '../codec/png';
import { layoutOf, readPngRows, type TakeRows } from '../codec/pngRows';
import { ArchiveError, printed, readZip, writeZip } from '../codec/zip';

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
    const png = encodePng(fewestBits({ width, height, channels, bits: 16, data }));
    files.push([`planes/${key}.png`, png]);
  });
  const pins = new Set(bundle.piece.pins.map((pin) => pin.picture));
  for (const [hash, webp] of bundle.pinned ?? []) if (pins.has(hash)) files.push([`pins/${hash}.webp`, webp]);
  if (bundle.thumbnailPng) files.push(['thumbnail.png', bundle.thumbnailPng]);
  if (bundle.strokes?.length) files.push(['strokes.json', new TextEncoder().encode(JSON.stringify(strokesFile(bundle.strokes)))]);
  return writeZip(files);
}

/** What becomes of each tile that was read: as it is to stand in the store. */
export type TakeTile = (data: Uint16Array<ArrayBuffer>) => TileVersion;

/** A PNG that is to be read now. */
export interface PngToRead {
  bytes: Uint8Array;
  name: string;
  take: TakeRows;
}

/** Throws PieceFileError with one sentence when the file is not sound. */
export function readPieceFile(bytes: Uint8Array, name = 'The piece file', take: TakeTile = asItIs): PieceBundle {
  try {
    const steps = unpack(readZip(bytes, name), name, take);
    for (let step = steps.next(); ; step = steps.next()) {
      if (step.done) return step.value;
      readPngRows(step.value.bytes, step.value.name, step.value.take);
    }
  } catch (error) {
    throw inOneSentence(error, name);
  }
}

/**
 * The same with another reader of PNGs. Planes come one after another, and row by row: beside what `take` keeps, no more than a strip
 * of tiles is ever at hand.
 */
export async function readPieceFileBy(
  readPng: (png: PngToRead) => Promise<void>,
  bytes: Uint8Array,
  name: string,
  take: TakeTile,
): Promise<PieceBundle> {
  try {
    const steps = unpack(readZip(bytes, name), name, take);
    for (let step = steps.next(); ; step = steps.next()) {
      if (step.done) return step.value;
      await readPng(step.value);
    }
  } catch (error) {
    throw inOneSentence(error, name);
  }
}

function inOneSentence(error: unknown, name: string): PieceFileError {
  if (error instanceof PieceFileError) return error;
  if (error instanceof ArchiveError || error instanceof PictureError) return new PieceFileError(error.message);
  return new PieceFileError(`${name} does not fit together, so it cannot be read: export the piece again.`, { cause: error });
}

/** What is in a piece file beside its planes and pins; and what file managers put into any zip. */
const PARTS: ReadonlySet<string> = new Set(['piece.json', 'model.glb', 'thumbnail.png', 'strokes.json']);
const STRAY = /^__MACOSX\/|(^|\/)(\.DS_Store|Thumbs\.db|desktop\.ini)$/;

function* unpack(files: Map<string, Uint8Array>, name: string, take: TakeTile): Generator<PngToRead, PieceBundle> {
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
    if (!match) {
      if (PARTS.has(path) || /^pins\/[0-9a-f]{64}\.webp$/.test(path) || STRAY.test(path)) continue;
      throw new PieceFileError(`${name} holds "${printed(path)}", which is no part of a piece: check that it is the right file.`);
    }
    const place = places.get(match[1]);
    if (!place)
      throw new PieceFileError(
        `${name} holds "${path}", which belongs to no painted layer, coat or mask: export the piece again.`,
      );
    yield* readPlane(content, `"${path}"`, place, (tile, data) => store.set(place.key, tile, take(data)));
    // Its bytes are not needed any more.
    files.set(path, NO_BYTES);
  }
  const pinned = new Map<string, Uint8Array>();
  for (const { picture } of piece.pins) {
    const webp = files.get(`pins/${picture}.webp`);
    if (webp) pinned.set(picture, webp);
  }
  const strokes = readStrokes(files.get('strokes.json'));
  return { piece, store, modelGlb, thumbnailPng: soundThumbnail(files.get('thumbnail.png')), pinned, strokes };
}

const asItIs = (data: Uint16Array): TileVersion => ({ data, hash: null });

const NO_BYTES = new Uint8Array(0);
/** A picture of another size than its sheet is held whole while it is fitted. */
const MOST_FITTED_TEXELS = 4096 * 4096;

function* readPlane(
  bytes: Uint8Array,
  name: string,
  { map, width, height, wraps }: Plane,
  put: (tile: TileIndex, data: Uint16Array<ArrayBuffer>) => void,
): Generator<PngToRead, void> {
  const channels = storedChannels(map);
  const { head } = layoutOf(bytes, name);
  if (head.width === width && head.height === height) {
    const strips = new TileStrips(width, height, channels, put);
    const rows: TakeRows = (of) => {
      const asStored = of.bits === 16 && of.channels === channels;
      return (row, y) =>
        strips.row(asStored ? (row as Uint16Array) : toStored({ ...of, width, height: 1, data: row }, channels), y);
    };
    yield { bytes, name, take: rows };
    return;
  }
  // A picture of another size is fitted to its sheet, so that files can be put together by hand.
  if (head.width * head.height > MOST_FITTED_TEXELS)
    throw new PieceFileError(
      `${name} is ${head.width} × ${head.height}, but its sheet is ${width} × ${height}: save it in that size.`,
    );
  const pixels = fitPicture(decodePng(bytes, name), width, height, channels, holdsOf(map), wraps);
  for (const [tile, data] of tilesFromPicture(pixels, width, height, channels)) put(tile, data as Uint16Array<ArrayBuffer>);
}

const MOST_THUMBNAIL = { side: 1024, bytes: 4 * 1024 * 1024 };

/** null where it is not the picture that it says it is: then another is drawn. */
function soundThumbnail(png: Uint8Array | undefined): Uint8Array | null {
  if (!png || png.length > MOST_THUMBNAIL.bytes) return null;
  try {
    const { head } = layoutOf(png, 'The thumbnail');
    if (head.width > MOST_THUMBNAIL.side || head.height > MOST_THUMBNAIL.side) return null;
    decodePng(png);
    return png;
  } catch {
    return null;
  }
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

/** A piece for the command line: from a piece file, or from the server. */
import { basename } from 'node:path';
import { inflateRawSync } from 'node:zlib';
import { PieceFileError, readPieceFile, type PieceBundle } from '../src/core/piece/pieceFile';
import { blobChannels, unfilterTile } from '../src/core/codec/tileBlob';
import { settleMaterials } from '../src/core/document/settleMaterials';
import { ModelError, type Model } from '../src/core/mesh/model';
import { readModel } from '../src/core/mesh/readModel';
import { lostTiles } from '../src/core/deliver/lost';
import { TileStore } from '../src/core/tile/tiles';
import { BadInput, forPeople, readInput } from './badInput';

export interface LoadedPiece extends PieceBundle {
  model: Model | null;
}

export async function loadPieceFile(path: string): Promise<LoadedPiece> {
  const bytes = await readInput(path);
  return withModel(await forPeople(() => readPieceFile(bytes, basename(path)), [PieceFileError]));
}

async function withModel(bundle: PieceBundle): Promise<LoadedPiece> {
  const { modelGlb, piece } = bundle;
  const model = modelGlb ? await forPeople(() => readModel(new Map([['model.glb', modelGlb]])), [ModelError]) : null;
  if (piece.model && !model?.uvs[piece.model.uvSet])
    throw new BadInput(`The model has no UV set ${piece.model.uvSet + 1}, which the document asks for: export the piece again.`);
  if (!model) return { ...bundle, model };
  const settled = settleMaterials(piece, model);
  for (const notice of settled.notices) if (!piece.notices.includes(notice)) process.stderr.write(`${notice}\n`);
  return { ...bundle, piece: settled, model };
}

/** A piece file, by its ending, or else a piece on the server by its name or id. */
export const loadPiece = (from: string): Promise<LoadedPiece> =>
  from.endsWith('.brindle') ? loadPieceFile(from) : loadServerPiece(from);

/** From the database at DATABASE_URL, or Brindle's own. */
async function loadServerPiece(nameOrId: string): Promise<LoadedPiece> {
  const { startPostgres, ensureDatabase } = await import('./postgres');
  const postgres = process.env.DATABASE_URL ? null : await startPostgres('.brindle/postgres');
  if (postgres) process.env.DATABASE_URL = await ensureDatabase(postgres, 'brindle');
  const { closePool } = await import('../src/server/db');
  const { migrateDatabase } = await import('../src/server/migrate');
  const { listPieces, openPiece, readBlobs, strokesOf } = await import('../src/server/pieces');
  try {
    await migrateDatabase();
    const cards = await listPieces();
    const card = cards.find((c) => c.id === nameOrId) ?? cards.find((c) => c.name.toLowerCase() === nameOrId.toLowerCase());
    if (!card)
      throw new BadInput(
        `There is no piece "${nameOrId}" here: ${
          cards.length
            ? `there are ${cards
                .map((c) => `"${c.name}"`)
                .slice(0, 8)
                .join(', ')}`
            : 'the server has none'
        }.`,
      );
    const opened = await openPiece(card.id);
    if (!opened || 'deleted' in opened) throw new BadInput(`The piece "${card.name}" was deleted a moment ago.`);
    const store = new TileStore();
    const blobs = await readBlobs([...new Set(opened.tiles.map((t) => t[2]))]);
    for (const [plane, tile, hash] of opened.tiles) store.set(plane, tile, { data: texelsOf(blobs.get(hash)), hash });
    const { document } = opened;
    const strokes = await strokesOf(card.id, opened.position);
    const modelGlb = document.model ? ((await readBlobs([document.model.blob])).get(document.model.blob) ?? null) : null;
    return await withModel({ piece: document, store, modelGlb, thumbnailPng: null, strokes });
  } finally {
    await closePool();
    if (postgres?.started) await postgres.stop();
  }
}

/** null: lost or damaged. Whoever writes something out of it says so. */
function texelsOf(blob: Uint8Array | undefined): Uint16Array | null {
  try {
    return blob ? unfilterTile(inflateRawSync(blob.subarray(1)), blobChannels(blob)) : null;
  } catch {
    return null;
  }
}

/** Says on the terminal what is lost; what is written beside it stays apart from it. */
export function sayLost({ piece, store }: Pick<LoadedPiece, 'piece' | 'store'>): void {
  const lost = lostTiles(piece, store);
  if (lost) process.stderr.write(`${lost.sentence}\n${lost.report}`);
}

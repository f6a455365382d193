/** Runs in a reader process: reads one piece file and stores the piece as a new one. */
import { readFile } from 'node:fs/promises';
import { PieceFileError, readPieceFileBy } from '../../core/piece/pieceFile';
import { settleMaterials } from '../../core/document/settleMaterials';
import { readModel } from '../../core/mesh/readModel';
import { ModelError } from '../../core/mesh/model';
import { ensureThumbnail } from '../../core/piece/thumbnail';
import { closePool } from '../db';
import { readPngByNode } from '../nodePng';
import { insertPiece } from '../pieces';
import { TileSink } from '../tileSink';

/** Texels kept in memory to draw a thumbnail with, if the file has none; of larger pieces the bench draws it. */
const KEEP_BYTES = 256 * 1024 * 1024;

export type StoreResult = { ok: true; id: string } | { ok: false; message: string };

export async function storePieceFile(path: string): Promise<StoreResult> {
  try {
    return { ok: true, id: await store(path) };
  } catch (error) {
    if (error instanceof PieceFileError || error instanceof ModelError) return { ok: false, message: error.message };
    throw error;
  } finally {
    await closePool();
  }
}

async function store(path: string): Promise<string> {
  const sink = new TileSink(KEEP_BYTES);
  const bundle = await readPieceFileBy(readPngByNode, await readFile(path), 'The piece file', sink.take);
  const model = bundle.modelGlb ? await readModel(new Map([['model.glb', bundle.modelGlb]])) : null;
  if (bundle.piece.model && !model?.uvs[bundle.piece.model.uvSet])
    throw new PieceFileError(
      `The model has no UV set ${bundle.piece.model.uvSet + 1}, which the document asks for: export the piece again.`,
    );
  const piece = model ? settleMaterials(bundle.piece, model) : bundle.piece;
  const settled = { ...bundle, piece };
  return insertPiece(sink.full ? settled : ensureThumbnail(settled, model), { blobs: sink.blobs });
}

/** Run by the server: reads one piece file, stores it, prints {ok, id} or {ok, message}. */
import { readFile } from 'node:fs/promises';
import { PieceFileError, readPieceFileBy } from '../src/core/piece/pieceFile';
import { settleMaterials } from '../src/core/document/settleMaterials';
import { readModel } from '../src/core/mesh/readModel';
import { ModelError } from '../src/core/mesh/model';
import { ensureThumbnail } from '../src/core/piece/thumbnail';
import { closePool } from '../src/server/db';
import { insertPiece } from '../src/server/pieces';
import { readPngByNode } from '../src/server/nodePng';
import { TileSink } from '../src/server/tileSink';

/** Texels that stay at hand for a thumbnail, where the file has none; of larger pieces the bench draws it. */
const KEEP_BYTES = 256 * 1024 * 1024;

async function run(path: string) {
  const sink = new TileSink(KEEP_BYTES);
  const bundle = await readPieceFileBy(readPngByNode, await readFile(path), 'The piece file', sink.take);
  const model = bundle.modelGlb ? await readModel(new Map([['model.glb', bundle.modelGlb]])) : null;
  if (bundle.piece.model && !model?.uvs[bundle.piece.model.uvSet])
    throw new PieceFileError(
      `The model has no UV set ${bundle.piece.model.uvSet + 1}, which the document asks for: export the piece again.`,
    );
  const piece = model ? settleMaterials(bundle.piece, model) : bundle.piece;
  const settled = { ...bundle, piece };
  const id = await insertPiece(sink.full ? settled : ensureThumbnail(settled, model), { blobs: sink.blobs });
  return { ok: true, id };
}

run(process.argv[2])
  .catch((error: unknown) => {
    if (error instanceof PieceFileError || error instanceof ModelError) return { ok: false, message: error.message };
    console.error(error);
    return { ok: false, message: 'The piece file could not be stored: try again, or export it again.' };
  })
  .then(async (result) => {
    process.stdout.write(JSON.stringify(result));
    await closePool();
  });

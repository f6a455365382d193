/** Draws a piece of the server, so that a browser that opens it for the first time need not: as its engine would, by the same build. */
import { closeSync, mkdtempSync, openSync, readSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { parsePiece } from '../src/core/document/schema';
import type { Model } from '../src/core/mesh/model';
import { attachSurfaces, PieceSurfaces } from '../src/core/strata/pieceSurfaces';
import { TileStore } from '../src/core/tile/tiles';
import { partsOfShelf } from '../src/engine/cache/drawnParts';
import { Shelf, type ShelfFile } from '../src/engine/cache/shelf';
import { Renderer } from '../src/engine/show/renderer';
import { putDrawnPart } from '../src/server/drawn';
import { openPiece } from '../src/server/pieces';

function fileAt(path: string): ShelfFile {
  const fd = openSync(path, 'w+');
  return {
    read: (into, { at }) => readSync(fd, into, 0, into.length, at),
    write: (from, { at }) => writeSync(fd, from, 0, from.length, at),
    flush: () => undefined,
    close: () => closeSync(fd),
  };
}

/** `made`: its texels as they were made, which are those of the server. */
export async function drawForOthers(pieceId: string, made: TileStore, model: Model | null, build: string): Promise<void> {
  const opened = await openPiece(pieceId);
  if (!opened || 'deleted' in opened) return;
  // As a page reads it: signatures hang on the order of keys.
  const parsed = parsePiece(opened.document);
  if (!parsed.ok) throw new Error(parsed.message);
  const { value: piece } = parsed;
  const { tiles } = opened;
  // By their addresses on the server.
  const store = new TileStore();
  for (const [plane, tile, hash] of tiles) store.set(plane, tile, { data: made.data(plane, tile), hash });
  if (model && piece.model)
    attachSurfaces(store, model, piece.model.uvSet, new PieceSurfaces(model, piece.model.uvSet, piece.model.blob));
  const folder = mkdtempSync(join(tmpdir(), 'brindle-drawn-'));
  try {
    for (const sheet of piece.sheets) {
      const { planes, cached } = new Renderer(store);
      const shelf = new Shelf(fileAt(join(folder, String(piece.sheets.indexOf(sheet)))));
      cached.shelves.set(sheet.id, shelf);
      planes.piece = { ...piece, sheets: [sheet] };
      for (const _ of cached.store());
      let n = 0;
      for (const [part, last] of partsOfShelf(shelf))
        await putDrawnPart({ pieceId, sheetId: sheet.id, build }, n++, last, gzipSync(part, { level: 3 }));
      shelf.close();
    }
  } finally {
    rmSync(folder, { recursive: true });
  }
}

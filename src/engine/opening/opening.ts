/** Opening a piece: what is cached of it is shown first, then its texels are fetched, then what was not kept is carried out again. */
import { parsePiece, type Sheet } from '../../core/document/schema';
import { validateTiles } from '../../core/document/planes';
import type { Model } from '../../core/mesh/model';
import { lastingSurfaceStamp } from '../../core/strata/pieceSurfaces';
import { giveSurfaces } from '../../core/strata/surfaceUnder';
import type { Caching } from '../cache/caching';
import type { Changes } from '../changes/changes';
import type { Custody } from '../keeping/custody';
import type { EngineOptions } from '../options';
import { geometryOf } from './geometry';
import { History } from '../changes/history';
import { changesTo, fetchTiles, loadModel, lostPlanes, placeTexels } from './loading';
import type { Moves } from '../changes/moves';
import type { Request } from '../protocol';
import type { OpenedPiece } from '../remote';
import type { Show } from '../show/show';
import type { OpenPiece } from '../state';
import type { TilePool } from '../tiles/tilePool';

export interface Opening {
  open: OpenPiece;
  show: Show;
  changes: Changes;
  custody: Custody;
  moves: Moves;
  caching: Caching;
  tiles: TilePool;
  options: EngineOptions;
}

export async function openPiece(by: Opening, request: Extract<Request, { type: 'open' }>): Promise<void> {
  const { open, show, custody, caching, options } = by;
  const { post } = options;
  open.pieceId = request.pieceId;
  open.client = request.client;
  post({ type: 'opening', what: 'Looking for strokes that were not kept yet', done: 0, total: 1 });
  const found = await custody.open(request.pieceId, request.client, request.takeOver ?? false);
  if (!found) return;
  const { opened, leftOver } = found;
  const parsed = parsePiece(opened.document);
  if (!parsed.ok) throw new Error(parsed.message);
  open.piece = parsed.value;
  const hashes = [...new Set(opened.tiles.map((t) => t[2]))];
  const cachedTexels = caching.texelsOf(open.pieceId, hashes);
  const texels = cachedTexels.then((cached) => fetchMissing(by, hashes, cached));
  // A failure is handled where it is awaited, below.
  texels.catch(() => undefined);
  const isCached = leftOver.length === 0 ? caching.openShelves(open.piece) : false;
  const loaded = open.piece.model ? await loadModel(open.piece, options.remote) : null;
  open.modelGlb = loaded?.glb ?? null;
  const focus = open.piece.sheets.find((s) => s.id === request.sheetId) ?? open.piece.sheets[0];
  open.history = new History(open.pieceId, opened.trail, opened.position, options.remote, open.store);
  custody.begin(opened);
  // Rendered tiles are shown before their texels are here, unless there is more to be done upon them.
  const early = await isCached;
  if (early) {
    showCached(by, opened, focus);
    tell(by, loaded?.model ?? null);
    // Not worth it where all texels are cached too, and here in a moment.
    void cachedTexels.then(
      (cached) => cached.size < hashes.length && by.changes.redraw(),
      () => undefined,
    );
    void caching.fetchRendered(open.piece, focus.id, texels);
  } else post({ type: 'opening', what: `Placing the texels of ${focus.name}`, done: 0, total: 1 });
  const placed = loaded && (await placeTexels(open.piece, loaded.model, open.store, focus, options));
  open.surfaces = placed?.surfaces ?? null;
  if (placed) caching.surfacesToKeep(placed.toKeep);
  const pixels = await texels;
  open.store.apply(changesTo(open.store, opened.tiles, new Map(), pixels));
  const fault = validateTiles(open.store);
  if (fault) throw new Error(fault);
  sayLost(by, opened, pixels);
  open.surfaces?.query.hide(open.piece.hiddenParts, open.piece.hiddenFaces);
  const missing = lostPlanes(open.store);
  await custody.carryOutAgain(leftOver);
  if (!early) tell(by, loaded?.model ?? null);
  show.begin(options.helpers, focus.id, missing.length > 0);
  open.stage = 'ready';
  post({ type: 'ready', missing });
  by.changes.redraw();
  by.moves.fetchNext();
}

/** Tells the page what the piece is. */
function tell({ open, options }: Opening, model: Model | null): void {
  const geometry = model && geometryOf(model, open.piece);
  open.stage = 'shown';
  options.post({ type: 'opened', document: open.piece, trail: open.history.state, geometry });
}

/** Tiles get their addresses, and surfaces their stamps: that is enough to look up what was rendered before. */
function showCached({ open, show }: Opening, opened: OpenedPiece, focus: Sheet): void {
  const { piece, store } = open;
  store.apply(changesTo(store, opened.tiles, new Map(), new Map()));
  const { model } = piece;
  if (model)
    giveSurfaces(
      store,
      () => null,
      (sheet) => lastingSurfaceStamp(model.blob, model.uvSet, sheet),
    );
  show.beginCached(focus.id);
}

/** All texels: those that this browser has cached, and the others from the server. */
async function fetchMissing({ tiles, options }: Opening, hashes: readonly string[], cached: ReadonlyMap<string, Uint16Array>) {
  const missing = hashes.filter((hash) => !cached.has(hash));
  const fetched = await fetchTiles(missing, options.remote, tiles.decode, (done, total) =>
    options.post({ type: 'opening', what: 'Fetching tiles', done, total }),
  );
  return new Map([...cached, ...fetched]);
}

function sayLost({ options }: Opening, opened: OpenedPiece, pixels: ReadonlyMap<string, Uint16Array>): void {
  const lost = opened.tiles.filter(([, , hash]) => !pixels.has(hash)).length;
  if (lost === 0) return;
  const message =
    lost === 1
      ? 'One tile of this piece is lost on the server; it counts as unpainted, and the strata mark where.'
      : `${lost} tiles of this piece are lost on the server; they count as unpainted, and the strata mark where.`;
  options.post({ type: 'notice', message });
}

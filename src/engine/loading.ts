/** What an engine fetches: tiles and the model of a piece. What is damaged or missing is counted, never made up. */
import type { Piece } from '../core/document/schema';
import { readModel } from '../core/mesh/readModel';
import type { Model } from '../core/mesh/model';
import { PieceSurfaces } from '../core/strata/pieceSurfaces';
import { giveSurfaces } from '../core/strata/surface';
import type { TileChange, TileStore, TileVersion } from '../core/tile/tiles';
import type { Remote } from './remote';
import type { DecodeTiles } from './tilePool';

const BLOBS_A_TURN = 128;

/** Pixels for tiles by address. Those that are missing or damaged come without. */
export async function fetchTiles(
  hashes: readonly string[],
  remote: Pick<Remote, 'blobs'>,
  decode: DecodeTiles,
  progress: (done: number, total: number) => void = () => undefined,
): Promise<Map<string, Uint16Array>> {
  const out = new Map<string, Uint16Array>();
  let done = 0;
  const decoding: Promise<void>[] = [];
  for (let i = 0; i < hashes.length; i += BLOBS_A_TURN) {
    const found = [...(await remote.blobs(hashes.slice(i, i + BLOBS_A_TURN)))];
    decoding.push(
      decode(found.map(([, blob]) => blob)).then((tiles) => {
        found.forEach(([hash], n) => {
          if (tiles[n]) out.set(hash, tiles[n]);
        });
        progress((done += found.length), hashes.length);
      }),
    );
  }
  await Promise.all(decoding);
  return out;
}

/** What turns a store into the tiles of these rows. `pixels`: by address. */
export function changesTo(
  store: TileStore,
  rows: readonly [plane: string, tile: number, hash: string][],
  known: ReadonlyMap<string, TileVersion>,
  pixels: ReadonlyMap<string, Uint16Array>,
): TileChange[] {
  const versions = new Map(known);
  const changes: TileChange[] = [];
  const there = new Set<string>();
  for (const [plane, tile, hash] of rows) {
    there.add(`${plane} ${tile}`);
    let after = versions.get(hash);
    if (!after) versions.set(hash, (after = { data: pixels.get(hash) ?? null, hash }));
    const before = store.get(plane, tile);
    if (before?.hash !== hash || (!before.data && after.data)) changes.push({ plane, tile, before, after });
  }
  for (const plane of store.planeKeys())
    for (const [tile, before] of store.tilesOf(plane))
      if (!there.has(`${plane} ${tile}`)) changes.push({ plane, tile, before, after: null });
  return changes;
}

/** Planes with tiles whose pixels are lost. */
export const lostPlanes = (store: TileStore): string[] =>
  store.planeKeys().filter((plane) => [...store.tilesOf(plane).values()].some((v) => !v.data));

export async function loadModel(piece: Piece, remote: Pick<Remote, 'blobs'>): Promise<{ glb: Uint8Array; model: Model }> {
  const { blob } = piece.model!;
  const glb = (await remote.blobs([blob])).get(blob);
  if (!glb) throw new Error('The model of this piece is missing in the house: import the piece file again.');
  const model = await readModel(new Map([['model.glb', glb]]));
  return { glb: glb.slice(), model };
}

/** The surfaces of all sheets, ready to be painted on; the strata in the store find them. */
export function placeTexels(piece: Piece, model: Model, store: TileStore): PieceSurfaces {
  const { blob, uvSet } = piece.model!;
  const surfaces = new PieceSurfaces(model, uvSet, blob);
  for (const sheet of piece.sheets) surfaces.forSheet(sheet);
  giveSurfaces(
    store,
    (sheet) => surfaces.dataFor(sheet),
    (sheet) => surfaces.stampFor(sheet),
  );
  return surfaces;
}

/** What an engine fetches: tiles and the model of a piece. What is damaged or missing is counted, never made up. */
import type { Piece, Sheet } from '../../core/document/schema';
import { readModel } from '../../core/mesh/readModel';
import type { Model } from '../../core/mesh/model';
import type { SurfaceMap } from '../../core/mesh/surfaceMap/surfaceMap';
import { readSurfaceMap } from '../../core/mesh/surfaceMap/file';
import { PieceSurfaces } from '../../core/strata/pieceSurfaces';
import { giveSurfaces } from '../../core/strata/surfaceUnder';
import type { TileChange, TileStore, TileVersion } from '../../core/tile/tiles';
import type { Remote } from '../remote';
import type { BrowserShelves } from '../cache/shelf';
import type { DecodeTiles } from '../tiles/tilePool';
import { turnsOf, type Clock } from '../turns';

const BLOBS_A_TURN = 128;
const LINES = 8;

/** Pixels for tiles by address. Those that are missing or damaged come without. */
export async function fetchTiles(
  hashes: readonly string[],
  remote: Pick<Remote, 'blobs'>,
  decode: DecodeTiles,
  progress: (done: number, total: number) => void = () => undefined,
): Promise<Map<string, Uint16Array>> {
  const out = new Map<string, Uint16Array>();
  let done = 0;
  const turn = async (some: readonly string[]) => {
    const found = [...(await remote.blobs(some))];
    const tiles = await decode(found.map(([, blob]) => blob));
    found.forEach(([hash], n) => {
      if (tiles[n]) out.set(hash, tiles[n]);
    });
    progress((done += found.length), hashes.length);
  };
  // Several at a time: while some are unpacked the next are on their way, also where this thread is busy.
  let next = 0;
  const line = async () => {
    while (next < hashes.length) await turn(hashes.slice(next, (next += BLOBS_A_TURN)));
  };
  await Promise.all(Array.from({ length: LINES }, line));
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
  if (!glb) throw new Error('The model of this piece is missing on the server: import the piece file again.');
  const model = await readModel(new Map([['model.glb', glb]]));
  return { glb: glb.slice(), model };
}

/**
 * The surfaces of all sheets; the strata in the store find them. Maps that were kept are read; that of the sheet in focus is made at
 * once, others when they are first asked for.
 * `toKeep`: those, by the name that they go by; null as long as nobody has asked.
 */
export async function placeTexels(
  piece: Piece,
  model: Model,
  store: TileStore,
  focus: Sheet,
  { keeping, ...clock }: Clock & { keeping?: BrowserShelves },
): Promise<{ surfaces: PieceSurfaces; toKeep: Map<string, () => SurfaceMap | null> }> {
  const { blob, uvSet } = piece.model!;
  const surfaces = new PieceSurfaces(model, uvSet, blob);
  const toKeep = new Map<string, () => SurfaceMap | null>();
  for (const sheet of piece.sheets) {
    const input = surfaces.inputFor(sheet);
    if (!input) continue;
    const name = `surface.${surfaces.stampFor(sheet)}`;
    const file = (await keeping?.file(name)) ?? null;
    const map = file && readSurfaceMap(file, input);
    file?.close();
    if (map) surfaces.give(sheet, map);
    else toKeep.set(name, () => surfaces.madeFor(sheet));
  }
  const steps = surfaces.stepsFor(focus);
  const turn = turnsOf(clock);
  while (steps && !steps.next().done) await turn();
  giveSurfaces(
    store,
    (sheet) => surfaces.dataFor(sheet),
    (sheet) => surfaces.stampFor(sheet),
  );
  return { surfaces, toKeep };
}

/** Commands that ask the server: strokes come back as recordings, and what is lost is said on the terminal and beside the files. */
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { readPieceFile, writePieceFile } from '../../src/core/piece/pieceFile';
import { unpackOperation } from '../../src/core/keeping/operation';
import { TileStore } from '../../src/core/tile/tiles';
import type { Remote } from '../../src/engine/remote';
import { Browser, makeEngine, startPiece, stroke } from '../../src/engine/testing/server';
import { commitOperation } from '../../src/server/commit';
import { database } from '../../src/server/db';
import * as server from '../../src/server/pieces';
import { blobs, pieces } from '../../src/server/schema';
import { freshDatabase } from '../../src/server/testing';
import { commandsIn } from '../testing/commandProcess';

const folder = mkdtempSync(join(tmpdir(), 'brindle-server-'));
const at = (name: string) => join(folder, name);
const commands = commandsIn(folder);
const brindle = commands.run;
afterAll(commands.end);

let end: () => Promise<void>;
beforeAll(async () => {
  end = await freshDatabase('commands');
  const document = startPiece();
  await database().insert(pieces).values({ id: 'p', name: document.name, document });
  const remote = {
    open: (id: string) => server.openPiece(id),
    trailEntry: (id: string, seq: number) => server.trailEntry(id, seq),
    blobs: (hashes: readonly string[]) => server.readBlobs(hashes),
    commit: async (id: string, bytes: Uint8Array) => {
      const unpacked = unpackOperation(bytes);
      return unpacked.ok ? commitOperation(id, unpacked.value) : null;
    },
  } as unknown as Remote;
  const a = makeEngine(remote, new Browser());
  await a.open();
  await stroke(a.send, [60, 60], [180, 90]);
  await stroke(a.send, [30, 200]);
  await stroke(a.send, [99, 99]);
  await a.send({ type: 'undo', serial: 1 });
  await a.engine.settled();
}, 60_000);
afterAll(() => end());

const texels = (store: TileStore) =>
  Object.fromEntries(store.planeKeys().flatMap((p) => [...store.tilesOf(p)].map(([t, v]) => [`${p} ${t}`, v.data])));

test('strokes give back what was painted: replayed on a blank copy they give the same texels', async () => {
  expect(await brindle('strokes', 'Piece', '--out', 'S.json')).toMatchObject({
    status: 0,
    stdout: '2 strokes of "Piece" in S.json\n',
  });
  writeFileSync(
    at('blank.brindle'),
    writePieceFile({ piece: startPiece(), store: new TileStore(), modelGlb: null, thumbnailPng: null }),
  );
  expect((await brindle('replay', 'blank.brindle', 'S.json', '--out', 'again.brindle')).status).toBe(0);
  const painted = new TileStore();
  const opened = await server.openPiece('p');
  if (!opened || 'deleted' in opened) throw new Error('The piece is there.');
  const { decodeTile } = await import('../../src/engine/tiles/tileCodec');
  const found = await server.readBlobs(opened.tiles.map((t) => t[2]));
  for (const [plane, tile, hash] of opened.tiles) painted.set(plane, tile, { data: await decodeTile(found.get(hash)!), hash });
  const again = readPieceFile(new Uint8Array(readFileSync(at('again.brindle'))));
  expect(texels(again.store)).toEqual(texels(painted));
  // A piece file carries them along.
  const { strokes } = JSON.parse(readFileSync(at('S.json'), 'utf8')) as { strokes: never[] };
  writeFileSync(
    at('full.brindle'),
    writePieceFile({ piece: startPiece(), store: painted, modelGlb: null, thumbnailPng: null, strokes }),
  );
  expect((await brindle('strokes', 'full.brindle', '--out', 'T.json')).status).toBe(0);
  expect(JSON.parse(readFileSync(at('T.json'), 'utf8'))).toEqual(JSON.parse(readFileSync(at('S.json'), 'utf8')));
});

test('without strokes, without a name for the file, without the piece: one sentence', async () => {
  expect(await brindle('strokes', 'blank.brindle', '--out', 'x.json')).toMatchObject({
    status: 2,
    stderr: '"Piece" has no recorded strokes: they are recorded as they are painted on the bench.',
  });
  expect(await brindle('strokes', 'Piece')).toMatchObject({ status: 2, stderr: 'Say where to write: --out S.json.' });
  expect(await brindle('strokes', 'Nobody', '--out', 'x.json')).toMatchObject({ status: 2 });
  expect(existsSync(at('x.json'))).toBe(false);
});

test('a piece with a damaged tile is exported, and the terminal and a file beside say what is lost', async () => {
  const opened = await server.openPiece('p');
  const [, , hash] = (opened as { tiles: [string, number, string][] }).tiles.find(
    ([plane, tile]) => plane === 'l/height' && tile === 0,
  )!;
  const [{ bytes }] = await database().select().from(blobs).where(eq(blobs.hash, hash));
  await database()
    .update(blobs)
    .set({ bytes: Uint8Array.of(2, 1, 1) })
    .where(eq(blobs.hash, hash));
  const ran = await brindle('export', 'Piece', '--out', 'out', '--maps', 'height');
  expect(ran.status).toBe(0);
  expect(ran.stderr).toMatch(/^1 tile of "Hand" is lost on the server and counts as unpainted\.\n/);
  expect(readFileSync(at('out/LOST TILES.txt'), 'utf8')).toMatch(/Sheet, Hand, height: texels 0, 0 to 127, 127/);
  await database().update(blobs).set({ bytes }).where(eq(blobs.hash, hash));
  expect((await brindle('export', 'Piece', '--out', 'whole', '--maps', 'height')).stderr).toBe('');
  expect(existsSync(at('whole/LOST TILES.txt'))).toBe(false);
});

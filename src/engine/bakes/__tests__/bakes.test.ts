/** Bakes reach the engine from the server, and first tries from the thread that makes them; the page only says which. */
import '../../../core/colour/blend';
import { TRIED_ID } from '../../../core/document/bake';
import { planeKey } from '../../../core/document/planes';
import type { Piece } from '../../../core/document/schema';
import type { BakedTiles } from '../../../core/document/work/bakes';
import { BAKES } from '../../../core/kinds/bakes';
import { bakeRecordSchema } from '../../../core/kinds/bakes/record';
import { newTexels, TILE_TEXELS } from '../../../core/tile/tiles';
import { makeEngine, Server, startPiece, stroke, until } from '../../testing/server';
import { encodeTile } from '../../tiles/tileCodec';

const KEY = 'b'.repeat(64);
const PLANE = planeKey('bake', 'picture');
const TRIED = planeKey(TRIED_ID, 'picture');

function pieceWithBake(): Piece {
  const piece = startPiece();
  const bake = bakeRecordSchema.parse({ settings: BAKES.occlusion.start, twin: null });
  const picture = { id: 'bake', name: 'Occlusion', width: 128, height: 128, encoding: 'linear' as const, bake };
  return { ...piece, sheets: [{ ...piece.sheets[0], pictures: [picture] }] };
}

async function baked(server: Server, value: number): Promise<BakedTiles> {
  const { hash, blob } = await encodeTile(newTexels(TILE_TEXELS * 4).fill(value));
  await server.takeBlobs([blob]);
  return { tiles: [[0, hash]], missed: 3 };
}

const taken = { pictureId: 'bake', made: 'as asked', key: KEY, width: 128, height: 128 };
const ask = (id: number) => ({ type: 'question' as const, id, question: { ask: 'fetch-bake' as const, sheetId: 's', key: KEY } });

describe('a bake that is done on the server', () => {
  test('is fetched beside the pen, and is then a change like any other: undone, redone, kept', async () => {
    const server = new Server(pieceWithBake());
    server.bakes.set(KEY, await baked(server, 40_000));
    const { engine, send, open, last } = makeEngine(server);
    await open();
    const real = server.blobs;
    let release = () => {};
    const held = new Promise<void>((resolve) => (release = resolve));
    server.blobs = async (hashes) => {
      await held;
      return real(hashes);
    };
    await send(ask(1));
    // While its texels are on their way a stroke is painted.
    await stroke(send, [60, 60], [90, 200]);
    expect(last('answer')).toBeUndefined();
    release();
    await until(() => last('answer')?.id === 1);
    server.blobs = () => Promise.reject(new Error('Nothing more is to be fetched.'));
    await send({ type: 'layers', what: { do: 'take-bake', sheetId: 's', taken }, serial: 1 });
    expect(engine.open.store.get(PLANE, 0)!.data![0]).toBe(40_000);
    expect(engine.open.piece.sheets[0].pictures[0].bake).toMatchObject({ made: 'as asked', missed: 3 });
    await send({ type: 'undo', serial: 2 });
    expect(engine.open.store.get(PLANE, 0)).toBeNull();
    await send({ type: 'redo', serial: 3 });
    await engine.settled();
    expect(engine.open.store.get(PLANE, 0)!.data![0]).toBe(40_000);
    expect([...server.pieces.get('p')!.tiles.keys()].some((key) => key.startsWith(PLANE))).toBe(true);
  });

  test('is fetched when it is taken where nobody has fetched it before, such as from a journal', async () => {
    const server = new Server(pieceWithBake());
    const both = await baked(server, 20_000);
    server.bakes.set(KEY, both);
    const { engine, send, open } = makeEngine(server);
    await open();
    await send({ type: 'layers', what: { do: 'take-bake', sheetId: 's', taken }, serial: 1 });
    expect(engine.open.store.get(PLANE, 0)!.data![0]).toBe(20_000);
    // As an older version has recorded it.
    const { key: _, ...older } = taken;
    await send({ type: 'undo', serial: 2 });
    await send({ type: 'layers', what: { do: 'take-bake', sheetId: 's', taken: { ...older, ...both } }, serial: 3 });
    expect(engine.open.store.get(PLANE, 0)!.data![0]).toBe(20_000);
  });

  test.each([
    ['is gone', null, /not done, or is not there any more/],
    ['cannot be asked for', 'lost', /does not answer/],
  ] as const)('that %s is said to be so, and changes nothing', async (_, fault, message) => {
    const server = new Server(pieceWithBake());
    const { engine, send, open, last } = makeEngine(server);
    await open();
    if (fault) server.faults = (what) => (what === 'bake' ? fault : null);
    const before = engine.open.piece;
    await send(ask(1));
    await until(() => last('no-answer') !== undefined);
    expect(last('no-answer')!.message).toMatch(message);
    await send({ type: 'layers', what: { do: 'take-bake', sheetId: 's', taken }, serial: 1 });
    expect(last('notice')!.message).toMatch(message);
    expect(engine.open.piece).toBe(before);
  });
});

describe('first tries', () => {
  const tried = (id: number, value: number) => ({
    type: 'try-bake' as const,
    ...{ id, width: 128, height: 128, data: new Uint16Array(128 * 128 * 4).fill(value) },
  });
  const shown = ({ engine }: ReturnType<typeof makeEngine>) => engine.open.store.get(TRIED, 0)?.data?.[0] ?? null;

  test('are shown once they are expected, in whichever order the two arrive; others are not', async () => {
    const at = makeEngine(new Server(pieceWithBake()));
    await at.open();
    await at.send({ type: 'expect-try', id: 1 });
    expect(shown(at)).toBeNull();
    await at.send(tried(1, 111));
    expect(shown(at)).toBe(111);
    await at.send(tried(2, 222));
    expect(shown(at)).toBe(111);
    await at.send({ type: 'expect-try', id: 2 });
    expect(shown(at)).toBe(222);
    // Finer, under the same number.
    await at.send(tried(2, 223));
    expect(shown(at)).toBe(223);
  });

  test('go when they are put away, also one that comes late', async () => {
    const at = makeEngine(new Server(pieceWithBake()));
    await at.open();
    await at.send({ type: 'expect-try', id: 1 });
    await at.send(tried(1, 111));
    await at.send({ type: 'expect-try', id: null });
    expect(shown(at)).toBeNull();
    await at.send(tried(1, 112));
    expect(shown(at)).toBeNull();
  });
});

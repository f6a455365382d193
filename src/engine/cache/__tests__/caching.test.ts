/** A piece that is opened again is shown as it was drawn, before its texels are there, and never as anything else. */
import '../../../core/colour/blend';
import { setLayerEdit } from '../../../core/document/edits';
import { TileStore } from '../../../core/tile/tiles';
import {
  Browser,
  Server,
  makeEngine,
  MemoryDrawn,
  MemoryKeeping,
  shownPlanes,
  startPiece,
  stroke,
  until,
} from '../../testing/server';

/** Painted, drawn and kept; the tab is gone. */
async function visited(server: Server, keeping: MemoryKeeping, browser = new Browser()) {
  const a = makeEngine(server, browser, { keeping });
  await a.open();
  await stroke(a.send, [60, 60], [90, 200]);
  await a.engine.settled();
  const shelf = a.engine.show.renderer.cached.shelves.get('s')!;
  // After a rest it is written.
  await until(() => shelf.signatureOf('colour', 0) !== null && shelf.signatureOf('normal', 257) !== null);
  await new Promise((resolve) => setTimeout(resolve, 200));
  shelf.flush();
  keeping.release();
  return a;
}

const forgetTexels = (keeping: MemoryKeeping) => {
  for (const name of keeping.files.keys()) if (name.startsWith('texels.')) keeping.files.delete(name);
};

/** Addresses that the server is asked for. */
function askedOf(server: Server): string[] {
  const asked: string[] = [];
  const real = server.blobs;
  server.blobs = (hashes) => {
    asked.push(...hashes);
    return real(hashes);
  };
  return asked;
}

const texelsIn = ({ engine }: ReturnType<typeof makeEngine>) =>
  engine.open.store
    .planeKeys()
    .flatMap((plane) => [...engine.open.store.tilesOf(plane)].map(([tile, v]) => [plane, tile, [...v.data!]]));

describe('opening what was drawn before', () => {
  test('shows it exactly while the server still owes every tile', async () => {
    const server = new Server(startPiece());
    const keeping = new MemoryKeeping();
    const a = await visited(server, keeping);
    forgetTexels(keeping);
    let owed = true;
    server.faults = (what) => (what === 'blobs' && owed ? 'late' : null);
    const real = server.blobs;
    let release = () => {};
    const held = new Promise<void>((resolve) => (release = resolve));
    server.blobs = async (hashes) => {
      await held;
      return real(hashes);
    };
    const b = makeEngine(server, new Browser(), { keeping });
    const opening = b.open();
    await until(() => b.events.some((e) => e.type === 'pixels' && e.exact));
    expect(b.last('ready')).toBeUndefined();
    expect(
      b.engine.open.store.planeKeys().every((k) => [...b.engine.open.store.tilesOf(k).values()].every((v) => v.data === null)),
    ).toBe(true);
    expect(shownPlanes(b.events)).toEqual(shownPlanes(a.events));
    owed = false;
    release();
    await opening;
    await b.engine.settled();
    expect(b.last('ready')!.missing).toEqual([]);
    expect(shownPlanes(b.events)).toEqual(shownPlanes(a.events));
  });

  test('strokes of a second visit are painted upon it, and are shown by a third', async () => {
    const server = new Server(startPiece());
    const keeping = new MemoryKeeping();
    await visited(server, keeping);
    const b = makeEngine(server, new Browser(), { keeping });
    await b.open();
    await stroke(b.send, [200, 40], [30, 40]);
    await b.engine.settled();
    // Not kept yet: the third visit finds older tiles, and draws what differs.
    keeping.release();
    const c = makeEngine(server, new Browser(), { keeping });
    await c.open();
    await c.engine.settled();
    expect(shownPlanes(c.events)).toEqual(shownPlanes(b.events));
    const fresh = makeEngine(server);
    await fresh.open();
    await fresh.engine.settled();
    expect(shownPlanes(c.events)).toEqual(shownPlanes(fresh.events));
  });

  test('another document shows nothing of the one before', async () => {
    const server = new Server(startPiece());
    const keeping = new MemoryKeeping();
    const a = await visited(server, keeping);
    // Changed in another browser.
    const other = makeEngine(server);
    await other.open();
    const sheet = other.engine.open.piece.sheets[0];
    await other.send({ type: 'edit', edit: setLayerEdit(sheet, sheet.layers[0], { opacity: 0.4 }), label: 'Fainter', serial: 1 });
    await other.engine.settled();
    const b = makeEngine(server, new Browser(), { keeping });
    await b.open();
    await b.engine.settled();
    expect(shownPlanes(b.events)).toEqual(shownPlanes(other.events));
    expect(shownPlanes(b.events)).not.toEqual(shownPlanes(a.events));
  });

  test('texels that are kept are not asked for again; undo beyond them is', async () => {
    const server = new Server(startPiece());
    const keeping = new MemoryKeeping();
    const a = await visited(server, keeping);
    const asked = askedOf(server);
    const b = makeEngine(server, new Browser(), { keeping });
    await b.open();
    await b.engine.settled();
    expect(asked).toEqual([]);
    expect(texelsIn(b)).toEqual(texelsIn(a));
    await stroke(b.send, [60, 60], [200, 90]);
    await b.send({ type: 'undo', serial: 1 });
    await b.engine.settled();
    expect(texelsIn(b)).toEqual(texelsIn(a));
  });

  test('what the disk has damaged of them is asked for, and nothing else', async () => {
    const server = new Server(startPiece());
    const keeping = new MemoryKeeping();
    const a = await visited(server, keeping);
    const [name, bytes] = [...keeping.files].find(([n]) => n.startsWith('texels.'))!;
    expect(bytes.length).toBeGreaterThan(4096 * 48);
    bytes[4096 * 48 + 70_000] ^= 4;
    keeping.files.set(name, bytes);
    const asked = askedOf(server);
    const b = makeEngine(server, new Browser(), { keeping });
    await b.open();
    await b.engine.settled();
    expect(asked).toHaveLength(1);
    expect(texelsIn(b)).toEqual(texelsIn(a));
    expect(shownPlanes(b.events)).toEqual(shownPlanes(a.events));
  });

  test('a tile that is lost on the server is there as long as it is kept', async () => {
    const server = new Server(startPiece());
    const keeping = new MemoryKeeping();
    const a = await visited(server, keeping);
    server.blobs = async () => new Map();
    const b = makeEngine(server, new Browser(), { keeping });
    await b.open();
    await b.engine.settled();
    expect(b.last('ready')!.missing).toEqual([]);
    expect(texelsIn(b)).toEqual(texelsIn(a));
  });

  test('a tile that is lost on the server counts as unpainted, whatever was drawn of it', async () => {
    const server = new Server(startPiece());
    const keeping = new MemoryKeeping();
    await visited(server, keeping);
    forgetTexels(keeping);
    const real = server.blobs;
    server.blobs = async (hashes) => new Map([...(await real(hashes))].slice(1));
    const b = makeEngine(server, new Browser(), { keeping });
    await b.open();
    await b.engine.settled();
    expect(b.last('ready')!.missing).toHaveLength(1);
    const without = makeEngine(server);
    await without.open();
    await without.engine.settled();
    expect(shownPlanes(b.events)).toEqual(shownPlanes(without.events));
  });

  test('where the server does not answer for the texels, the piece is not opened, and says so', async () => {
    const server = new Server(startPiece());
    const keeping = new MemoryKeeping();
    await visited(server, keeping);
    forgetTexels(keeping);
    server.faults = (what) => (what === 'blobs' ? 'lost' : null);
    const b = makeEngine(server, new Browser(), { keeping });
    await b.open();
    await until(() => b.last('failed') !== undefined);
    expect(b.last('failed')!.message).toMatch(/does not answer/);
  });

  test('changes that an earlier tab left behind come first: nothing is shown before they are carried out', async () => {
    const server = new Server(startPiece());
    const keeping = new MemoryKeeping();
    const browser = new Browser();
    await visited(server, keeping, browser);
    const b = makeEngine(server, browser, { keeping });
    await b.open();
    server.away = true;
    await stroke(b.send, [20, 220], [220, 220]);
    await until(() => b.last('kept')?.kept.state === 'offline');
    keeping.release();
    server.away = false;
    const c = makeEngine(server, browser, { keeping });
    await c.open();
    await c.engine.settled();
    const fresh = makeEngine(server);
    await fresh.open();
    await fresh.engine.settled();
    expect(shownPlanes(c.events)).toEqual(shownPlanes(fresh.events));
    expect(c.engine.open.store).toBeInstanceOf(TileStore);
  });
});

describe('what others have drawn', () => {
  /** Somebody has opened the piece, painted, and rested. */
  async function given(server: Server, elsewhere: MemoryDrawn) {
    const a = makeEngine(server, new Browser(), { keeping: new MemoryKeeping(), elsewhere });
    await a.open();
    await stroke(a.send, [60, 60], [90, 200]);
    await a.engine.settled();
    await until(() => elsewhere.sheets.has('p s'));
    return a;
  }

  test('is shown by a browser that sees the piece for the first time, without drawing anything', async () => {
    const server = new Server(startPiece());
    const elsewhere = new MemoryDrawn();
    const a = await given(server, elsewhere);
    const keeping = new MemoryKeeping();
    const b = makeEngine(server, new Browser(), { keeping, elsewhere });
    const drawnHere = jest.spyOn(b.engine.show.renderer.coarse, 'render');
    const drawnExactly = jest.spyOn(b.engine.show.renderer.here, 'work');
    await b.open();
    await b.engine.settled();
    expect(shownPlanes(b.events)).toEqual(shownPlanes(a.events));
    expect(drawnHere).not.toHaveBeenCalled();
    expect(drawnExactly.mock.results.every(({ value }) => (value as unknown[]).length === 0)).toBe(true);
    expect(b.events.some((e) => e.type === 'pixels' && e.exact)).toBe(true);
    // From now on it is kept here.
    b.engine.show.renderer.cached.shelves.get('s')!.flush();
    keeping.release();
    const before = elsewhere.asked;
    const c = makeEngine(server, new Browser(), { keeping, elsewhere });
    await c.open();
    await c.engine.settled();
    expect(elsewhere.asked).toBe(before);
    expect(shownPlanes(c.events)).toEqual(shownPlanes(a.events));
  });

  test.each(['parts', 'part', 'nonsense', 'late'])('whatever is wrong with it, it is drawn here (%s)', async (fault) => {
    const server = new Server(startPiece());
    const elsewhere = new MemoryDrawn();
    const a = await given(server, elsewhere);
    if (fault === 'nonsense') for (const [part] of elsewhere.sheets.values()) part.fill(7, 0, 1000);
    else elsewhere.faults = (what) => (fault === 'late' ? 'late' : what === fault ? 'lost' : null);
    const b = makeEngine(server, new Browser(), { keeping: new MemoryKeeping(), elsewhere });
    await b.open();
    await b.engine.settled();
    expect(shownPlanes(b.events)).toEqual(shownPlanes(a.events));
  });

  test('a stroke and an edit made while it is on its way are seen at once, and nothing of it is taken for what they made', async () => {
    const server = new Server(startPiece());
    const elsewhere = new MemoryDrawn();
    await given(server, elsewhere);
    let release = () => {};
    const held = new Promise<void>((resolve) => (release = resolve));
    const real = elsewhere.part.bind(elsewhere);
    elsewhere.part = async (...which) => {
      await held;
      return real(...which);
    };
    const b = makeEngine(server, new Browser(), { keeping: new MemoryKeeping(), elsewhere });
    await b.open();
    await stroke(b.send, [200, 40], [30, 40]);
    await until(() => b.events.some((e) => e.type === 'pixels' && e.strokeAt !== null));
    expect(b.engine.show.isFetching).toBe(true);
    expect(b.engine.show.busy).toBe(true);
    // What is looked at by itself nobody has drawn: it is seen at once too.
    const viewing = { look: { kind: 'map', map: 'height' } as const, solo: [], hot: 'l', visible: null };
    await b.send({ type: 'viewing', viewing });
    await until(() => b.events.some((e) => e.type === 'pixels' && e.patches.some((p) => p.plane === 'view')));
    expect(b.engine.show.isFetching).toBe(true);
    await b.send({ type: 'viewing', viewing: { ...viewing, look: null } });
    const sheet = b.engine.open.piece.sheets[0];
    await b.send({ type: 'edit', edit: setLayerEdit(sheet, sheet.layers[0], { opacity: 0.4 }), label: 'Fainter', serial: 1 });
    await until(() => b.events.some((e) => e.type === 'pixels' && e.exact));
    release();
    await b.engine.settled();
    const fresh = makeEngine(server);
    await fresh.open();
    await fresh.engine.settled();
    const { view, ...shown } = shownPlanes(b.events);
    expect(view).toBeDefined();
    expect(shown).toEqual(shownPlanes(fresh.events));
  });

  test('it is given again once it was changed, no more often than every ten minutes', async () => {
    const server = new Server(startPiece());
    const elsewhere = new MemoryDrawn();
    await given(server, elsewhere);
    const clock = { ahead: 0 };
    const b = makeEngine(server, new Browser(), { keeping: new MemoryKeeping(), elsewhere, clock });
    await b.open();
    const puts = jest.spyOn(elsewhere, 'put');
    await stroke(b.send, [200, 40], [30, 40]);
    await b.engine.settled();
    const { shelves } = b.engine.show.renderer.cached;
    const kept = shelves.get('s')!.signatureOf('colour', 0);
    await until(() => shelves.get('s')!.signatureOf('colour', 0) !== kept);
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(puts).not.toHaveBeenCalled();
    clock.ahead = 11 * 60_000;
    await stroke(b.send, [20, 200], [230, 210]);
    await b.engine.settled();
    await until(() => puts.mock.calls.some(([, , , last]) => last));
    const c = makeEngine(server, new Browser(), { keeping: new MemoryKeeping(), elsewhere });
    await c.open();
    await c.engine.settled();
    expect(shownPlanes(c.events)).toEqual(shownPlanes(b.events));
  });
});

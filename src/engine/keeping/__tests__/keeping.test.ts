/** Keeping, from the page's desk to the server: what a fault of any of them costs. */
import { deflateSync } from 'fflate';
import { filterTile, sha256, tileBlob, tileBytes } from '../../../core/codec/tileBlob';
import { addLayerAt } from '../../../core/testing/edits';
import { newPaintedLayer } from '../../../core/document/factory';
import { packOperation } from '../../../core/keeping/operation';
import { seededRandom } from '../../../core/testing/models';
import { TILE_TEXELS } from '../../../core/tile/tiles';
import { Desk } from '../desk';
import type { Lease } from '../lease';
import { rescued, storeRescue } from '../rescue';
import {
  at,
  Browser,
  brush,
  Server,
  makeEngine,
  shownPlanes,
  startPiece,
  stroke,
  until,
  type Opened,
} from '../../testing/server';

const position = (server: Server, id = 'p') => server.pieces.get(id)!.position;
const states = (a: Opened) => a.events.flatMap((e) => (e.type === 'kept' ? [e.kept.state] : []));
const notices = (a: Opened) => a.events.flatMap((e) => (e.type === 'notice' ? [e.message] : []));

/** A tab that is killed before its engine has done anything: only the journal heard of what was asked. */
function deafTab(browser: Browser, server: Server) {
  let ids = 0;
  const desk = new Desk({
    pieceId: 'p',
    client: `deaf${Math.random()}`,
    journal: browser.journal(),
    post: () => undefined,
    newId: () => `deaf-${++ids}-${server.operations.size}`,
    newSeed: () => ids,
    now: () => 5,
    document: () => startPiece(),
    report: () => undefined,
  });
  return desk;
}

describe('recordings', () => {
  test('what a crash left as recordings alone is carried out at opening, to the same bytes', async () => {
    const [calm, crashed] = [new Server(startPiece()), new Server(startPiece())];
    const paths: [number, number][][] = [
      [
        [60, 60],
        [150, 80],
        [200, 200],
      ],
      [
        [20, 200],
        [240, 210],
      ],
    ];
    const a = makeEngine(calm);
    await a.open();
    for (const path of paths) await stroke(a.send, ...path);
    await a.send({ type: 'layers', what: { do: 'duplicate', sheetId: 's', ids: ['l'] }, serial: 1 });
    await a.send({ type: 'undo', serial: 2 });
    await a.engine.settled();

    const browser = new Browser();
    const desk = deafTab(browser, crashed);
    for (const path of paths) {
      desk.send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [at(...path[0])], at: 1 });
      for (const p of path.slice(1)) desk.send({ type: 'stroke-add', samples: [at(...p)], at: 2 });
      desk.send({ type: 'stroke-end', samples: [], at: 3 });
    }
    desk.send({ type: 'layers', what: { do: 'duplicate', sheetId: 's', ids: ['l'] }, serial: 1 });
    desk.send({ type: 'undo', serial: 1 });
    await until(() => desk.unwritten === 0);
    const b = makeEngine(crashed, browser);
    await b.open();
    await b.engine.settled();
    expect(crashed.pixels()).toEqual(calm.pixels());
    expect(position(crashed)).toBe(2);
    expect(shownPlanes(b.events)).toEqual(shownPlanes(a.events));
    expect(await browser.entries()).toEqual([]);
    expect(notices(b)[0]).toMatch(/^4 changes that another tab or an earlier visit left .+ are part of the piece again\.$/);
  });

  test('a stroke that was under the pen is there up to its last moments', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const desk = deafTab(browser, server);
    desk.send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [at(30, 30)], at: 1 });
    for (let x = 40; x < 200; x += 10) desk.send({ type: 'stroke-add', samples: [at(x, 30)], at: 2 });
    expect(desk.busy).toBe(true);
    await new Promise((resolve) => setTimeout(resolve, 40));
    const b = makeEngine(server, browser);
    await b.open();
    await b.engine.settled();
    const { samples } = server.strokesOf('p')[0];
    expect(samples).toHaveLength(17);
    expect(position(server)).toBe(1);
  });

  test('one that the server has taken already is not carried out twice', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    // The answer is lost, and the tab dies.
    server.faults = (what) => (what === 'commit' ? 'answer lost' : null);
    await stroke(a.send, [60, 60], [90, 90]);
    await until(() => a.last('kept')!.kept.state === 'offline');
    expect(position(server)).toBe(1);
    const [left] = await browser.entries();
    // Only the recording: as where the tiles found no room.
    await browser.journal().aside(left.id, 'x');
    await browser.journal().again(left.id);
    server.faults = null;
    const b = makeEngine(server, browser);
    await b.open();
    await b.engine.settled();
    expect([position(server), b.last('opened')!.trail.position, await browser.entries()]).toEqual([1, 1, []]);
  });

  test('they stay with the piece: painted anew on a blank sheet they give the same texels', async () => {
    const { replay, strokesFile } = await import('../../../core/hand/replay');
    const { TileStore } = await import('../../../core/tile/tiles');
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    await stroke(a.send, [60, 60], [150, 80]);
    await stroke(a.send, [90, 30], [20, 230]);
    await stroke(a.send, [5, 5]);
    await a.send({ type: 'undo', serial: 1 });
    await a.engine.settled();
    const store = new TileStore();
    replay(startPiece(), store, null, strokesFile(server.strokesOf('p')));
    const texels = Object.fromEntries(
      store.planeKeys().flatMap((plane) => [...store.tilesOf(plane)].map(([tile, v]) => [`${plane} ${tile}`, v.data])),
    );
    expect(texels).toEqual(server.pixels());
  });

  test('what the page could not write in time waits in the local store, pictures excepted', () => {
    const kept = new Map<string, string>();
    const store = {
      getItem: (k: string) => kept.get(k) ?? null,
      setItem: (k: string, v: string) => {
        if (v.length > 4000) throw new Error('full');
        kept.set(k, v);
      },
      removeItem: (k: string) => void kept.delete(k),
    };
    const never = new Promise<void>(() => undefined);
    const desk = new Desk({
      pieceId: 'p',
      client: 'c',
      journal: { begin: () => never, add: () => undefined, finish: () => never, drop: () => never },
      post: () => undefined,
      newId: () => `r${Math.random()}`,
      newSeed: () => 1,
      now: () => 5,
      document: () => null,
      report: () => undefined,
    });
    const picture = { width: 1, height: 1, channels: 4 as const, bits: 8 as const, data: new Uint8Array(4) };
    const pictures = [{ id: 'q', name: 'q', encoding: 'srgb' as const, picture }];
    const then = { type: 'paint' as const, sheetId: 's', layerId: 'l' };
    desk.send({ type: 'layers', what: { do: 'pictures', sheetId: 's', pictures, then, label: 'x' }, serial: 1 });
    desk.send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [at(1, 2)], at: 1 });
    desk.send({ type: 'stroke-add', samples: [at(3, 4)], at: 1 });
    expect(desk.busy).toBe(true);
    storeRescue(desk.rescue(), store);
    expect(rescued(store)).toMatchObject([{ entry: { whole: true, intent: { type: 'stroke' } }, samples: [{ x: 1 }, { x: 3 }] }]);
    for (let i = 0; i < 30; i++) desk.send({ type: 'undo', serial: i });
    storeRescue(desk.rescue(), store);
    // The oldest find room.
    expect(rescued(store).length).toBeGreaterThan(3);
    expect(rescued(store)[0].samples).toHaveLength(2);
    kept.set('brindle-rescue', '{"no": 1');
    expect(rescued(store)).toEqual([]);
  });
});

describe('answers of the server', () => {
  test.each([408, 425, 429, 500, 502, 503, 504])('%i: tried again until it is taken', async (status) => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    let times = 3;
    server.faults = (what) => (what === 'commit' && times-- > 0 ? status : null);
    await stroke(a.send, [60, 60]);
    await stroke(a.send, [90, 90]);
    await a.engine.settled();
    expect(states(a)).toContain('offline');
    expect(a.last('kept')!.kept).toMatchObject({ state: 'kept', waiting: 0, aside: [] });
    expect(position(server)).toBe(2);
  });

  test.each([400, 403, 413, 415, 422])(
    '%i: set aside with its reason; the piece is as if it had not been; the rest goes on',
    async (status) => {
      const server = new Server(startPiece());
      const browser = new Browser();
      const a = makeEngine(server, browser);
      await a.open();
      await stroke(a.send, [200, 200]);
      await a.engine.settled();
      let times = 1;
      server.faults = (what) => (what === 'commit' && times-- > 0 ? status : null);
      await stroke(a.send, [60, 60]);
      await stroke(a.send, [66, 60]);
      await a.engine.settled();
      const { kept } = a.last('kept')!;
      expect(kept).toMatchObject({
        state: 'kept',
        waiting: 0,
        aside: [{ label: 'Stroke on Hand', own: true, why: `It answers ${status}.` }],
      });
      expect(position(server)).toBe(2);
      expect(a.last('renewed')!.trail).toEqual({ labels: ['Stroke on Hand', 'Stroke on Hand'], position: 2 });
      expect((await browser.entries()).map((e) => e.aside?.why)).toEqual([`It answers ${status}.`]);
      // As a server where it was never asked for.
      const [other, c] = [new Server(startPiece()), null as never as Opened];
      void c;
      const b = makeEngine(other);
      await b.open();
      await stroke(b.send, [200, 200]);
      await stroke(b.send, [66, 60]);
      await b.engine.settled();
      expect(server.pixels()).toEqual(other.pixels());
      expect(shownPlanes(a.events)).toEqual(shownPlanes(b.events));
      // It is still there after a reload, can be tried again, and leaves when it is taken.
      const d = makeEngine(server, browser);
      await d.open();
      expect(d.last('kept')!.kept.aside).toHaveLength(1);
      await d.send({ type: 'aside', id: d.last('kept')!.kept.aside[0].id, do: 'again' });
      await d.engine.settled();
      expect(d.last('kept')!.kept).toMatchObject({ state: 'kept', aside: [] });
      expect([position(server), await browser.entries()]).toEqual([3, []]);
    },
  );

  test('what hangs on a refused change is set aside with it, by name; dropped it is gone', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    let times = 1;
    server.faults = (what) => (what === 'commit' && times-- > 0 ? 413 : null);
    const layer = newPaintedLayer('n', 'Fresh');
    await a.send({ type: 'edit', edit: addLayerAt('s', 2, layer), label: 'Add Fresh', serial: 1 });
    await a.send({ type: 'stroke-begin', sheetId: 's', layerId: 'n', brush, samples: [at(9, 9)], at: 1 });
    await a.send({ type: 'stroke-end', samples: [], at: 1 });
    await a.send({ type: 'undo', serial: 2 });
    await stroke(a.send, [60, 60]);
    await a.engine.settled();
    expect(a.last('kept')!.kept.aside.map((e) => e.label)).toEqual(['Add Fresh', 'Stroke on Fresh', 'Undo']);
    expect(a.last('kept')!.kept.aside[1].why).toMatch(/hangs on what was refused/);
    expect([position(server), a.engine.open.piece.sheets[0].layers.length]).toEqual([1, 2]);
    for (const { id } of a.last('kept')!.kept.aside) await a.send({ type: 'aside', id, do: 'drop' });
    expect([a.last('kept')!.kept.aside, await browser.entries()]).toEqual([[], []]);
  });

  test.each([404, 410])('%i: gone; nothing is dropped, and it goes on when the piece is brought back', async (status) => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    server.faults = (what) => (what === 'commit' ? status : null);
    await stroke(a.send, [60, 60]);
    await until(() => a.last('kept')!.kept.state === 'gone');
    expect(a.last('kept')!.kept.entries).toMatchObject([{ label: 'Stroke on Hand' }]);
    await stroke(a.send, [90, 90]);
    server.faults = null;
    await a.send({ type: 'restore' });
    await a.engine.settled();
    expect(a.last('kept')!.kept).toMatchObject({ state: 'kept', waiting: 0 });
    expect([position(server), await browser.entries()]).toEqual([2, []]);
  });

  test('a deleted piece does not open, says that it can be brought back, and how much waits for it', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const desk = deafTab(browser, server);
    desk.send({ type: 'undo', serial: 1 });
    await until(() => desk.unwritten === 0);
    server.pieces.get('p')!.deleted = true;
    const a = makeEngine(server, browser);
    await a.open();
    await until(() => a.last('failed') !== undefined);
    expect(a.last('failed')).toMatchObject({ deleted: true, waiting: 1 });
  });

  test('a conflict names what waits; dropping drops what was named and nothing else', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    const other = makeEngine(server);
    await other.open();
    await stroke(other.send, [10, 10]);
    await other.engine.settled();
    await stroke(a.send, [60, 60]);
    await until(() => a.last('kept')!.kept.state === 'conflict');
    const [named] = a.last('kept')!.kept.entries!;
    await stroke(a.send, [70, 70]);
    await a.send({ type: 'resolve-conflict', choice: 'drop', ids: [named.id] });
    expect(a.last('goto')!.pieceId).toBe('p');
    expect((await browser.entries()).map((e) => e.id)).not.toContain(named.id);
    expect(await browser.entries()).toHaveLength(1);
    // What is left meets the same question when the piece opens.
    const b = makeEngine(server, browser);
    await b.open();
    expect(b.last('kept')!.kept).toMatchObject({ state: 'conflict', entries: [{ own: false }] });
    await b.send({ type: 'resolve-conflict', choice: 'copy' });
    const c = makeEngine(server, browser, { pieceId: 'copy' });
    await c.open();
    await c.engine.settled();
    expect([position(server), position(server, 'copy'), await browser.entries('p')]).toEqual([1, 1, []]);
  });

  test('when the copy cannot be made, everything stays', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const [a, other] = [makeEngine(server, browser), makeEngine(server)];
    await a.open();
    await other.open();
    await stroke(other.send, [10, 10]);
    await other.engine.settled();
    await stroke(a.send, [60, 60]);
    await until(() => a.last('kept')!.kept.state === 'conflict');
    server.faults = (what) => (what === 'duplicate' ? 503 : null);
    await a.send({ type: 'resolve-conflict', choice: 'copy' });
    expect([a.last('goto'), (await browser.entries()).length]).toEqual([undefined, 1]);
    expect(notices(a).at(-1)).toMatch(/Try again/);
  });

  test('a new name given elsewhere is no conflict, and is learned', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    const p = server.pieces.get('p')!;
    p.document = { ...(p.document as object), name: 'Renamed' };
    await stroke(a.send, [60, 60]);
    await a.engine.settled();
    expect([a.last('kept')!.kept.state, a.last('renewed')!.document.name]).toEqual(['kept', 'Renamed']);
  });
});

describe('a journal that cannot write', () => {
  test('the server gets all the same, without a false conflict; the desk says what is not on disk', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    browser.broken = Object.assign(new Error('quota'), { name: 'QuotaExceededError' });
    for (let n = 0; n < 6; n++) await stroke(a.send, [30 + n * 30, 60]);
    await a.engine.settled();
    expect(a.last('kept')!.kept).toMatchObject({ state: 'kept', waiting: 0 });
    expect(position(server)).toBe(6);
    expect(states(a)).not.toContain('conflict');
    expect(a.journalStates.some((s) => s.failing && s.unwritten.length > 0)).toBe(true);
    browser.broken = null;
    await stroke(a.send, [60, 200]);
    await a.engine.settled();
    await until(() => a.desk.unwritten === 0);
    expect([position(server), await browser.entries()]).toEqual([7, []]);
  });

  test('while the server is away too, what waits is in memory, counted, and goes when either is back', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    browser.broken = Object.assign(new Error('quota'), { name: 'QuotaExceededError' });
    server.away = true;
    await stroke(a.send, [60, 60]);
    await stroke(a.send, [90, 90]);
    await until(() => a.last('kept')!.kept.waiting === 2);
    await until(() => a.journalStates.at(-1)?.unwritten.length === 2);
    expect(a.desk.busy).toBe(true);
    browser.broken = null;
    await until(() => a.journalStates.at(-1)?.failing === null);
    expect((await browser.entries()).map((e) => e.samples.length)).toEqual([1, 1]);
    expect(a.desk.busy).toBe(false);
    server.away = false;
    await a.engine.settled();
    expect(position(server)).toBe(2);
  });
});

describe('two tabs of one browser', () => {
  /** As browsers do it: one holder a piece, who is asked to let go. */
  function sharedLease(deaf = false): Lease {
    let holder: (() => Promise<void>) | null = null;
    return {
      async take(_piece, letGo, force) {
        if (holder && deaf && !force) return 'busy';
        await holder?.();
        holder = letGo;
        return 'taken';
      },
    };
  }

  test('the second gets everything up to the stroke under the pen; the first says so and sends nothing more', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const lease = sharedLease();
    const a = makeEngine(server, browser, { lease });
    await a.open();
    server.faults = (what) => (what === 'commit' ? 503 : null);
    await stroke(a.send, [60, 60]);
    await a.send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [at(99, 99), at(120, 99)], at: 1 });
    await until(() => a.desk.unwritten === 1);
    await new Promise((resolve) => setTimeout(resolve, 20));
    server.faults = null;
    const b = makeEngine(server, browser, { lease });
    await b.open();
    await b.engine.settled();
    expect(a.last('handed-over')).toBeDefined();
    expect(b.last('opened')!.trail.position).toBe(2);
    expect([position(server), b.last('kept')!.kept.state]).toEqual([2, 'kept']);
    const commits = server.commits;
    await a.send({ type: 'stroke-end', samples: [at(130, 99)], at: 2 });
    await a.engine.settled();
    expect(server.commits).toBe(commits);
    expect(states(b)).not.toContain('conflict');
  });

  test('one that does not answer is said; it can be taken over', async () => {
    const server = new Server(startPiece());
    const lease = sharedLease(true);
    const a = makeEngine(server, new Browser(), { lease });
    await a.open();
    const b = makeEngine(server, new Browser(), { lease });
    await b.open();
    expect([b.last('taken-elsewhere'), b.last('opened')]).toEqual([{ type: 'taken-elsewhere' }, undefined]);
    await b.send({ type: 'open', pieceId: 'p', client: 'b', takeOver: true });
    expect(b.last('opened')).toBeDefined();
  });
});

describe('pixels on their way', () => {
  test('a large change goes in parts, and then its operation', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    const random = seededRandom(3);
    const data = Uint16Array.from({ length: 1024 * 1024 * 4 }, () => random() * 65535);
    const picture = { width: 1024, height: 1024, channels: 4 as const, bits: 16 as const, data };
    const pictures = [{ id: 'q', name: 'Noise', encoding: 'linear' as const, picture }];
    const calls: string[] = [];
    server.faults = (what) => {
      calls.push(what);
      return null;
    };
    const then = { type: 'paint' as const, sheetId: 's', layerId: 'l' };
    await a.send({ type: 'layers', what: { do: 'pictures', sheetId: 's', pictures, then, label: 'Noise' }, serial: 1 });
    await a.engine.settled();
    expect(calls.filter((c) => c === 'putBlobs').length).toBeGreaterThan(1);
    expect(calls.at(-1)).toBe('commit');
    expect([position(server), Object.keys(server.pixels()).length]).toEqual([1, 64]);
  });

  test('tiles that the server has lost since are sent once more', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    await stroke(a.send, [60, 60]);
    await a.engine.settled();
    await a.send({ type: 'undo', serial: 1 });
    await a.engine.settled();
    // Collected, since nothing named them; redo names them again through the same edit made anew.
    server.stored.clear();
    await stroke(a.send, [60, 60]);
    await a.engine.settled();
    expect([position(server), Object.keys(server.pixels()).length]).toEqual([1, 2]);
    expect(a.last('kept')!.kept).toMatchObject({ state: 'kept', aside: [] });
  });

  test('a layer that goes frees its tiles everywhere; undo brings them back, after a reload too', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    await stroke(a.send, [60, 60]);
    const layer = a.engine.open.piece.sheets[0].layers[1];
    const edit = { type: 'remove-layer' as const, sheetId: 's', index: 1, layer };
    await a.send({ type: 'edit', edit, label: 'Delete Hand', serial: 1 });
    await a.engine.settled();
    expect([server.pixels(), a.engine.open.store.planeKeys()]).toEqual([{}, []]);
    const b = makeEngine(server);
    await b.open();
    await b.send({ type: 'undo', serial: 1 });
    await b.engine.settled();
    expect(Object.keys(server.pixels())).toEqual(['l/base-colour 0', 'l/height 0']);
    expect(b.engine.open.store.planeKeys().sort()).toEqual(['l/base-colour', 'l/height']);
  });

  test('an undo that must fetch its pixels holds up no stroke; what was painted meanwhile stays', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    await stroke(a.send, [60, 60]);
    await stroke(a.send, [61, 60]);
    await a.engine.settled();
    const b = makeEngine(server);
    server.faults = (what) => (what === 'trailEntry' ? 503 : null);
    await b.open();
    server.faults = null;
    let go: () => void = () => undefined;
    const fetch = server.blobs;
    server.blobs = (hashes) => new Promise<void>((resolve) => (go = resolve)).then(() => fetch(hashes));
    await b.send({ type: 'undo', serial: 1 });
    await stroke(b.send, [200, 200]);
    expect(b.last('trail')!.trail.position).toBe(3);
    server.blobs = fetch;
    await until(() => {
      go();
      return notices(b).length > 0;
    });
    await b.engine.settled();
    expect(notices(b).at(-1)).toMatch(/came too late/);
    expect(position(server)).toBe(3);
  });

  test('a lost tile is marked, counts as unpainted, and every export says so', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    await stroke(a.send, [120, 60], [140, 60]);
    await a.engine.settled();
    const [, , hash] = server.pieces.get('p')!.tiles.get('l/height 0')!;
    server.stored.set(hash, Uint8Array.of(2, 9, 9, 9));
    const b = makeEngine(server);
    await b.open();
    expect(b.last('ready')!.missing).toEqual(['l/height']);
    expect(notices(b)).toEqual([
      'One tile of this piece is lost on the server; it counts as unpainted, and the strata mark where.',
    ]);
    await b.send({ type: 'export-piece', id: 1 });
    await until(() => b.last('job-done') !== undefined);
    expect(b.last('job-done')!.warning).toBe('1 tile of "Hand" is lost on the server and counts as unpainted.');
    // Painted over, it is whole again.
    await stroke(b.send, [60, 60]);
    await b.engine.settled();
    expect(b.last('kept')!.kept).toMatchObject({ state: 'kept', aside: [] });
  });

  test('an operation that an earlier Brindle left as bytes is laid over what is there', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const data = new Uint16Array(TILE_TEXELS * 2).fill(30000);
    const hash = await sha256(tileBytes(data));
    const blob = tileBlob(2, deflateSync(filterTile(data)));
    const bytes = packOperation(
      {
        kind: 'edit',
        id: 'old',
        baseRevision: 0,
        label: 'Old stroke',
        edit: { type: 'paint', sheetId: 's', layerId: 'l' },
        tiles: [['l/height', 1, null, hash]],
        blobs: [{ hash, length: blob.length }],
        stroke: null,
      },
      new Map([[hash, blob]]),
    );
    const entry = { id: 'old', pieceId: 'p', client: 'before', at: 0, label: 'Old stroke', whole: true };
    await browser.journal().begin({ ...entry, intent: { type: 'bytes', bytes } });
    const a = makeEngine(server, browser);
    await a.open();
    await a.engine.settled();
    expect(server.pixels()).toEqual({ 'l/height 1': data });
    expect(await browser.entries()).toEqual([]);
  });
});

/** A server that fails over one change, answers for another, was set back, or a browser whose storage never answers: nothing is lost. */
import { setLayerEdit } from '../../../core/document/edits';
import { replaceEdit } from '../../../core/document/work/replace';
import { applyEdit } from '../../../core/document/edits';
import { parsePiece, pieceSchema } from '../../../core/document/schema';
import { newPiece } from '../../../core/document/factory';
import { SERVER_HEADER } from '../../../core/keeping/protocol';
import { readPieceFile } from '../../../core/piece/pieceFile';
import { randomStack } from '../../../core/testing/stacks';
import { fetchRemote, NOT_OURS, ServerAnswer } from '../../remote';
import { Browser, Server, makeEngine, startPiece, stroke, until, type Opened } from '../../testing/server';

const position = (server: Server, id = 'p') => server.pieces.get(id)!.position;
const kept = (a: Opened) => a.last('kept')!.kept;
const notices = (a: Opened) => a.events.flatMap((e) => (e.type === 'notice' ? [e.message] : []));

/** Commits whose operation the test names are answered so. */
function failOver(server: Server, which: (n: number) => boolean, status: number): void {
  const { commit } = server;
  const numbers = new Map<string, number>();
  server.commit = async (id, bytes) => {
    const name = /"id":"([^"]+)"/.exec(new TextDecoder().decode(bytes.subarray(0, 4000)))![1];
    if (!numbers.has(name)) numbers.set(name, numbers.size);
    if (which(numbers.get(name)!)) throw ServerAnswer.of(status, { message: 'Something went wrong inside the server.' });
    return commit(id, bytes);
  };
}

describe('one change that the server always fails over', () => {
  test.each([500, 502])('%i: it is set aside with the reason, and what comes after it is kept', async (status) => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    failOver(server, (n) => n === 1, status);
    await stroke(a.send, [30, 30]);
    await stroke(a.send, [120, 120]);
    await stroke(a.send, [200, 200]);
    await until(() => kept(a).aside.length === 1 && kept(a).state === 'kept');
    expect(kept(a).aside[0].why).toMatch(/^The server failed over it 5 times while others pass \(Something went wrong/);
    expect(position(server)).toBe(2);
    // It stays in the journal until the artist drops it.
    expect((await browser.entries()).map((e) => e.aside !== null)).toEqual([true]);
  });

  test('where the server cannot write at all, nothing is set aside', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    server.faults = (what) => (what === 'commit' || what === 'tryToWrite' ? 503 : null);
    await stroke(a.send, [30, 30]);
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(kept(a)).toMatchObject({ state: 'offline', waiting: 1, aside: [] });
    server.faults = null;
    await a.send({ type: 'retry' });
    await a.engine.settled();
    expect([kept(a).state, position(server)]).toEqual(['kept', 1]);
  });

  test('the piece opens all the same, with what is there and what can be carried out', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    let alive = true;
    const a = makeEngine(server, browser, { alive: () => alive });
    await a.open();
    failOver(server, (n) => n === 0, 500);
    server.tryToWrite = () => Promise.reject(new Error('not now'));
    await stroke(a.send, [30, 30]);
    await stroke(a.send, [120, 120]);
    await until(() => a.desk.unwritten === 0);
    await new Promise((resolve) => setTimeout(resolve, 50));
    alive = false;
    server.tryToWrite = async () => undefined;
    const b = makeEngine(server, browser);
    await b.open();
    expect(b.last('opened')).toBeDefined();
    await until(() => kept(b).aside.length === 1 && kept(b).state === 'kept');
    expect(position(server)).toBe(1);
    // The tab that was killed tries for ever.
    server.commit = () => new Promise<never>(() => undefined);
  });
});

describe('a yes that is none', () => {
  const yes = (over: object) => ({ server: 'server', operation: 'none', revision: 1, ...over });
  test.each([
    ['nothing at all', () => ({})],
    ['another operation', () => yes({})],
    ['another server', (id: string) => yes({ server: 'other', operation: id })],
    ['no revision', (id: string) => yes({ operation: id, revision: 'x' })],
  ])('%s: nothing is let go, and the page says so', async (_name, answer: (id: string) => object) => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    const { commit } = server;
    server.commit = async (_id, bytes) =>
      answer(/"id":"([^"]+)"/.exec(new TextDecoder().decode(bytes.subarray(0, 4000)))![1]) as never;
    await stroke(a.send, [30, 30]);
    await until(() => kept(a).state === 'offline');
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(kept(a)).toMatchObject({ state: 'offline', waiting: 1, why: NOT_OURS });
    expect(await browser.entries()).toHaveLength(1);
    server.commit = commit;
    await a.send({ type: 'retry' });
    await a.engine.settled();
    expect([kept(a).state, position(server), await browser.entries()]).toEqual(['kept', 1, []]);
  });

  test('what answers without the name of a server is not heard, whatever its status', async () => {
    const before = globalThis.fetch;
    try {
      for (const status of [200, 404, 409, 422, 500])
        for (const named of [false, true]) {
          globalThis.fetch = () =>
            Promise.resolve(Response.json({ message: 'x' }, { status, headers: named ? { [SERVER_HEADER]: 'h' } : {} }));
          const said = await fetchRemote('http://server')
            .open('p')
            .then(
              () => 'taken',
              (error: ServerAnswer) => error.answer,
            );
          const expected = { 200: 'taken', 404: 'gone', 409: 'conflict', 422: 'refused', 500: 'again' }[status];
          expect([status, named, said]).toEqual([status, named, named ? expected : 'again']);
        }
    } finally {
      globalThis.fetch = before;
    }
  });
});

describe('a server that was set back', () => {
  /** As if restored from a dump of that moment. */
  const dump = (server: Server) =>
    structuredClone({ pieces: [...server.pieces], operations: [...server.operations], stored: [...server.stored] });
  function restore(server: Server, from: ReturnType<typeof dump>): void {
    server.pieces = new Map(structuredClone(from.pieces));
    server.operations = new Map(from.operations);
    server.stored = new Map(from.stored);
  }
  async function painted() {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    await stroke(a.send, [30, 30]);
    await a.engine.settled();
    const old = dump(server);
    await stroke(a.send, [120, 120]);
    const [sheet] = a.engine.open.piece.sheets;
    const edit = setLayerEdit(sheet, sheet.layers[1], { opacity: 0.5 });
    await a.send({ type: 'edit', edit, label: 'Opacity', serial: 1 });
    await stroke(a.send, [60, 200]);
    await a.send({ type: 'undo', serial: 2 });
    await stroke(a.send, [200, 200]);
    await a.engine.settled();
    return { server, browser, a, old };
  }

  test('it is told from one that has moved on, and gets back all steps in order', async () => {
    const { server, browser, a, old } = await painted();
    const then = { pixels: server.pixels(), trail: server.pieces.get('p')!.trail.map((t) => t.name) };
    restore(server, old);
    await stroke(a.send, [10, 240]);
    await until(() => kept(a).state === 'behind');
    expect(kept(a)).toMatchObject({ lost: 5, waiting: 1 });
    await a.send({ type: 'resolve-conflict', choice: 'give-back' });
    await a.engine.settled();
    expect(kept(a)).toMatchObject({ state: 'kept', waiting: 0 });
    await a.send({ type: 'undo', serial: 3 });
    await a.engine.settled();
    expect(server.pixels()).toEqual(then.pixels);
    expect(
      server.pieces
        .get('p')!
        .trail.slice(0, 4)
        .map((t) => t.name),
    ).toEqual(then.trail);
    expect(await browser.entries()).toEqual([]);
  });

  test('where not all steps are known any more, all that differs goes back as one, and the piece opens anew', async () => {
    const { server, browser, a, old } = await painted();
    const { pixels, document } = { pixels: server.pixels(), document: server.pieces.get('p')!.document };
    // A page that came later knows none of the steps.
    const b = makeEngine(server, browser);
    await b.open();
    restore(server, old);
    await stroke(b.send, [200, 200]);
    await until(() => kept(b).state === 'behind');
    await b.send({ type: 'undo', serial: 1 });
    await b.send({ type: 'resolve-conflict', choice: 'give-back' });
    await until(() => b.last('goto') !== undefined);
    expect(b.last('goto')!.pieceId).toBe('p');
    expect(server.pixels()).toEqual(pixels);
    expect(parsePiece(server.pieces.get('p')!.document)).toEqual(parsePiece(document));
    expect(await browser.entries()).toEqual([]);
    expect(a.events.length).toBeGreaterThan(0);
  });

  test('restored and changed since, it has moved on: mine go into a copy', async () => {
    const { server, a, old } = await painted();
    restore(server, old);
    const other = makeEngine(server);
    await other.open();
    for (const y of [20, 60, 100, 140, 180]) await stroke(other.send, [250, y]);
    await other.engine.settled();
    // As many revisions as before, made by other operations.
    expect(server.pieces.get('p')!.revision).toBe(6);
    await stroke(a.send, [10, 240]);
    await until(() => kept(a).state === 'conflict');
  });

  test('what waited in a browser is carried out upon the older state when the piece opens, and that is said', async () => {
    const { server, browser, a, old } = await painted();
    server.faults = (what) => (what === 'commit' ? 'lost' : null);
    await stroke(a.send, [10, 240]);
    await until(() => a.desk.unwritten === 0 && kept(a).state === 'offline');
    restore(server, old);
    server.faults = null;
    const b = makeEngine(server, browser);
    await b.open();
    await b.engine.settled();
    expect(notices(b)[0]).toMatch(/^The server was set back to an older state .* is carried out upon that\.$/);
    expect(position(server)).toBe(2);
    expect(await browser.entries()).toEqual([]);
  });

  test('one edit leads from any state of a piece to any other', () => {
    const pieces = [1, 2, 3, 4].map((seed) => {
      const { sheet } = randomStack(seed);
      return pieceSchema.parse(
        newPiece('p', `Piece ${seed}`, 'canvas', [{ ...sheet, id: 's' }], {
          palette: seed % 2 ? ['#112233'] : [],
          planeRepeats: seed,
        }),
      );
    });
    for (const from of pieces) for (const to of pieces) expect(applyEdit(from, replaceEdit(from, to))).toEqual(to);
  });
});

test('a piece that is deleted for good while work waits is told from one that can be brought back', async () => {
  for (const forGood of [false, true]) {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    if (forGood) server.pieces.delete('p');
    else server.pieces.get('p')!.deleted = true;
    await stroke(a.send, [30, 30]);
    await until(() => kept(a).state === 'gone');
    expect(kept(a)).toMatchObject({ forGood, waiting: 1 });
    // All that the page shows can be had.
    await a.send({ type: 'export-piece', id: 1 });
    await until(() => a.last('job-done') !== undefined);
    expect(readPieceFile(a.last('job-done')!.bytes).store.planeKeys()).toContain('l/base-colour');
  }
});

/** How long storage may take in these tests: long beside a write on a busy machine, short beside a test. */
const PATIENCE_MS = 500;

describe('storage that never answers', () => {
  test('from the beginning: the piece opens, work goes to the server, and nothing is called kept here', async () => {
    const server = new Server(startPiece());
    const browser = new Browser(PATIENCE_MS);
    browser.hanging = true;
    const a = makeEngine(server, browser);
    await a.open();
    expect(a.last('opened')).toBeDefined();
    await stroke(a.send, [30, 30]);
    await a.send({ type: 'undo', serial: 1 });
    await stroke(a.send, [90, 90]);
    await until(() => position(server) === 1 && kept(a).state === 'kept');
    expect(a.journalStates.at(-1)!.failing).toBe('this browser’s storage does not answer');
    // Once it does, all is well again.
    browser.hanging = false;
    await until(() => a.journalStates.at(-1)!.failing === null);
    expect(await browser.entries()).toEqual([]);
  });

  test('in the middle: it is said, what comes goes to the server from memory, and is written once the storage answers', async () => {
    const server = new Server(startPiece());
    const browser = new Browser(PATIENCE_MS);
    const a = makeEngine(server, browser);
    await a.open();
    await stroke(a.send, [30, 30]);
    await a.engine.settled();
    browser.hanging = true;
    server.faults = (what) => (what === 'commit' ? 'lost' : null);
    await stroke(a.send, [90, 90]);
    await until(() => (a.journalStates.at(-1)?.failing ?? null) !== null);
    expect(a.journalStates.at(-1)!.unwritten).toHaveLength(1);
    expect(a.desk.unwritten).toBe(1);
    server.faults = null;
    await a.send({ type: 'retry' });
    await until(() => position(server) === 2);
    server.faults = (what) => (what === 'commit' ? 'lost' : null);
    await stroke(a.send, [150, 90]);
    browser.hanging = false;
    await until(() => a.journalStates.at(-1)?.failing === null && a.desk.unwritten === 0);
    expect((await browser.entries()).map((e) => e.intent.type)).toEqual(['stroke']);
    server.faults = null;
    await a.send({ type: 'retry' });
    await a.engine.settled();
    expect([position(server), await browser.entries()]).toEqual([3, []]);
  });
});

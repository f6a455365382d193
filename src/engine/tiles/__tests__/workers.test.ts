/** Workers that die: they are noticed, their work is done over, and nobody waits for an answer that will not come. */
import { TILE_TEXELS } from '../../../core/tile/tiles';
import { EngineClient } from '../../client';
import type { HelperPort } from '../../show/helper';
import type { Event } from '../../protocol';
import { decodeTile } from '../tileCodec';
import { TILES_HERE, tilePool, type TileJob, type TileWorker } from '../tilePool';
import { Browser, Server, lateHelpers, makeEngine, shownPlanes, startPiece, stroke } from '../../testing/server';

const tile = (v: number) => new Uint16Array(TILE_TEXELS * 2).fill(v);

describe('workers that pack and unpack tiles', () => {
  /** Works in this thread; dies at its nth job; below 0: its script never loads, and nobody says so. */
  function worker(diesAt: number, made: TileWorker[]): TileWorker {
    let jobs = 0;
    const self: TileWorker = {
      onmessage: null,
      onerror: null,
      onmessageerror: null,
      terminate: () => undefined,
      postMessage: (message) => {
        const { id, job } = message as { id: number; job: TileJob };
        if (++jobs === diesAt) return void setTimeout(() => self.onerror?.({} as ErrorEvent), 1);
        const work = job.do === 'pack' ? TILES_HERE.pack(job.tiles) : TILES_HERE.decode(job.blobs);
        void work.then((result) => self.onmessage?.({ data: { id, result } } as never));
      },
    };
    made.push(self);
    if (diesAt >= 0) setTimeout(() => self.onmessage?.({ data: null } as never), 1);
    return self;
  }

  test.each([
    ['none dies', [0, 0]],
    ['one dies', [2, 0]],
    ['both die', [1, 2]],
    ['both at once', [1, 1]],
    ['one never loads', [-1, 0]],
    ['none ever loads', [-1, -1]],
    ['one never loads, the other dies', [2, -1]],
  ])('%s: every tile is packed, in order, and comes back', async (_what, dies) => {
    const made: TileWorker[] = [];
    let n = 0;
    const pool = tilePool(2, () => worker(dies[n++], made), 40);
    const tiles = Array.from({ length: 50 }, (_, i) => tile(i + 1));
    const packed = await pool.pack(tiles);
    expect(packed.map((p) => p.hash)).toEqual((await TILES_HERE.pack(tiles)).map((p) => p.hash));
    const back = await pool.decode([...packed.map((p) => p.blob), Uint8Array.of(2, 7)]);
    expect(back.map((t) => t?.[9] ?? null)).toEqual([...tiles.map((t) => t[9]), null]);
    expect(await decodeTile(packed[3].blob)).toEqual(tiles[3]);
    pool.close();
  });
});

test('a helper that dies with tiles in its hands: they are drawn by others, and the picture is whole', async () => {
  const server = new Server(startPiece());
  const painter = makeEngine(server);
  await painter.open();
  await stroke(painter.send, [20, 20], [230, 200]);
  await painter.engine.settled();
  let given = 0;
  const mortal = (): HelperPort[] =>
    lateHelpers(2).map((port, n) => {
      const { post } = port;
      if (n === 0)
        port.post = (message) => {
          if (message.type !== 'draw') return post(message);
          given++;
          // Says nothing any more.
          setTimeout(() => port.onDeath(), 2);
        };
      return port;
    });
  const a = makeEngine(server, new Browser(), { helpers: mortal });
  await a.open();
  await a.engine.settled();
  expect(given).toBe(1);
  expect(shownPlanes(a.events)).toEqual(shownPlanes(painter.events));
});

/** Ports that a message carries end with the worker that it went to; a made-up worker ends nothing by itself. */
function closePorts(message: unknown): void {
  if (message instanceof MessagePort) message.close();
  else if (typeof message === 'object' && message !== null) Object.values(message).forEach(closePorts);
}

describe('the page and its engine', () => {
  class FakeWorker extends EventTarget {
    static made: FakeWorker[] = [];
    onmessage: ((e: { data: unknown }) => void) | null = null;
    onerror: ((e: { message: string }) => void) | null = null;
    onmessageerror: (() => void) | null = null;
    ended = false;
    sent: unknown[] = [];
    constructor() {
      super();
      FakeWorker.made.push(this);
    }
    postMessage(message: unknown) {
      this.sent.push(message);
    }
    terminate() {
      this.ended = true;
    }
  }

  test('when the engine dies the page is told, questions are answered with what happened, and none waits', async () => {
    Object.assign(globalThis, { Worker: FakeWorker, window: new EventTarget() });
    const events: Event[] = [];
    const client = new EngineClient('p', { onEvent: (e) => events.push(e), onJournal: () => undefined, document: () => null });
    const engine = FakeWorker.made.at(-1)!;
    const asked = client.ask({ ask: 'sheet-picture', sheetId: 's' });
    const other = client.ask({ ask: 'sheet-picture', sheetId: 's' });
    engine.onmessage!({ data: { type: 'answer', id: 1, answer: null } });
    expect(await asked).toBeNull();
    // A job: done, cancelled, failed, and one that the engine takes with it.
    const deliver = () => {
      const id = client.freshId();
      return { id, delivered: client.deliver(id, { type: 'export-piece', id }) };
    };
    const [done, cancelled, failed, lost] = [deliver(), deliver(), deliver(), deliver()];
    const bytes = Uint8Array.of(1, 2);
    engine.onmessage!({ data: { type: 'job-done', id: done.id, bytes, name: 'a.brindle', warning: null } });
    expect(await done.delivered).toEqual({ bytes, name: 'a.brindle', warning: null });
    engine.onmessage!({ data: { type: 'job-failed', id: cancelled.id, message: 'Cancelled', cancelled: true } });
    expect(await cancelled.delivered).toBeNull();
    engine.onmessage!({ data: { type: 'job-failed', id: failed.id, message: 'The disk is full.', cancelled: false } });
    await expect(failed.delivered).rejects.toThrow('The disk is full.');
    engine.onerror!({ message: 'out of memory' });
    await expect(other).rejects.toThrow(/The painting engine stopped \(out of memory\)/);
    await expect(lost.delivered).rejects.toThrow(/out of memory/);
    await expect(client.ask({ ask: 'sheet-picture', sheetId: 's' })).rejects.toThrow(/journal/);
    await expect(deliver().delivered).rejects.toThrow(/journal/);
    expect(events).toMatchObject([{ type: 'failed', message: expect.stringContaining('comes back') as string }]);
    expect(engine.ended).toBe(true);
    // A stroke that is not on disk yet: leaving asks first.
    client.send({ type: 'undo', serial: 1 });
    const leaving = new Event('beforeunload', { cancelable: true });
    globalThis.window.dispatchEvent(leaving);
    expect(leaving.defaultPrevented).toBe(true);
    client.close();
    const closed = new Event('beforeunload', { cancelable: true });
    globalThis.window.dispatchEvent(closed);
    expect(closed.defaultPrevented).toBe(false);
    for (const { sent } of FakeWorker.made) closePorts(sent);
  });
});

/**
 * A long random walk of everything that can happen to a painter's day, over a real PostgreSQL and a journal in an
 * IndexedDB: afterwards page, journal and database agree, and no finished stroke is missing.
 */
import { sql } from 'drizzle-orm';
import type { Faults } from '../../src/core/testing/memoryServer';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import { setLayerEdit } from '../../src/core/document/edits';
import { unpackOperation } from '../../src/core/keeping/operation';
import { seededRandom } from '../../src/core/testing/models';
import type { Lease } from '../../src/engine/keeping/lease';
import type { Remote } from '../../src/engine/remote';
import { at, Browser, brush, faultyRemote, makeEngine, refuseOr, until, type Opened } from '../../src/engine/testing/server';
import { commitOperation } from '../../src/server/commit';
import { database } from '../../src/server/db';
import { tryToWrite } from '../../src/server/identity';
import * as server from '../../src/server/pieces';
import { operations, pieces } from '../../src/server/schema';
import { freshDatabase } from '../../src/server/testing';
import { tilesOfBake } from '../../src/server/bakes/requests';
import { pinnedPicture } from '../../src/server/pinned';
import { tipPng } from '../../src/server/tips';

/** WALK=2000 for a long one; whole hundreds. */
const EVENTS = Number(process.env.WALK ?? 300);
const gone = (status = 404, message = 'Gone.'): never => refuseOr<never>({ status, message });

const remote: Remote = {
  open: async (id) => {
    const found = await server.openPiece(id);
    if (!found) return gone();
    return 'deleted' in found ? gone(410, 'Deleted.') : found;
  },
  trailEntry: async (id, seq) => (await server.trailEntry(id, seq)) ?? gone(),
  blobs: (hashes) => server.readBlobs(hashes),
  putBlobs: async (blobs) => void (await server.takeBlobs(blobs)),
  commit: async (id, bytes) => {
    const unpacked = unpackOperation(bytes);
    if (!unpacked.ok) return gone(400, unpacked.message);
    const result = await commitOperation(id, unpacked.value);
    return result.ok ? result : refuseOr<never>(result);
  },
  tryToWrite,
  done: (id, ids) => server.doneOperations(id, ids),
  strokes: async (id) => server.strokesOf(id, 1e9),
  duplicate: async (id) => (await server.duplicatePiece(id)) ?? gone(),
  restore: async (id) => void (await server.setDeleted(id, false)),
  bake: async (key) => (await tilesOfBake(key)) ?? gone(),
  tip: tipPng,
  pinned: pinnedPicture,
};

function startPiece() {
  const sheet = newSheet('s', 'Sheet', 160, 130);
  sheet.layers = [newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.2, 0.2] }), newPaintedLayer('l', 'Hand')];
  return newPiece('walk', 'Walk', 'canvas', [sheet]);
}

/** What becomes of the messages of the next moments. */
const FAULTS = ['lost', 'answer lost', 'late', 'twice', 408, 429, 500, 503] as const;
/** These happen once at a time: they take work out of the piece. */
const REFUSALS = [400, 403, 413, 422] as const;

/** Of a hundred events. */
const DECK = {
  ...{ stroke: 34, undo: 8, redo: 5, edit: 6, layers: 4, faults: 13, refusal: 2, disk: 3, kill: 7 },
  ...{ 'second tab': 4, 'second browser': 2, deleted: 1, renamed: 1, pause: 10 },
};
type Kind = keyof typeof DECK;

class Tab {
  alive = true;
  /** So many more messages and writes until it is killed. */
  fuse = Infinity;
  opened: Opened;

  constructor(
    readonly walk: Walk,
    readonly browser: Browser,
  ) {
    const gated = faultyRemote(this.gate(remote), (what) => walk.fault(what));
    this.opened = makeEngine(gated, browser, { lease: this.lease(), pieceId: walk.pieceId, alive: () => this.alive });
  }

  /** Killed between any two lines: before a message leaves, or before its answer is heard. */
  private gate(remote: Remote): Remote {
    const never = new Promise<never>(() => undefined);
    return Object.fromEntries(
      Object.entries(remote).map(([name, call]) => [
        name,
        async (...args: unknown[]) => {
          if (!this.alive) return never;
          const burning = --this.fuse <= 0;
          if (burning) this.alive = false;
          if (burning && this.walk.chance() < 0.5) return never;
          const answer = await (call as (...a: unknown[]) => Promise<unknown>)(...args);
          return this.alive ? answer : never;
        },
      ]),
    ) as unknown as Remote;
  }

  /** As browsers do it: a lock of a dead tab is free; one that does not answer is taken over. */
  private lease(): Lease {
    return {
      take: async (_piece, letGo) => {
        const before = this.walk.holder;
        if (before && before.tab.alive && before.tab !== this) {
          const answered = before.letGo().then(() => true);
          const late = new Promise<boolean>((resolve) => setTimeout(() => resolve(false), 300));
          if (!(await Promise.race([answered, late]))) before.tab.alive = false;
        }
        this.walk.holder = { tab: this, letGo };
        return 'taken';
      },
    };
  }
}

class Walk {
  pieceId = 'walk';
  holder: { tab: Tab; letGo: () => Promise<void> } | null = null;
  tab!: Tab;
  browser = new Browser();
  /** Ids of strokes whose pen was lifted and whose recording was on disk. */
  finished = new Set<string>();
  counts: Record<string, number> = {};
  private faultsLeft: (string | number)[] = [];
  private refusal: number | null = null;

  /** Three streams, so that how many messages there are, which hangs on time, changes nothing of what happens. */
  private readonly order: () => number;
  readonly random: () => number;
  readonly chance: () => number;

  constructor(seed: number) {
    [this.order, this.random, this.chance] = [seededRandom(seed), seededRandom(seed + 1), seededRandom(seed + 2)];
  }

  fault: Faults = (what) => {
    if (this.refusal !== null && what === 'commit') {
      const status = this.refusal;
      this.refusal = null;
      return status;
    }
    return (this.faultsLeft.pop() as ReturnType<Faults>) ?? null;
  };

  async open(): Promise<void> {
    for (let tries = 0; ; tries++) {
      this.tab = new Tab(this, this.browser);
      const { opened } = this.tab;
      void opened.open();
      await until(
        () => !this.tab.alive || ['opened', 'failed', 'kept'].some((t) => opened.last(t as 'failed') && this.standing()),
      );
      if (!this.tab.alive) continue;
      if (opened.last('kept')?.kept.state === 'conflict') {
        await this.resolve();
        continue;
      }
      if (opened.last('opened')) return;
      if (opened.last('failed')?.deleted) await server.setDeleted(this.pieceId, false);
      if (tries > 40) throw new Error(`It does not open: ${opened.last('failed')?.message}`);
    }
  }

  private standing(): boolean {
    const { opened } = this.tab;
    return !!opened.last('opened') || !!opened.last('failed') || opened.last('kept')?.kept.state === 'conflict';
  }

  /** Mine go into a copy, and the walk goes on there. */
  async resolve(): Promise<void> {
    this.count('conflict');
    const { opened } = this.tab;
    await opened.send({ type: 'resolve-conflict', choice: 'copy' });
    const to = opened.last('goto')?.pieceId;
    if (to) this.pieceId = to;
    this.tab.alive = false;
    if (!to) this.faultsLeft = [];
  }

  private count = (what: string) => (this.counts[what] = (this.counts[what] ?? 0) + 1);
  private pick = <T>(list: readonly T[]): T => list[Math.floor(this.random() * list.length)];
  private point = () => at(this.random() * 160, this.random() * 130);

  private async stroke(ends: boolean): Promise<void> {
    const { opened, browser } = this.tab;
    const layers = opened.engine.open.piece.sheets[0].layers.filter((l) => l.kind === 'painted');
    if (layers.length === 0) return;
    const layerId = this.pick(layers).id;
    opened.desk.send({ type: 'stroke-begin', sheetId: 's', layerId, brush, samples: [this.point()], at: 1 });
    const id = (opened.desk as unknown as { stroke: string }).stroke;
    opened.desk.send({ type: 'stroke-add', samples: [this.point()], at: 2 });
    if (!ends) return;
    opened.desk.send({ type: 'stroke-end', samples: [this.point()], at: 3 });
    // With a full disk it is in memory only: a kill may cost it then, and the page says so.
    if (browser.broken) return;
    await until(() => opened.desk.unwritten === 0 || !this.tab.alive);
    if (this.tab.alive) this.finished.add(id);
  }

  /** What stands in the way of the next event, whatever it is: the page is opened, brought back, moved to a copy. */
  private async ready(): Promise<void> {
    for (;;) {
      const { opened } = this.tab;
      const state = opened.last('kept')?.kept.state;
      if (state === 'conflict') await this.resolve();
      else if (state === 'gone') {
        await server.setDeleted(this.pieceId, false);
        await opened.send({ type: 'restore' });
        await new Promise((resolve) => setTimeout(resolve, 20));
        continue;
      } else if (this.tab.alive && !opened.last('handed-over')) return;
      await this.open();
    }
  }

  /** The disk has room again, and what is in memory only is written. */
  private async makeRoom(): Promise<void> {
    this.browser.broken = null;
    await until(() => this.tab.opened.desk.unwritten === 0 || !this.tab.alive);
  }

  private readonly events: Record<Kind, () => Promise<void> | void> = {
    stroke: () => this.stroke(true),
    undo: () => this.tab.opened.desk.send({ type: 'undo', serial: 1 }),
    redo: () => this.tab.opened.desk.send({ type: 'redo', serial: 1 }),
    edit: () => {
      const { opened } = this.tab;
      const sheet = opened.engine.open.piece.sheets[0];
      const edit = setLayerEdit(sheet, this.pick(sheet.layers), { opacity: this.random() });
      opened.desk.send({ type: 'edit', edit, label: 'Opacity', serial: 1 });
    },
    layers: () => {
      const { opened } = this.tab;
      const sheet = opened.engine.open.piece.sheets[0];
      // The first two stay: there is always something to paint on.
      const index = sheet.layers.findLastIndex((l) => l.id !== 'l' && l.id !== 'g');
      if (sheet.layers.length < 6 || index < 0)
        opened.desk.send({ type: 'layers', what: { do: 'duplicate', sheetId: 's', ids: ['l'] }, serial: 1 });
      else {
        const edit = { type: 'remove-layer' as const, sheetId: 's', index, layer: sheet.layers[index] };
        opened.desk.send({ type: 'edit', edit, label: 'Delete', serial: 1 });
      }
    },
    faults: () => {
      for (let n = 1 + Math.floor(this.random() * 4); n > 0; n--) this.faultsLeft.push(this.pick(FAULTS));
    },
    refusal: () => void (this.refusal = this.pick(REFUSALS)),
    disk: () => void (this.browser.broken = Object.assign(new Error('quota'), { name: 'QuotaExceededError' })),
    kill: async () => {
      await this.makeRoom();
      this.tab.fuse = 1 + Math.floor(this.random() * 6);
      const [ends, wait] = [this.random() < 0.6, this.random() * 15];
      await this.stroke(ends);
      await new Promise((resolve) => setTimeout(resolve, wait));
      this.tab.alive = false;
      await this.open();
    },
    'second tab': async () => {
      await this.makeRoom();
      await this.open();
    },
    'second browser': async () => {
      // All is well, or it is the other browser that meets a conflict.
      await this.rest();
      const other = makeEngine(remote, new Browser(), { pieceId: this.pieceId });
      await other.open();
      await other.send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [this.point()], at: 1 });
      await other.send({ type: 'stroke-end', samples: [], at: 1 });
      await other.engine.settled();
      // What this page does next meets it.
      await this.stroke(true);
      const { opened } = this.tab;
      await until(() => {
        const state = opened.last('kept')?.kept.state;
        if (state === 'gone') void opened.send({ type: 'restore' });
        return state === 'conflict' || !this.tab.alive;
      });
    },
    deleted: async () => void (await server.setDeleted(this.pieceId, true)),
    renamed: async () => void (await server.renamePiece(this.pieceId, `Walk ${Math.floor(this.random() * 1000)}`)),
    pause: () => new Promise((resolve) => setTimeout(resolve, this.random() * 30)),
  };

  /** The next hundred events: each kind as often as it is in DECK, in an order that the seed alone decides. */
  private deck: Kind[] = [];

  async event(): Promise<void> {
    if (this.deck.length === 0) {
      this.deck = (Object.keys(DECK) as Kind[]).flatMap((kind) => Array.from({ length: DECK[kind] }, () => kind));
      for (let n = this.deck.length - 1; n > 0; n--) {
        const other = Math.floor(this.order() * (n + 1));
        [this.deck[n], this.deck[other]] = [this.deck[other], this.deck[n]];
      }
    }
    await this.ready();
    // A disk is full for some moments, until somebody makes room.
    if (this.browser.broken && this.order() < 0.3) await this.makeRoom();
    const kind = this.deck.pop()!;
    this.count(kind);
    await this.events[kind]();
  }

  /** Everything works again, and time passes. */
  async rest(): Promise<void> {
    this.faultsLeft = [];
    this.refusal = null;
    this.browser.broken = null;
    await server.setDeleted(this.pieceId, false);
    for (let n = 0; n < 20; n++) {
      if (!this.tab.alive || this.tab.opened.last('handed-over')) await this.open();
      await until(() => this.tab.opened.desk.unwritten === 0);
      await this.tab.opened.send({ type: 'retry' });
      const state = this.tab.opened.last('kept')?.kept.state;
      if (state === 'conflict') {
        await this.resolve();
        await this.open();
      } else if (state === 'gone') await this.tab.opened.send({ type: 'restore' });
      else {
        await this.tab.opened.engine.settled();
        if (this.tab.opened.last('kept')?.kept.state === 'kept') return;
      }
      await new Promise((resolve) => setTimeout(resolve, 30));
    }
    throw new Error(`It does not come to rest: ${JSON.stringify(this.tab.opened.last('kept'))}`);
  }
}

const state = ({ engine }: Opened) => ({
  // A name given elsewhere is learned with the next answer.
  document: { ...engine.open.piece, name: '' },
  tiles: engine.open.store
    .planeKeys()
    .flatMap((plane) => [...engine.open.store.tilesOf(plane)].map(([tile, v]) => `${plane} ${tile} ${v.hash}`))
    .sort(),
});

let end: () => Promise<void>;
beforeAll(async () => {
  end = await freshDatabase('walk');
});
afterAll(() => end());

test(`after ${EVENTS} random events page, journal and database agree, and no finished stroke is missing`, async () => {
  const document = startPiece();
  await database().insert(pieces).values({ id: document.id, name: document.name, document });
  const walk = new Walk(20);
  await walk.open();
  for (let n = 1; n <= EVENTS; n++) {
    await walk.event();
    if (n % 100 !== 0) continue;
    await walk.rest();
    const { opened } = walk.tab;
    // The database says of each finished stroke that it was taken, or this browser has it set aside.
    const entries = [...(await walk.browser.entries(walk.pieceId)), ...(await asideEverywhere(walk.browser))];
    const waiting = (await walk.browser.entries(walk.pieceId)).filter((e) => !e.aside);
    const taken = new Set((await database().select({ id: operations.id }).from(operations)).map((o) => o.id));
    // Where it fails: whether it was taken, and whose it was.
    const said = waiting.map((e) => ({
      label: e.label,
      taken: taken.has(e.id),
      own: e.client === opened.desk.client,
      packed: !!e.packed,
    }));
    expect({ n, waiting: said }).toEqual({ n, waiting: [] });
    const aside = new Set(entries.map((e) => e.id));
    const missing = [...walk.finished].filter((id) => !taken.has(id) && !aside.has(id));
    expect({ n, missing }).toEqual({ n, missing: [] });
    // The page shows what a fresh page would show.
    const fresh = makeEngine(remote, new Browser(), { pieceId: walk.pieceId });
    await fresh.open();
    await fresh.engine.settled();
    expect(state(opened)).toEqual(state(fresh));
  }
  // Each kind of event happened as often as DECK says, and every stroke in a second browser led to a conflict.
  const { conflict, ...dealt } = walk.counts;
  expect(dealt).toEqual(Object.fromEntries(Object.entries(DECK).map(([kind, n]) => [kind, (n * EVENTS) / 100])));
  expect(conflict).toBeGreaterThanOrEqual((DECK['second browser'] * EVENTS) / 100);
  expect(walk.finished.size).toBeGreaterThan(EVENTS / 7);
  const stray = await database().execute(sql`select 1 from piece_tiles t left join blobs b using (hash) where b.hash is null`);
  expect(stray.rows).toEqual([]);
}, 900_000);

/** Set aside for pieces that the walk has left for a copy. */
async function asideEverywhere(browser: Browser) {
  const summary = await browser.journal().summary();
  return (await Promise.all(summary.map(({ pieceId }) => browser.entries(pieceId)))).flat().filter((e) => e.aside);
}

/**
 * A long random walk of everything that can happen to a painter's day, over a real PostgreSQL and a journal in an
 * IndexedDB: afterwards page, journal and database agree, and no finished stroke is missing.
 */
import { sql } from 'drizzle-orm';
import type { Faults } from '../../src/core/testing/memoryHouse';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import { setLayerEdit } from '../../src/core/document/edits';
import { unpackOperation } from '../../src/core/keeping/operation';
import { seededRandom } from '../../src/core/testing/models';
import type { Lease } from '../../src/engine/lease';
import type { Remote } from '../../src/engine/remote';
import { at, Browser, brush, faultyRemote, makeEngine, refuseOr, until, type Opened } from '../../src/engine/testing/house';
import { commitOperation } from '../../src/server/commit';
import { database } from '../../src/server/db';
import * as house from '../../src/server/pieces';
import { operations, pieces } from '../../src/server/schema';
import { freshDatabase } from '../../src/server/testing';
import { pinnedPicture } from '../../src/server/pinned';
import { tipPng } from '../../src/server/tips';

/** WALK=2000 for a long one. */
const EVENTS = Number(process.env.WALK ?? 600);
const gone = (status = 404, message = 'Gone.'): never => refuseOr<never>({ status, message });

const server: Remote = {
  open: async (id) => {
    const found = await house.openPiece(id);
    if (!found) return gone();
    return 'deleted' in found ? gone(410, 'Deleted.') : found;
  },
  trailEntry: async (id, seq) => (await house.trailEntry(id, seq)) ?? gone(),
  blobs: (hashes) => house.readBlobs(hashes),
  putBlobs: async (blobs) => void (await house.takeBlobs(blobs)),
  commit: async (id, bytes) => {
    const unpacked = unpackOperation(bytes);
    if (!unpacked.ok) return gone(400, unpacked.message);
    const result = await commitOperation(id, unpacked.value);
    return result.ok ? result : refuseOr<never>(result);
  },
  done: (id, ids) => house.doneOperations(id, ids),
  strokes: async (id) => house.strokesOf(id, 1e9),
  duplicate: async (id) => (await house.duplicatePiece(id)) ?? gone(),
  restore: async (id) => void (await house.setDeleted(id, false)),
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

class Tab {
  alive = true;
  /** So many more messages and writes until it is killed. */
  fuse = Infinity;
  opened: Opened;

  constructor(
    readonly walk: Walk,
    readonly browser: Browser,
  ) {
    const gated = faultyRemote(this.gate(server), (what) => walk.fault(what));
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
          if (burning && this.walk.random() < 0.5) return never;
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

  constructor(readonly random: () => number) {}

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
      if (opened.last('failed')?.deleted) await house.setDeleted(this.pieceId, false);
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
    const layers = opened.engine.piece.sheets[0].layers.filter((l) => l.kind === 'painted');
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

  async event(): Promise<void> {
    const { opened } = this.tab;
    const state = opened.last('kept')?.kept.state;
    if (state === 'conflict') {
      await this.resolve();
      return this.open();
    }
    if (state === 'gone') return opened.send({ type: 'restore' });
    if (!this.tab.alive || opened.last('handed-over')) return this.open();
    // A disk is full for some moments, until somebody makes room; what is in memory only is written then.
    if (this.browser.broken && this.random() < 0.3) {
      this.browser.broken = null;
      await until(() => opened.desk.unwritten === 0 || !this.tab.alive);
    }
    const dice = this.random();
    const sheet = opened.engine.piece.sheets[0];
    const at = (name: string) => this.count(name);
    if (dice < 0.34) {
      at('stroke');
      await this.stroke(true);
    } else if (dice < 0.42) {
      at('undo');
      opened.desk.send({ type: 'undo', serial: 1 });
    } else if (dice < 0.47) {
      at('redo');
      opened.desk.send({ type: 'redo', serial: 1 });
    } else if (dice < 0.53) {
      at('edit');
      opened.desk.send({
        type: 'edit',
        edit: setLayerEdit(sheet, this.pick(sheet.layers), { opacity: this.random() }),
        label: 'Opacity',
        serial: 1,
      });
    } else if (dice < 0.57) {
      at('layers');
      // The first two stay: there is always something to paint on.
      const index = sheet.layers.findLastIndex((l) => l.id !== 'l' && l.id !== 'g');
      if (sheet.layers.length < 6 || index < 0)
        opened.desk.send({ type: 'layers', what: { do: 'duplicate', sheetId: 's', ids: ['l'] }, serial: 1 });
      else {
        const edit = { type: 'remove-layer' as const, sheetId: 's', index, layer: sheet.layers[index] };
        opened.desk.send({ type: 'edit', edit, label: 'Delete', serial: 1 });
      }
    } else if (dice < 0.7) {
      at('faults');
      for (let n = 1 + Math.floor(this.random() * 4); n > 0; n--) this.faultsLeft.push(this.pick(FAULTS));
    } else if (dice < 0.72) {
      at('refusal');
      this.refusal = this.pick(REFUSALS);
    } else if (dice < 0.75) {
      at('disk');
      this.browser.broken = Object.assign(new Error('quota'), { name: 'QuotaExceededError' });
    } else if (dice < 0.82) {
      if (this.browser.broken) return;
      at('kill');
      this.tab.fuse = 1 + Math.floor(this.random() * 6);
      await this.stroke(this.random() < 0.6);
      await new Promise((resolve) => setTimeout(resolve, this.random() * 15));
      this.tab.alive = false;
      return this.open();
    } else if (dice < 0.86) {
      if (this.browser.broken) return;
      at('second tab');
      return this.open();
    } else if (dice < 0.875) {
      at('second browser');
      const other = makeEngine(server, new Browser(), { pieceId: this.pieceId });
      await other.open();
      if (!other.last('opened')) return;
      await other.send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [this.point()], at: 1 });
      await other.send({ type: 'stroke-end', samples: [], at: 1 });
      await other.engine.settled();
    } else if (dice < 0.885) {
      at('deleted');
      await house.setDeleted(this.pieceId, true);
    } else if (dice < 0.9) {
      at('renamed');
      await house.renamePiece(this.pieceId, `Walk ${Math.floor(this.random() * 1000)}`);
    } else {
      at('pause');
      await new Promise((resolve) => setTimeout(resolve, this.random() * 30));
    }
  }

  /** Everything works again, and time passes. */
  async rest(): Promise<void> {
    this.faultsLeft = [];
    this.refusal = null;
    this.browser.broken = null;
    await house.setDeleted(this.pieceId, false);
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
  document: { ...engine.piece, name: '' },
  tiles: engine.store
    .planeKeys()
    .flatMap((plane) => [...engine.store.tilesOf(plane)].map(([tile, v]) => `${plane} ${tile} ${v.hash}`))
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
  const walk = new Walk(seededRandom(20));
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
    const fresh = makeEngine(server, new Browser(), { pieceId: walk.pieceId });
    await fresh.open();
    await fresh.engine.settled();
    expect(state(opened)).toEqual(state(fresh));
  }
  // Each kind of event came about.
  expect(Object.keys(walk.counts)).toHaveLength(15);
  expect(walk.finished.size).toBeGreaterThan(EVENTS / 7);
  const stray = await database().execute(sql`select 1 from piece_tiles t left join blobs b using (hash) where b.hash is null`);
  expect(stray.rows).toEqual([]);
}, 900_000);

/** Set aside for pieces that the walk has left for a copy. */
async function asideEverywhere(browser: Browser) {
  const summary = await browser.journal().summary();
  return (await Promise.all(summary.map(({ pieceId }) => browser.entries(pieceId)))).flat().filter((e) => e.aside);
}

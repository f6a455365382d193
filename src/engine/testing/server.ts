/** For the engine's tests: a server in memory that goes by the server's own rules, browsers with journals, engines, strokes. */
import 'fake-indexeddb/auto';
import { createHash } from 'node:crypto';
import { IDBFactory } from 'fake-indexeddb';
import { brushSchema } from '../../core/hand/brush';
import type { Sample } from '../../core/hand/sample';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../core/document/factory';
import type { Piece } from '../../core/document/schema';
import type { BakedTiles } from '../../core/document/work/bakes';
import { MemoryServer, type Faults, type Refused } from '../../core/testing/memoryServer';
import { Desk } from '../keeping/desk';
import type { DrawnElsewhere } from '../cache/drawnParts';
import { Engine } from '../engine';
import { Helper, type HelperPort } from '../show/helper';
import { openJournalDatabase, type JournalDatabase } from '../keeping/journal/database';
import { Journal, type JournalState, type Recorded } from '../keeping/journal/journal';
import type { Lease } from '../keeping/lease';
import type { Event, PageRequest, PixelPatch } from '../protocol';
import { ServerAnswer, unreachable, type OpenedPiece, type Remote, type RemoteTrailEntry, type Taken } from '../remote';
import { Shelf, type BrowserShelves, type ShelfFile } from '../cache/shelf';
import { partsOf, putRows } from '../../core/tile/mips';
import { TILES_HERE } from '../tiles/tilePool';

/** Every message of an engine passes here, and may meet a fault. */
export function faultyRemote(remote: Remote, faults: Faults): Remote {
  const asked = async <T>(what: string, work: () => Promise<T>): Promise<T> => {
    const fault = faults(what);
    if (fault === 'lost') throw unreachable();
    if (typeof fault === 'number') throw ServerAnswer.of(fault, { message: `It answers ${fault}.` });
    if (fault === 'late') await new Promise((resolve) => setTimeout(resolve, 4));
    const answer = await work();
    if (fault === 'twice') await work().catch(() => undefined);
    if (fault === 'answer lost') throw unreachable();
    return answer;
  };
  const calls = [
    'open',
    'trailEntry',
    'blobs',
    'putBlobs',
    'commit',
    'tryToWrite',
    'done',
    'strokes',
    'duplicate',
    'restore',
    'bake',
    'tip',
    'pinned',
  ] as const;
  return Object.fromEntries(
    calls.map((name) => [
      name,
      (...args: unknown[]) => asked(name, () => (remote[name] as (...a: unknown[]) => Promise<unknown>)(...args)),
    ]),
  ) as unknown as Remote;
}

/** The stand-in of a server as an engine sees it. */
export class Server extends MemoryServer implements Remote {
  away = false;
  /** For tests of faults: what becomes of each message. */
  faults: Faults | null = null;
  commits = 0;
  private asked: Remote;

  constructor(document: Piece) {
    super();
    this.add(document);
    this.asked = faultyRemote(
      {
        open: async (id) => refuseOr<OpenedPiece>(this.openPiece(id)),
        trailEntry: async (id, seq) => refuseOr<RemoteTrailEntry>(this.stepAt(id, seq)),
        blobs: async (hashes) => this.readBlobs(hashes),
        putBlobs: (blobs) => this.takeBlobs(blobs),
        commit: async (id, bytes) => refuseOr<Taken>(await this.commitBytes(id, bytes)),
        tryToWrite: async () => undefined,
        done: async (id, ids) => this.doneOf(id, ids),
        strokes: async (id) => this.strokesOf(id),
        duplicate: async (id) => this.copyPiece(id),
        restore: async (id) => void (this.pieces.get(id)!.deleted = false),
        bake: async (key) =>
          this.bakes.get(key) ??
          Promise.reject(new ServerAnswer('gone', 'This bake is not done, or is not there any more: bake it again.', {})),
        tip: async (hash) => this.tips.get(hash) ?? null,
        pinned: async (hash) => this.pins.get(hash) ?? null,
      },
      (what) => (this.away ? 'lost' : (this.faults?.(what) ?? null)),
    );
  }

  open = (id: string) => this.asked.open(id);
  trailEntry = (id: string, seq: number) => this.asked.trailEntry(id, seq);
  blobs = (hashes: readonly string[]) => this.asked.blobs(hashes);
  putBlobs = (blobs: readonly Uint8Array[]) => this.asked.putBlobs(blobs);
  commit = (id: string, bytes: Uint8Array<ArrayBuffer>) => {
    this.commits++;
    return this.asked.commit(id, bytes);
  };
  tryToWrite = () => this.asked.tryToWrite();
  done = (id: string, ids: readonly string[]) => this.asked.done(id, ids);
  strokes = (id: string) => this.asked.strokes(id);
  duplicate = (id: string) => this.asked.duplicate(id);
  restore = (id: string) => this.asked.restore(id);
  bake = (key: string) => this.asked.bake(key);
  /** What was baked, by key. */
  readonly bakes = new Map<string, BakedTiles>();
  tip = (hash: string) => this.asked.tip(hash);
  pinned = (hash: string) => this.asked.pinned(hash);
  /** Pictures of tips, PNG. */
  readonly tips = new Map<string, Uint8Array>();
  /** Reference pictures, WebP. */
  readonly pins = new Map<string, Uint8Array>();
}

export function refuseOr<T extends object>(result: Refused | T): T {
  if ('status' in result) throw ServerAnswer.of(result.status, result);
  return result;
}

export function startPiece(): Piece {
  const sheet = newSheet('s', 'Sheet', 256, 256, { wrapU: true, wrapV: true });
  sheet.layers = [newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.2, 0.2] }), newPaintedLayer('l', 'Hand')];
  return newPiece('p', 'Piece', 'canvas', [sheet]);
}

/** Files in memory, as a browser's own private ones: one that is open is not opened again. */
export class MemoryKeeping implements BrowserShelves {
  readonly files = new Map<string, Uint8Array>();
  private open = new Set<string>();

  async file(name: string): Promise<ShelfFile | null> {
    if (this.open.has(name)) return null;
    this.open.add(name);
    const bytes = () => this.files.get(name) ?? new Uint8Array(0);
    return {
      read: (into, { at }) => {
        const part = bytes().subarray(at, at + into.length);
        into.set(part);
        return part.length;
      },
      write: (from, { at }) => {
        const old = bytes();
        const now = at + from.length > old.length ? new Uint8Array(at + from.length) : old;
        if (now !== old) now.set(old);
        now.set(from, at);
        this.files.set(name, now);
        return from.length;
      },
      flush: () => undefined,
      close: () => void this.open.delete(name),
    };
  }

  async shelf(pieceId: string, sheetId: string): Promise<Shelf | null> {
    const file = await this.file(`${pieceId}.${sheetId}`);
    return file && new Shelf(file);
  }

  /** The tab is gone: what it had open is free. */
  release(): void {
    this.open.clear();
  }
}

/** What others have drawn, as the server keeps it. */
export class MemoryDrawn implements DrawnElsewhere {
  readonly sheets = new Map<string, Uint8Array<ArrayBuffer>[]>();
  faults: Faults = () => null;
  /** Parts that were asked for. */
  asked = 0;

  private async passed<T>(what: string, work: () => T): Promise<T> {
    const fault = this.faults(what);
    if (fault === 'lost') throw new Error('It does not answer.');
    if (fault === 'late') await new Promise((resolve) => setTimeout(resolve, 20));
    return work();
  }

  parts(pieceId: string, sheetId: string): Promise<number> {
    return this.passed('parts', () => this.sheets.get(`${pieceId} ${sheetId}`)?.length ?? 0);
  }

  part(pieceId: string, sheetId: string, n: number): Promise<Uint8Array | null> {
    this.asked++;
    return this.passed('part', () => this.sheets.get(`${pieceId} ${sheetId}`)?.[n] ?? null);
  }

  put(pieceId: string, sheetId: string, n: number, last: boolean, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    return this.passed('put', () => {
      const key = `${pieceId} ${sheetId}`;
      const before = this.sheets.get(key) ?? [];
      this.sheets.set(key, [...before.slice(0, n), bytes, ...(last ? [] : before.slice(n + 1))]);
    });
  }
}

/** Waits for a condition, half a minute at most. */
export async function until(condition: () => boolean): Promise<void> {
  for (let n = 0; n < 6000 && !condition(); n++) await new Promise((r) => setTimeout(r, 5));
  expect(condition()).toBe(true);
}

/** Helpers in this thread that answer late, as others do. */
export function lateHelpers(count = 2): HelperPort[] {
  return Array.from({ length: count }, () => {
    const helper = new Helper();
    const port: HelperPort = {
      post: (message) => {
        // Documents and texels as they are now, as if sent.
        const answer = helper.handle(structuredClone(message));
        if (answer) setTimeout(() => port.onAnswer(answer), 3);
      },
      onAnswer: () => {},
      onDeath: () => {},
    };
    return port;
  });
}

/** One browser: what its journal holds outlives its tabs. `broken`: why writing fails. */
export class Browser {
  private factory = new IDBFactory();

  constructor(private silentMs?: number) {}

  broken: Error | null = null;
  /** Its storage never answers. */
  hanging = false;
  private open_: JournalDatabase[] = [];

  /** `alive`: false once the tab was killed: it writes nothing any more. */
  journal(alive: () => boolean = () => true): Journal {
    return new Journal({
      silentMs: this.silentMs,
      later: (callback, ms) => void setTimeout(() => alive() && callback(), Math.min(ms, 10)),
      open: async (events) => {
        const before = globalThis.indexedDB;
        globalThis.indexedDB = this.factory;
        try {
          if (this.hanging) return await new Promise<never>(() => undefined);
          const opening = openJournalDatabase(events);
          globalThis.indexedDB = before;
          const db = await opening;
          this.open_.push(db);
          return this.watched(db, alive);
        } finally {
          globalThis.indexedDB = before;
        }
      },
    });
  }

  /** All site data is gone, under the hands of those who have it open. */
  async clear(): Promise<void> {
    for (const db of this.open_.splice(0)) db.close();
    this.factory = new IDBFactory();
  }

  /** What the disk has for a piece. */
  entries(pieceId = 'p'): Promise<Recorded[]> {
    return this.journal().list(pieceId);
  }

  private watched(db: JournalDatabase, alive: () => boolean): JournalDatabase {
    const brokenNow = () => this.broken;
    const hanging = () => this.hanging;
    return new Proxy(db, {
      get(target, key) {
        const value = Reflect.get(target, key) as unknown;
        if (typeof value !== 'function') return value;
        return (...args: unknown[]) => {
          const writes = key === 'put' || (key === 'transaction' && args[1] === 'readwrite');
          if (!alive()) throw new Error('The tab was killed.');
          const broken = brokenNow();
          if (writes && broken) throw broken;
          if (hanging() && key !== 'close') return hung;
          return (value as (...a: unknown[]) => unknown).apply(target, args);
        };
      },
    });
  }
}

/** What a storage that does not answer gives: promises that never end, and transactions full of them. */
const never = new Promise<never>(() => undefined);
const hung: unknown = new Proxy(() => undefined, {
  get: (_, key) => (key === 'then' ? never.then.bind(never) : key === 'done' ? never : hung),
  apply: () => hung,
});

let ids = 0;
export interface Opened {
  engine: Engine;
  desk: Desk;
  events: Event[];
  journalStates: JournalState[];
  send: (request: PageRequest) => Promise<void>;
  last: <T extends Event['type']>(type: T) => Extract<Event, { type: T }> | undefined;
  open: (pieceId?: string) => Promise<void>;
}

export function makeEngine(
  server: Remote,
  browser = new Browser(),
  {
    helpers,
    lease,
    pieceId = 'p',
    alive = () => true,
    keeping,
    elsewhere,
    clock = { ahead: 0 },
  }: {
    helpers?: () => HelperPort[];
    lease?: Lease;
    pieceId?: string;
    alive?: () => boolean;
    keeping?: BrowserShelves;
    elsewhere?: DrawnElsewhere;
    clock?: { ahead: number };
  } = {},
): Opened {
  const events: Event[] = [];
  const journal = browser.journal(alive);
  const engine = new Engine({
    remote: server,
    journal,
    lease,
    tiles: TILES_HERE,
    post: (e) => events.push(e),
    now: () => performance.now() + clock.ahead,
    later: (callback) => void setTimeout(callback, 0),
    retryMs: 5,
    restMs: 80,
    helpers,
    keeping,
    elsewhere,
  });
  let carriedOut: Promise<void> = Promise.resolve();
  const desk = new Desk({
    pieceId,
    client: `tab${ids++}`,
    journal,
    post: (request) => void (carriedOut = engine.receive(request)),
    newId: () => `op-${String(ids++).padStart(6, '0')}`,
    newSeed: () => ids,
    now: () => 1_700_000_000_000 + ids,
    document: () => engine.open.piece ?? null,
    report: () => undefined,
  });
  const journalStates: JournalState[] = [];
  journal.listen((state) => {
    journalStates.push(state);
    desk.journalSays(state);
  });
  const send = (request: PageRequest) => {
    desk.send(request);
    return carriedOut;
  };
  const last = <T extends Event['type']>(type: T) =>
    events.findLast((e) => e.type === type) as Extract<Event, { type: T }> | undefined;
  const open = () => send({ type: 'open', pieceId, client: desk.client });
  return { engine, desk, events, journalStates, send, last, open };
}

export const brush = brushSchema.parse({
  size: 40,
  smoothing: 0,
  writes: { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 }, height: { on: true, value: [0.7], amount: 1 } },
});
export const at = (x: number, y: number): Sample => ({
  pane: 'flat',
  x,
  y,
  texelsPerPixel: 1,
  pressure: 1,
  tiltX: 0,
  tiltY: 0,
  time: 0,
});
export async function stroke(send: (r: PageRequest) => Promise<void>, ...points: [number, number][]) {
  await send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [at(...points[0])], at: 1 });
  await send({ type: 'stroke-end', samples: points.slice(1).map(([x, y]) => at(x, y)), at: 2 });
}
/** What a patch makes of the first level of its plane. */
export function putPatch(patch: PixelPatch, out: Uint8Array, width: number): void {
  // All of the plane has one texel.
  if (patch.first === 0) for (let i = 0; i < out.length; i += 4) out.set(patch.data, i);
  for (const { level, rect, texels } of partsOf(patch)) if (level === 0) putRows(texels, rect.width, rect, { width, data: out });
}

/** The picture that the page would have after all patches so far: level 0 of each plane. */
export function shownPlanes(events: Event[]) {
  const planes: Record<string, Uint8Array> = {};
  for (const e of events)
    if (e.type === 'pixels')
      for (const p of e.patches as PixelPatch[]) {
        const out = (planes[p.plane] ??= new Uint8Array(256 * 256 * 4));
        putPatch(p, out, 256);
      }
  // As sums: comparing a million numbers one by one takes a second.
  return Object.fromEntries(
    Object.entries(planes).map(([plane, bytes]) => [plane, createHash('sha256').update(bytes).digest('hex')]),
  );
}

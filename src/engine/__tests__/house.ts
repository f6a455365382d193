/** For the engine's tests: a server in memory, an engine that speaks to it, and strokes. */
import { createHash } from 'node:crypto';
import { inflateRawSync } from 'node:zlib';
import { brushSchema, type Sample } from '../../core/brush/brush';
import { blobChannels, unfilterTile } from '../../core/codec/tileBlob';
import { applyEditChecked, invertEdit } from '../../core/document/edits';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../core/document/factory';
import { unpackOperation } from '../core/keeping/operation';
import type { Piece } from '../../core/document/schema';
import { Engine } from '../engine';
import { Helper, type HelperPort } from '../helper';
import { memoryJournal, type JournalEntry } from '../journal';
import type { Event, PixelPatch, Request } from '../protocol';
import { Refused, Unreachable, type Remote, type RemoteTrailEntry } from '../remote';

/** The server's rules once more, in memory: revisions, trail, tiles, idempotence. */
export class House implements Remote {
  pieces = new Map<
    string,
    {
      document: Piece;
      revision: number;
      position: number;
      trail: RemoteTrailEntry[];
      tiles: Map<string, [string, number, string]>;
    }
  >();
  stored = new Map<string, Uint8Array>();
  done = new Map<string, number>();
  away = false;
  commits = 0;

  constructor(document: Piece) {
    this.pieces.set(document.id, { document, revision: 0, position: 0, trail: [], tiles: new Map() });
  }
  private reach() {
    if (this.away) throw new Unreachable('The server does not answer.');
  }
  async open(id: string) {
    this.reach();
    const p = this.pieces.get(id)!;
    return { ...p, trail: p.trail.map((t, i) => ({ seq: i + 1, label: t.label })), tiles: [...p.tiles.values()] };
  }
  async trailEntry(id: string, seq: number) {
    this.reach();
    return this.pieces.get(id)!.trail[seq - 1];
  }
  async blobs(hashes: readonly string[]) {
    this.reach();
    return new Map(hashes.flatMap((h) => (this.stored.has(h) ? [[h, this.stored.get(h)!] as const] : [])));
  }
  async commit(id: string, bytes: Uint8Array) {
    this.reach();
    this.commits++;
    const unpacked = unpackOperation(bytes);
    if (!unpacked.ok) throw new Refused(unpacked.message, 400);
    const { operation, blobs } = unpacked.value;
    const p = this.pieces.get(id)!;
    if (this.done.has(operation.id)) return { revision: this.done.get(operation.id)! };
    if (operation.baseRevision !== p.revision) throw new Refused('changed elsewhere', 409);
    const put = (tiles: RemoteTrailEntry['tiles']) =>
      tiles.forEach(([plane, tile, , after]) =>
        after ? p.tiles.set(`${plane} ${tile}`, [plane, tile, after]) : p.tiles.delete(`${plane} ${tile}`),
      );
    const change = (edit: RemoteTrailEntry['edit']) => {
      const next = applyEditChecked(p.document, edit);
      if (!next.ok) throw new Refused(next.message, 422);
      p.document = next.value;
    };
    if (operation.kind === 'edit') {
      change(operation.edit);
      for (const [h, b] of blobs) this.stored.set(h, b.slice());
      for (const [, , , after] of operation.tiles)
        if (after && !this.stored.has(after)) throw new Error(`blob ${after} was never sent`);
      p.trail.length = p.position;
      p.trail.push({ edit: operation.edit, label: operation.label, tiles: operation.tiles });
      p.position++;
      put(operation.tiles);
    } else {
      const undo = operation.kind === 'undo';
      const entry = p.trail[undo ? p.position - 1 : p.position];
      change(undo ? invertEdit(entry.edit) : entry.edit);
      put(undo ? entry.tiles.map(([a, b, before, after]) => [a, b, after, before]) : entry.tiles);
      p.position += undo ? -1 : 1;
    }
    this.done.set(operation.id, ++p.revision);
    return { revision: p.revision };
  }
  async duplicate(id: string) {
    const p = this.pieces.get(id)!;
    this.pieces.set('copy', {
      ...p,
      document: { ...p.document, id: 'copy' },
      revision: 0,
      position: 0,
      trail: [],
      tiles: new Map(p.tiles),
    });
    return { id: 'copy', revision: 0 };
  }
  /** All tiles as texels, for comparing whole states. */
  pixels(id = 'p') {
    return Object.fromEntries(
      [...this.pieces.get(id)!.tiles.values()].map(([plane, tile, hash]) => {
        const blob = this.stored.get(hash)!;
        return [`${plane} ${tile}`, unfilterTile(inflateRawSync(blob.subarray(1)), blobChannels(blob))];
      }),
    );
  }
}

export function startPiece(): Piece {
  const sheet = newSheet('s', 'Sheet', 256, 256, { wrapU: true, wrapV: true });
  sheet.layers = [newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.2, 0.2] }), newPaintedLayer('l', 'Hand')];
  return newPiece('p', 'Piece', 'canvas', [sheet]);
}

/** Waits for a condition, five seconds at most. */
export async function until(condition: () => boolean): Promise<void> {
  for (let n = 0; n < 1000 && !condition(); n++) await new Promise((r) => setTimeout(r, 5));
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
    };
    return port;
  });
}

let ids = 0;
export function makeEngine(house: House, entries = new Map<string, JournalEntry[]>(), helpers?: () => HelperPort[]) {
  const events: Event[] = [];
  const engine = new Engine({
    remote: house,
    journal: memoryJournal(entries),
    post: (e) => events.push(e),
    newId: () => `op${ids++}`,
    now: () => performance.now(),
    later: (callback) => void setTimeout(callback, 0),
    retryMs: 5,
    helpers,
  });
  const send = (request: Request) => engine.receive(request);
  const last = <T extends Event['type']>(type: T) =>
    events.findLast((e) => e.type === type) as Extract<Event, { type: T }> | undefined;
  return { engine, events, send, last };
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
export async function stroke(send: (r: Request) => Promise<void>, ...points: [number, number][]) {
  await send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [at(...points[0])], at: 1 });
  await send({ type: 'stroke-end', samples: points.slice(1).map(([x, y]) => at(x, y)), at: 2 });
}
/** The picture that the page would have after all patches so far: level 0 of each plane. */
export function shownPlanes(events: Event[]) {
  const planes: Record<string, Uint8Array> = {};
  for (const e of events)
    if (e.type === 'pixels')
      for (const p of e.patches as PixelPatch[]) {
        const out = (planes[p.plane] ??= new Uint8Array(256 * 256 * 4));
        const r = p.rects[0];
        for (let y = 0; y < r.height; y++)
          out.set(p.data.subarray(y * r.width * 4, (y + 1) * r.width * 4), ((r.y + y) * 256 + r.x) * 4);
      }
  // As sums: comparing a million numbers one by one takes a second.
  return Object.fromEntries(
    Object.entries(planes).map(([plane, bytes]) => [plane, createHash('sha256').update(bytes).digest('hex')]),
  );
}

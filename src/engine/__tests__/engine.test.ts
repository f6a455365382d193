import { createHash } from 'node:crypto';
import { inflateRawSync } from 'node:zlib';
import { brushSchema, type Sample } from '../../core/brush/brush';
import { blobChannels, unfilterTile } from '../../core/codec/tileBlob';
import { applyEditChecked, invertEdit, setLayerEdit } from '../../core/document/edits';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../core/document/factory';
import { unpackOperation } from '../../core/document/commit';
import type { Piece } from '../../core/document/schema';
import { Engine } from '../engine';
import { memoryJournal, type JournalEntry } from '../journal';
import type { Event, PixelPatch, Request } from '../protocol';
import { Refused, Unreachable, type Remote, type RemoteTrailEntry } from '../remote';

/** The server's rules once more, in memory: revisions, trail, tiles, idempotence. */
class House implements Remote {
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

function startPiece(): Piece {
  const sheet = newSheet('s', 'Sheet', 256, 256, { wrapU: true, wrapV: true });
  sheet.layers = [newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.2, 0.2] }), newPaintedLayer('l', 'Hand')];
  return newPiece('p', 'Piece', 'canvas', [sheet]);
}

/** Waits for a condition, five seconds at most. */
async function until(condition: () => boolean): Promise<void> {
  for (let n = 0; n < 1000 && !condition(); n++) await new Promise((r) => setTimeout(r, 5));
  expect(condition()).toBe(true);
}

let ids = 0;
function makeEngine(house: House, entries = new Map<string, JournalEntry[]>()) {
  const events: Event[] = [];
  const engine = new Engine({
    remote: house,
    journal: memoryJournal(entries),
    post: (e) => events.push(e),
    newId: () => `op${ids++}`,
    now: () => performance.now(),
    later: (callback) => void setTimeout(callback, 0),
    retryMs: 5,
  });
  const send = (request: Request) => engine.receive(request);
  const last = <T extends Event['type']>(type: T) =>
    events.findLast((e) => e.type === type) as Extract<Event, { type: T }> | undefined;
  return { engine, events, send, last };
}

const brush = brushSchema.parse({
  size: 40,
  smoothing: 0,
  writes: { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 }, height: { on: true, value: [0.7], amount: 1 } },
});
const at = (x: number, y: number): Sample => ({
  pane: 'flat',
  x,
  y,
  texelsPerPixel: 1,
  pressure: 1,
  tiltX: 0,
  tiltY: 0,
  time: 0,
});
async function stroke(send: (r: Request) => Promise<void>, ...points: [number, number][]) {
  await send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [at(...points[0])], at: 1 });
  await send({ type: 'stroke-end', samples: points.slice(1).map(([x, y]) => at(x, y)), at: 2 });
}
/** The picture that the page would have after all patches so far: level 0 of each plane. */
function shownPlanes(events: Event[]) {
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

describe('the engine', () => {
  test('a stroke is kept, and is there after reopening', async () => {
    const house = new House(startPiece());
    const a = makeEngine(house);
    await a.send({ type: 'open', pieceId: 'p' });
    await stroke(a.send, [250, 100], [262, 100]);
    await a.engine.settled();
    expect(a.last('kept')!.kept).toEqual({ state: 'kept', waiting: 0 });
    expect(Object.keys(house.pixels()).sort()).toEqual(['l/base-colour 0', 'l/base-colour 1', 'l/height 0', 'l/height 1']);
    const b = makeEngine(house);
    await b.send({ type: 'open', pieceId: 'p' });
    await b.engine.settled();
    expect(b.last('opened')!.trail).toEqual({ labels: ['Stroke on Hand'], position: 1 });
    expect(shownPlanes(b.events)).toEqual(shownPlanes(a.events));
  });

  test.each([1, 2, 3])(
    'after random edits, strokes, undo and redo, what is shown equals a fresh opening (seed %i)',
    async (seed) => {
      const { seededRandom } = await import('../../core/testing/models');
      const random = seededRandom(seed);
      const house = new House(startPiece());
      const a = makeEngine(house);
      await a.send({ type: 'open', pieceId: 'p' });
      for (let n = 0; n < 25; n++) {
        const sheet = a.engine.piece.sheets[0];
        const layer = sheet.layers[Math.floor(random() * sheet.layers.length)];
        const kind = Math.floor(random() * 7);
        if (kind <= 1) await stroke(a.send, [random() * 256, random() * 256], [random() * 256, random() * 256]);
        else if (kind === 2) await a.send({ type: 'undo', serial: n });
        else if (kind === 3) await a.send({ type: 'redo', serial: n });
        else if (kind === 4)
          await a.send({
            type: 'edit',
            edit: setLayerEdit(sheet, layer, {
              opacity: random(),
              visible: random() < 0.8,
              blend: random() < 0.5 ? 'overlay' : 'normal',
            }),
            label: 'x',
            serial: n,
          });
        else if (kind === 5)
          await a.send({
            type: 'edit',
            edit: { type: 'move-layer', sheetId: 's', layerId: layer.id, from: sheet.layers.indexOf(layer), to: 0 },
            label: 'x',
            serial: n,
          });
        else
          await a.send({
            type: 'duplicate-layer',
            sheetId: 's',
            layerId: layer.id,
            newId: `d${n}`,
            name: `Copy ${n}`,
            serial: n,
          });
      }
      await a.engine.settled();
      const b = makeEngine(house);
      await b.send({ type: 'open', pieceId: 'p' });
      await b.engine.settled();
      expect(b.engine.piece).toEqual(a.engine.piece);
      expect(shownPlanes(b.events)).toEqual(shownPlanes(a.events));
    },
  );

  test('undo works after a reload, back to the first state, and redo forward again', async () => {
    const house = new House(startPiece());
    const a = makeEngine(house);
    await a.send({ type: 'open', pieceId: 'p' });
    await stroke(a.send, [60, 60]);
    await stroke(a.send, [70, 70], [90, 200]);
    await a.engine.settled();
    const after = house.pixels();
    const b = makeEngine(house);
    await b.send({ type: 'open', pieceId: 'p' });
    await b.send({ type: 'undo', serial: 1 });
    await b.send({ type: 'undo', serial: 2 });
    await b.engine.settled();
    expect(house.pixels()).toEqual({});
    expect(b.last('document')!.trail.position).toBe(0);
    await b.send({ type: 'redo', serial: 3 });
    await b.send({ type: 'redo', serial: 4 });
    await b.engine.settled();
    expect(house.pixels()).toEqual(after);
  });

  test('a passing edit is drawn but neither kept nor left behind', async () => {
    const house = new House(startPiece());
    const a = makeEngine(house);
    await a.send({ type: 'open', pieceId: 'p' });
    await a.engine.settled();
    const before = shownPlanes(a.events);
    const sheet = a.engine.piece.sheets[0];
    await a.send({ type: 'preview', edit: setLayerEdit(sheet, sheet.layers[0], { opacity: 0.3 }) });
    await a.engine.settled();
    expect(shownPlanes(a.events)).not.toEqual(before);
    await a.send({ type: 'preview', edit: null });
    await a.engine.settled();
    expect(shownPlanes(a.events)).toEqual(before);
    expect(house.commits).toBe(0);
  });

  test('while the server is away strokes wait in the journal; when it is back they are kept, in order', async () => {
    const house = new House(startPiece());
    const entries = new Map<string, JournalEntry[]>();
    const a = makeEngine(house, entries);
    await a.send({ type: 'open', pieceId: 'p' });
    house.away = true;
    await stroke(a.send, [60, 60]);
    await stroke(a.send, [90, 90]);
    await until(() => entries.get('p')?.length === 2 && a.last('kept')!.kept.state === 'offline');
    expect(a.last('kept')!.kept.waiting).toBe(2);
    house.away = false;
    await a.engine.settled();
    expect(a.last('kept')!.kept).toEqual({ state: 'kept', waiting: 0 });
    expect(entries.get('p')).toEqual([]);
    expect(house.pieces.get('p')!.position).toBe(2);
  });

  test('a stroke left in the journal by a killed tab is sent when the piece is opened again', async () => {
    const house = new House(startPiece());
    const entries = new Map<string, JournalEntry[]>();
    const a = makeEngine(house, entries);
    await a.send({ type: 'open', pieceId: 'p' });
    house.away = true;
    await stroke(a.send, [60, 60]);
    await until(() => !!entries.get('p')?.length);
    const left = new Map([['p', [...entries.get('p')!]]]);
    house.away = false;
    const b = makeEngine(house, left);
    await b.send({ type: 'open', pieceId: 'p' });
    expect(b.last('opened')!.trail.position).toBe(1);
    expect(left.get('p')).toEqual([]);
    await a.engine.settled();
    expect(house.pieces.get('p')!.position).toBe(1);
  });

  test('two openers: the second writer is told, and can keep its strokes in a copy', async () => {
    const house = new House(startPiece());
    const a = makeEngine(house);
    const b = makeEngine(house);
    await a.send({ type: 'open', pieceId: 'p' });
    await b.send({ type: 'open', pieceId: 'p' });
    await stroke(a.send, [60, 60]);
    await a.engine.settled();
    await stroke(b.send, [200, 200]);
    await b.engine.settled();
    expect(b.last('kept')!.kept).toEqual({ state: 'conflict', waiting: 1 });
    await b.send({ type: 'resolve-conflict', choice: 'copy' });
    expect(b.last('goto')!.pieceId).toBe('copy');
    expect(Object.keys(house.pixels('p'))).toEqual(['l/base-colour 0', 'l/height 0']);
    expect(Object.keys(house.pixels('copy')).length).toBe(4);
  });

  test('picking gives the painted value, through the wrap too', async () => {
    const house = new House(startPiece());
    const a = makeEngine(house);
    await a.send({ type: 'open', pieceId: 'p' });
    await stroke(a.send, [60, 60], [61, 60]);
    await a.send({ type: 'pick', id: 7, sheetId: 's', place: { pane: 'flat', x: 60.5 + 256, y: 60.5 - 256 } });
    const { picked } = a.last('picked')!;
    expect([picked!.x, picked!.y]).toEqual([60, 60]);
    expect(picked!.values['base-colour']![0]).toBeGreaterThan(0.6);
    expect(picked!.values.metallic).toEqual([0]);
  });

  test('cancelling a stroke leaves no trace', async () => {
    const house = new House(startPiece());
    const a = makeEngine(house);
    await a.send({ type: 'open', pieceId: 'p' });
    await a.engine.settled();
    const before = shownPlanes(a.events);
    await a.send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [at(60, 60)], at: 1 });
    await a.engine.settled();
    await a.send({ type: 'stroke-cancel' });
    await a.engine.settled();
    expect(shownPlanes(a.events)).toEqual(before);
    expect(house.commits).toBe(0);
  });

  test('a dispatch and a piece file come back as bytes', async () => {
    const a = makeEngine(new House(startPiece()));
    await a.send({ type: 'open', pieceId: 'p' });
    await a.send({ type: 'export-piece', id: 4 });
    await until(() => !!a.last('job-done'));
    expect(a.last('job-done')).toMatchObject({ id: 4, name: 'piece.brindle' });
  });
});

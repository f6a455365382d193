import { unzipSync } from 'fflate';
import { decodePng } from '../../core/codec/png';
import { dispatchSchema } from '../../core/deliver/options';
import { readPieceFile } from '../../core/piece/pieceFile';
import { evaluateWhole16 } from '../../core/strata/evaluate';
import { arrangeEdit, setLayerEdit } from '../../core/document/edits';
import { newAdjustLayer } from '../../core/document/factory';
import { pinSchema } from '../../core/document/pin';
import { moved } from '../../core/document/tree';
import type { Histogram } from '../answers/pictures';
import type { PickedValues } from '../protocol';
import { at, Browser, brush, Server, makeEngine, shownPlanes, startPiece, stroke, until } from '../testing/server';

describe('the engine', () => {
  test('a stroke is kept, and is there after reopening', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    await stroke(a.send, [250, 100], [262, 100]);
    await a.engine.settled();
    expect(a.last('kept')!.kept).toMatchObject({ state: 'kept', waiting: 0 });
    expect(Object.keys(server.pixels()).sort()).toEqual(['l/base-colour 0', 'l/base-colour 1', 'l/height 0', 'l/height 1']);
    const b = makeEngine(server);
    await b.open();
    await b.engine.settled();
    expect(b.last('opened')!.trail).toEqual({ labels: ['Stroke on Hand'], position: 1 });
    expect(shownPlanes(b.events)).toEqual(shownPlanes(a.events));
  });

  test.each([1, 2, 3])(
    'after random edits, strokes, undo and redo, what is shown equals a fresh opening (seed %i)',
    async (seed) => {
      const { seededRandom } = await import('../../core/testing/models');
      const random = seededRandom(seed);
      const server = new Server(startPiece());
      const a = makeEngine(server);
      await a.open();
      for (let n = 0; n < 25; n++) {
        const sheet = a.engine.open.piece.sheets[0];
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
            edit: arrangeEdit(sheet, moved(sheet.layers, [layer.id], { parent: null, above: null })!),
            label: 'x',
            serial: n,
          });
        else
          await a.send({
            type: 'layers',
            what: { do: 'duplicate', sheetId: 's', ids: [layer.id] },
            serial: n,
          });
      }
      await a.engine.settled();
      const b = makeEngine(server);
      await b.open();
      await b.engine.settled();
      expect(b.engine.open.piece).toEqual(a.engine.open.piece);
      expect(shownPlanes(b.events)).toEqual(shownPlanes(a.events));
    },
  );

  test('undo works after a reload, back to the first state, and redo forward again', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    await stroke(a.send, [60, 60]);
    await stroke(a.send, [70, 70], [90, 200]);
    await a.engine.settled();
    const after = server.pixels();
    const b = makeEngine(server);
    await b.open();
    await b.send({ type: 'undo', serial: 1 });
    await b.send({ type: 'undo', serial: 2 });
    await b.engine.settled();
    expect(server.pixels()).toEqual({});
    expect(b.last('document')!.trail.position).toBe(0);
    await b.send({ type: 'redo', serial: 3 });
    await b.send({ type: 'redo', serial: 4 });
    await b.engine.settled();
    expect(server.pixels()).toEqual(after);
  });

  test('a passing edit is drawn but neither kept nor left behind', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    await a.engine.settled();
    const before = shownPlanes(a.events);
    const sheet = a.engine.open.piece.sheets[0];
    await a.send({ type: 'preview', edit: setLayerEdit(sheet, sheet.layers[0], { opacity: 0.3 }) });
    await a.engine.settled();
    expect(shownPlanes(a.events)).not.toEqual(before);
    await a.send({ type: 'preview', edit: null });
    await a.engine.settled();
    expect(shownPlanes(a.events)).toEqual(before);
    expect(server.commits).toBe(0);
  });

  test('while the server is away strokes wait in the journal; when it is back they are kept, in order', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    server.away = true;
    await stroke(a.send, [60, 60]);
    await stroke(a.send, [90, 90]);
    await until(() => a.last('kept')!.kept.state === 'offline' && a.last('kept')!.kept.waiting === 2);
    expect((await browser.entries()).map((e) => [e.label, e.whole])).toEqual([
      ['Stroke on Hand', true],
      ['Stroke on Hand', true],
    ]);
    server.away = false;
    await a.engine.settled();
    expect(a.last('kept')!.kept).toMatchObject({ state: 'kept', waiting: 0 });
    expect(await browser.entries()).toEqual([]);
    expect(server.pieces.get('p')!.position).toBe(2);
  });

  test('a stroke left in the journal by a killed tab is part of the piece when it is opened again', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server, browser);
    await a.open();
    server.away = true;
    await stroke(a.send, [60, 60]);
    await until(() => a.last('kept')!.kept.state === 'offline');
    const b = makeEngine(server, browser);
    server.away = false;
    await b.open();
    expect(b.last('opened')!.trail.position).toBe(1);
    await b.engine.settled();
    expect(await browser.entries()).toEqual([]);
    await a.engine.settled();
    expect(server.pieces.get('p')!.position).toBe(1);
  });

  test('two openers: the second writer is told, and can keep its strokes in a copy', async () => {
    const server = new Server(startPiece());
    const browser = new Browser();
    const a = makeEngine(server);
    const b = makeEngine(server, browser);
    await a.open();
    await b.open();
    await stroke(a.send, [60, 60]);
    await a.engine.settled();
    await stroke(b.send, [200, 200]);
    await b.engine.settled();
    expect(b.last('kept')!.kept).toMatchObject({
      state: 'conflict',
      waiting: 1,
      entries: [{ label: 'Stroke on Hand', own: true }],
    });
    await b.send({ type: 'resolve-conflict', choice: 'copy' });
    expect(b.last('goto')!.pieceId).toBe('copy');
    // The recording waits for the copy, and is painted there when it opens.
    expect(await browser.entries('p')).toEqual([]);
    const c = makeEngine(server, browser, { pieceId: 'copy' });
    await c.open();
    await c.engine.settled();
    expect(server.pieces.get('copy')!.position).toBe(1);
    expect(Object.keys(server.pixels('p'))).toEqual(['l/base-colour 0', 'l/height 0']);
    expect(Object.keys(server.pixels('copy')).length).toBe(4);
  });

  test('picking gives the painted value, through the wrap too', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    await stroke(a.send, [60, 60], [61, 60]);
    const place = { pane: 'flat' as const, x: 60.5 + 256, y: 60.5 - 256 };
    await a.send({ type: 'question', id: 7, question: { ask: 'pick', sheetId: 's', place } });
    const picked = a.last('answer')!.answer as PickedValues;
    expect([picked!.x, picked!.y]).toEqual([60, 60]);
    expect(picked!.values['base-colour']![0]).toBeGreaterThan(0.6);
    expect(picked!.values.metallic).toEqual([0]);
  });

  test('a histogram is counted between other things, and counts what is there in the end', async () => {
    const a = makeEngine(new Server(startPiece()));
    await a.open();
    await stroke(a.send, [20, 20], [120, 120]);
    const filter = { type: 'levels' as const, black: 0, white: 1, gamma: 1, outBlack: 0, outWhite: 1 };
    const layer = newAdjustLayer('v', 'Levels', filter, ['base-colour']);
    const index = a.engine.open.piece.sheets[0].layers.length;
    await a.send({ type: 'edit', serial: 1, edit: { type: 'add-layer', sheetId: 's', index, layer }, label: 'Add Levels' });
    const ask = (id: number) =>
      a.send({ type: 'question', id, question: { ask: 'histogram', sheetId: 's', layerId: 'v', map: 'base-colour' } });
    const answered = (id: number) =>
      a.events.find((e) => e.type === 'answer' && e.id === id) as { answer: Histogram } | undefined;
    // Neither waits for the other.
    await ask(1);
    await stroke(a.send, [150, 150], [240, 150]);
    await until(() => answered(1) !== undefined);
    await ask(2);
    await until(() => answered(2) !== undefined);
    const { value, channels } = answered(2)!.answer;
    expect(value).toHaveLength(256);
    expect(channels).toHaveLength(3);
    expect(value.filter((v) => v > 0).length).toBeGreaterThan(3);
    await ask(3);
    await until(() => answered(3) !== undefined);
    expect(answered(3)!.answer).toEqual(answered(2)!.answer);
    // What has no adjustment has no histogram.
    await a.send({ type: 'question', id: 4, question: { ask: 'histogram', sheetId: 's', layerId: 'l', map: 'base-colour' } });
    await until(() => a.events.some((e) => e.type === 'answer' && e.id === 4));
    expect(answered(4)!.answer).toBeNull();
  });

  test('what is under the pen is seen before thumbnails are drawn', async () => {
    const a = makeEngine(new Server(startPiece()));
    await a.open();
    await a.engine.settled();
    const from = a.events.length;
    void a.send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [at(60, 60)], at: 1 });
    const wants = [{ of: 'paint' as const, ownerId: 'l', map: 'base-colour' as const }];
    void a.send({ type: 'question', id: 9, question: { ask: 'thumbnails', sheetId: 's', wants } });
    await until(() => a.events.some((e) => e.type === 'answer' && e.id === 9));
    const since = a.events.slice(from);
    const seen = since.findIndex((e) => e.type === 'pixels' && e.strokeAt === 1);
    expect(seen).toBeGreaterThanOrEqual(0);
    expect(seen).toBeLessThan(since.findIndex((e) => e.type === 'answer'));
    // And it shows the stroke.
    const { answer } = since.find((e) => e.type === 'answer') as { answer: { data: Uint8ClampedArray }[] };
    expect(answer[0].data.some((v) => v > 0)).toBe(true);
  });

  test('cancelling a stroke leaves no trace', async () => {
    const server = new Server(startPiece());
    const a = makeEngine(server);
    await a.open();
    await a.engine.settled();
    const before = shownPlanes(a.events);
    await a.send({ type: 'stroke-begin', sheetId: 's', layerId: 'l', brush, samples: [at(60, 60)], at: 1 });
    await a.engine.settled();
    await a.send({ type: 'stroke-cancel' });
    await a.engine.settled();
    expect(shownPlanes(a.events)).toEqual(before);
    expect(server.commits).toBe(0);
  });

  test('a piece file comes back as bytes that hold the piece', async () => {
    const a = makeEngine(new Server(startPiece()));
    await a.open();
    await a.send({ type: 'export-piece', id: 4 });
    await until(() => !!a.last('job-done'));
    const done = a.last('job-done')!;
    expect(done).toMatchObject({ id: 4, name: 'piece.brindle' });
    expect(readPieceFile(done.bytes).piece).toEqual(a.engine.open.piece);
  });

  test('a piece file takes the pictures of the pinboard with it; those that do not come are counted', async () => {
    const hang = (n: number) =>
      pinSchema.parse({ id: `n${n}`, name: 'Quay', picture: `${n}`.repeat(64), width: 4, height: 4, x: 0, y: 0, scale: 1 });
    const server = new Server({ ...startPiece(), pins: [hang(1), hang(2), hang(3), hang(1)] });
    server.pins.set('1'.repeat(64), Uint8Array.of(1));
    server.faults = (what) => (what === 'pinned' && server.pins.size === 0 ? 'lost' : null);
    const a = makeEngine(server);
    await a.open();
    await a.send({ type: 'export-piece', id: 4 });
    await until(() => !!a.last('job-done'));
    const done = a.last('job-done')!;
    expect([...readPieceFile(done.bytes).pinned!.keys()]).toEqual(['1'.repeat(64)]);
    expect(done.warning).toMatch(/^2 pictures of its pinboard/);
    // The server is away: the piece itself still comes.
    server.pins.clear();
    await a.send({ type: 'export-piece', id: 5 });
    await until(() => a.last('job-done')!.id === 5);
    expect(a.last('job-done')!.warning).toMatch(/^3 pictures/);
    expect(readPieceFile(a.last('job-done')!.bytes).piece.pins.length).toBe(4);
  });

  test('a dispatch comes back as an archive of the maps that were asked for, each of them readable', async () => {
    const a = makeEngine(new Server(startPiece()));
    await a.open();
    const options = dispatchSchema.parse({ maps: ['base-colour', 'roughness'], pattern: '{map}' });
    await a.send({ type: 'dispatch', id: 5, options });
    await until(() => !!a.last('job-done'));
    const done = a.last('job-done')!;
    expect(done.id).toBe(5);
    const files = unzipSync(done.bytes);
    expect(Object.keys(files).toSorted()).toEqual(['base-colour.png', 'roughness.png']);
    const { width, height } = a.engine.open.piece.sheets[0];
    expect(decodePng(files['roughness.png'])).toMatchObject({ width, height, channels: 1 });
    const colour = decodePng(files['base-colour.png']);
    const shown = evaluateWhole16({ sheet: a.engine.open.piece.sheets[0], store: a.engine.open.store }, 'base-colour');
    for (let i = 0; i < colour.data.length; i += 97) expect(Math.abs(colour.data[i] - shown[i] / 257)).toBeLessThanOrEqual(0.51);
  });
});

/** When what is drawn: a stroke's texels at once, others in batches; nothing before there is anything to show. */
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../core/document/factory';
import { planeKey } from '../../core/document/planes';
import type { Piece } from '../../core/document/schema';
import { newTexels, TILE_TEXELS, TileStore } from '../../core/tile/tiles';
import { Drawing } from '../drawing';
import type { Event } from '../protocol';

const SIZE = 128;

function bench() {
  const sheet = newSheet('s', 'Sheet', SIZE, SIZE, { maps: ['base-colour'] });
  sheet.layers = [newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.4, 0.6] }), newPaintedLayer('l', 'Hand', sheet.maps)];
  const piece = newPiece('p', 'P', 'canvas', [sheet]);
  const store = new TileStore();
  const events: Event[] = [];
  const later: (() => void)[] = [];
  const clock = { now: 0 };
  const stroke = { under: false };
  const drawing = new Drawing({
    store,
    post: (event) => void events.push(event),
    now: () => clock.now,
    later: (callback) => void later.push(callback),
    flush: () => stroke.under,
  });
  /** Until nothing is left to do. */
  const run = (most = 1000) => {
    for (; later.length && most > 0; most--) later.shift()!();
  };
  const paint = (value: number) => {
    const data = newTexels(TILE_TEXELS * 4);
    data.fill(65535).fill(value, 0, 64);
    store.set(planeKey('l', 'base-colour'), 0, { data, hash: null });
  };
  return { piece, store, events, clock, stroke, drawing, run, paint };
}
const pixelsOf = (events: Event[]) => events.flatMap((e) => (e.type === 'pixels' ? [e] : []));
const withOpacity = (piece: Piece, opacity: number): Piece => ({
  ...piece,
  sheets: piece.sheets.map((s) => ({ ...s, layers: s.layers.map((l) => (l.id === 'l' ? { ...l, opacity } : l)) })),
});

test('nothing is posted before a piece is shown; then all of it, and nothing twice', () => {
  const { piece, events, drawing, run } = bench();
  drawing.pump();
  run();
  expect(events).toEqual([]);
  drawing.begin(undefined, 's');
  drawing.show(piece);
  run();
  const first = pixelsOf(events).length;
  expect(first).toBeGreaterThan(0);
  expect(drawing.busy).toBe(false);
  drawing.show(piece);
  run();
  expect(pixelsOf(events)).toHaveLength(first);
});

test('what is looked at decides whether there is something else to see; where the pane lies does not', () => {
  const { drawing } = bench();
  const viewing = { look: null, solo: [], hot: 'l', visible: null };
  expect(drawing.view(viewing)).toBe(false);
  expect(drawing.view({ ...viewing, hot: 'g', visible: { x: 0, y: 0, width: 5, height: 5 } })).toBe(false);
  expect(drawing.view({ ...viewing, solo: ['l'] })).toBe(true);
  expect(drawing.view({ ...viewing, look: { kind: 'map', map: 'base-colour' } })).toBe(true);
});

test('a stroke’s texels go out with the time stamp of the pen, once', () => {
  const { piece, events, stroke, drawing, run, paint } = bench();
  drawing.begin(undefined, 's');
  drawing.show(piece);
  run();
  events.length = 0;
  paint(9000);
  stroke.under = true;
  const rect = { tile: 0, x0: 0, y0: 0, x1: 32, y1: 32 };
  drawing.painted('s', [planeKey('l', 'base-colour')], [rect], 1234);
  drawing.pump();
  run(3);
  const [sent, ...others] = pixelsOf(events);
  expect(sent.strokeAt).toBe(1234);
  expect(sent.patches.length).toBeGreaterThan(0);
  stroke.under = false;
  drawing.pump();
  run();
  expect([...others, ...pixelsOf(events).slice(1)].every((e) => e.strokeAt === null)).toBe(true);
});

test('an edit draws what it changes, and equals a drawing from nothing', () => {
  const { piece, store, events, drawing, run, paint } = bench();
  paint(20000);
  drawing.begin(undefined, 's');
  drawing.show(piece);
  run();
  events.length = 0;
  drawing.show(withOpacity(piece, 0.25));
  run();
  const last = pixelsOf(events).at(-1)!.patches.at(-1)!;
  const other: Event[] = [];
  const waiting: (() => void)[] = [];
  const fresh = new Drawing({
    ...{ store, now: () => 0, flush: () => false },
    post: (event) => void other.push(event),
    later: (callback) => void waiting.push(callback),
  });
  fresh.begin(undefined, 's');
  fresh.show(withOpacity(piece, 0.25));
  while (waiting.length) waiting.shift()!();
  const same = pixelsOf(other)
    .flatMap((e) => e.patches)
    .findLast((p) => p.plane === last.plane)!;
  expect(Buffer.from(last.data).equals(Buffer.from(same.data))).toBe(true);
});

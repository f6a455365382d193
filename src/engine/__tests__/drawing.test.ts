/** When what is drawn: a stroke's texels at once, others in batches; nothing before there is anything to show. */
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../core/document/factory';
import { planeKey } from '../../core/document/planes';
import type { Piece } from '../../core/document/schema';
import { newTexels, TILE, TILE_TEXELS, tileIndex, tilesOf, tileX, tileY, TileStore, type TileIndex } from '../../core/tile/tiles';
import { Drawing } from '../drawing';
import { partsOf } from '../../core/tile/mips';
import type { Event, PixelPatch } from '../protocol';
import { Shelf } from '../shelf';
import { Disk } from '../testing/disk';

const SIZE = 128;

function bench(size = SIZE) {
  const sheet = newSheet('s', 'Sheet', size, size, { maps: ['base-colour'] });
  sheet.layers = [newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.4, 0.6] }), newPaintedLayer('l', 'Hand', sheet.maps)];
  const piece = newPiece('p', 'P', 'canvas', [sheet]);
  const store = new TileStore();
  const events: Event[] = [];
  const later: (() => void)[] = [];
  const clock = { now: 0, step: 0 };
  const stroke = { under: false };
  const drawing = new Drawing({
    store,
    post: (event) => void events.push(event),
    // Each look at the clock takes so long.
    now: () => (clock.now += clock.step),
    later: (callback) => void later.push(callback),
    flush: () => stroke.under,
  });
  /** Until nothing is left to do. */
  const run = (most = 1000) => {
    for (; later.length && most > 0; most--) later.shift()!();
  };
  const paint = (value: number, tile: TileIndex = 0, hash: string | null = null) => {
    const data = newTexels(TILE_TEXELS * 4);
    data.fill(65535).fill(value, 0, 64);
    store.set(planeKey('l', 'base-colour'), tile, { data, hash });
  };
  /** Part of a stroke across a tile. */
  const strokeOn = (tile: TileIndex, at: number) => {
    stroke.under = true;
    drawing.painted('s', [planeKey('l', 'base-colour')], [{ tile, x0: 0, y0: 0, x1: 32, y1: 32 }], at);
    drawing.pump();
  };
  return { piece, store, events, clock, stroke, drawing, run, paint, strokeOn };
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
  const { piece, events, stroke, drawing, run, paint, strokeOn } = bench();
  drawing.begin(undefined, 's');
  drawing.show(piece);
  run();
  events.length = 0;
  paint(9000);
  strokeOn(0, 1234);
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

/** Whether a batch has texels of its first level in a tile. */
const shows = ({ patches }: { patches: PixelPatch[] }, tile: TileIndex) =>
  patches.some((patch) =>
    [...partsOf(patch)].some(
      ({ level, rect }) =>
        level === 0 &&
        rect.x <= tileX(tile) * TILE &&
        rect.x + rect.width > tileX(tile) * TILE &&
        rect.y <= tileY(tile) * TILE &&
        rect.y + rect.height > tileY(tile) * TILE,
    ),
  );

/** A large sheet after so many slices of drawing, a tile each; what was posted of it is forgotten. */
function partlyDrawn(slices: number) {
  const b = bench(1024);
  for (const tile of tilesOf(1024, 1024)) b.paint(tile % 65536, tile);
  b.clock.step = 20;
  b.drawing.begin(undefined, 's');
  b.drawing.show(b.piece);
  b.run(slices);
  b.events.length = 0;
  return b;
}

test('a stroke while much is still to be drawn: its texels come first, and its time stamp with them', () => {
  const { events, drawing, run, paint, strokeOn } = partlyDrawn(4);
  const last = tileIndex(7, 7);
  paint(9000, last);
  strokeOn(last, 1234);
  run(1);
  expect(drawing.display.pending).toBeGreaterThan(20);
  const [sent, ...more] = pixelsOf(events);
  expect(more).toEqual([]);
  expect(sent.strokeAt).toBe(1234);
  expect(shows(sent, last)).toBe(true);
  // What comes behind is none of the pen's.
  run(3);
  expect(pixelsOf(events).length).toBeGreaterThan(1);
  expect(
    pixelsOf(events)
      .slice(1)
      .every((e) => e.strokeAt === null),
  ).toBe(true);
});

test('texels of another tile do not say that the pen is seen', () => {
  const { events, drawing, run, strokeOn } = partlyDrawn(2);
  // Nothing that is shown hangs on this plane.
  drawing.painted('s', [planeKey('other', 'base-colour')], [{ tile: 0, x0: 0, y0: 0, x1: 32, y1: 32 }], 1234);
  drawing.pump();
  run(5);
  expect(drawing.display.pending).toBeGreaterThan(20);
  expect(pixelsOf(events).length).toBeGreaterThan(0);
  expect(pixelsOf(events).every((e) => e.strokeAt === null)).toBe(true);
  strokeOn(0, 1235);
  run();
  expect(pixelsOf(events).some((e) => e.strokeAt === 1235)).toBe(true);
});

test('after a stroke made at once what was kept is still read, not drawn coarsely and again', () => {
  const disk = new Disk();
  const address = (tile: TileIndex) => tile.toString(16).padStart(64, '0');
  const open = () => {
    const b = bench(1024);
    for (const tile of tilesOf(1024, 1024)) b.paint(tile % 65536, tile, address(tile));
    b.drawing.display.shelves.set('s', new Shelf(disk));
    b.drawing.begin(undefined, 's');
    b.drawing.show(b.piece);
    return b;
  };
  const before = open();
  const warmBefore = jest.spyOn(before.drawing.display, 'warmUp');
  before.run();
  // There was nothing to be read: all was drawn anyway.
  expect(warmBefore).not.toHaveBeenCalled();
  before.drawing.keep();
  before.run();
  before.drawing.display.shelves.get('s')!.flush();

  const { piece, events, clock, stroke, drawing, run, paint, strokeOn } = open();
  const warm = jest.spyOn(drawing.display, 'warmUp');
  clock.step = 20;
  const last = tileIndex(7, 7);
  run(2);
  expect(warm).toHaveBeenCalledTimes(1);
  paint(9000, last);
  strokeOn(last, 1234);
  run(2);
  stroke.under = false;
  drawing.show(piece);
  const coarse = jest.spyOn(drawing.display, 'coarse');
  const read = jest.spyOn(drawing.display.shelves.get('s')!, 'read');
  run();
  expect(drawing.busy).toBe(false);
  expect(coarse).not.toHaveBeenCalled();
  expect(read.mock.results.filter(({ value }) => value !== null).length).toBeGreaterThan(40);
  expect(pixelsOf(events).at(-1)!.exact).toBe(true);
});

/** When what is drawn: a stroke's texels at once, others in batches; nothing before there is anything to show. */
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../../core/document/factory';
import { planeKey } from '../../../core/document/planes';
import type { Piece } from '../../../core/document/schema';
import {
  newTexels,
  TILE,
  TILE_TEXELS,
  tileIndex,
  tilesOf,
  tileX,
  tileY,
  TileStore,
  type TileIndex,
} from '../../../core/tile/tiles';
import { Show } from '../show';
import { partsOf } from '../../../core/tile/mips';
import type { Event, PixelPatch } from '../../protocol';
import { Shelf } from '../../cache/shelf';
import { Disk } from '../../testing/disk';

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
  const show = new Show({
    store,
    post: (event) => void events.push(event),
    // Each look at the clock takes so long.
    now: () => (clock.now += clock.step),
    later: (callback) => void later.push(callback),
    pen: {
      get isDown() {
        return stroke.under;
      },
      flush: () => null,
    },
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
    show.painted({ sheetId: 's', planes: [planeKey('l', 'base-colour')], rects: [{ tile, x0: 0, y0: 0, x1: 32, y1: 32 }], at });
    show.schedule();
  };
  return { piece, store, events, clock, stroke, show, run, paint, strokeOn };
}
const pixelsOf = (events: Event[]) => events.flatMap((e) => (e.type === 'pixels' ? [e] : []));
const withOpacity = (piece: Piece, opacity: number): Piece => ({
  ...piece,
  sheets: piece.sheets.map((s) => ({ ...s, layers: s.layers.map((l) => (l.id === 'l' ? { ...l, opacity } : l)) })),
});

test('nothing is posted before a piece is shown; then all of it, and nothing twice', () => {
  const { piece, events, show, run } = bench();
  show.schedule();
  run();
  expect(events).toEqual([]);
  show.begin(undefined, 's');
  show.show(piece);
  run();
  const first = pixelsOf(events).length;
  expect(first).toBeGreaterThan(0);
  expect(show.busy).toBe(false);
  show.show(piece);
  run();
  expect(pixelsOf(events)).toHaveLength(first);
});

test('what is looked at decides whether there is something else to see; where the pane lies does not', () => {
  const { show } = bench();
  const viewing = { look: null, solo: [], hot: 'l', visible: null };
  expect(show.view(viewing)).toBe(false);
  expect(show.view({ ...viewing, hot: 'g', visible: { x: 0, y: 0, width: 5, height: 5 } })).toBe(false);
  expect(show.view({ ...viewing, solo: ['l'] })).toBe(true);
  expect(show.view({ ...viewing, look: { kind: 'map', map: 'base-colour' } })).toBe(true);
});

test('a stroke’s texels go out with the time stamp of the pen, once', () => {
  const { piece, events, stroke, show, run, paint, strokeOn } = bench();
  show.begin(undefined, 's');
  show.show(piece);
  run();
  events.length = 0;
  paint(9000);
  strokeOn(0, 1234);
  run(3);
  const [sent, ...others] = pixelsOf(events);
  expect(sent.strokeAt).toBe(1234);
  expect(sent.patches.length).toBeGreaterThan(0);
  stroke.under = false;
  show.schedule();
  run();
  expect([...others, ...pixelsOf(events).slice(1)].every((e) => e.strokeAt === null)).toBe(true);
});

test('an edit draws what it changes, and equals a show from nothing', () => {
  const { piece, store, events, show, run, paint } = bench();
  paint(20000);
  show.begin(undefined, 's');
  show.show(piece);
  run();
  events.length = 0;
  show.show(withOpacity(piece, 0.25));
  run();
  const last = pixelsOf(events).at(-1)!.patches.at(-1)!;
  const other: Event[] = [];
  const waiting: (() => void)[] = [];
  const fresh = new Show({
    ...{ store, now: () => 0, pen: { isDown: false, flush: () => null } },
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

/** A large sheet after so many slices of show, a tile each; what was posted of it is forgotten. */
function partlyDrawn(slices: number) {
  const b = bench(1024);
  for (const tile of tilesOf(1024, 1024)) b.paint(tile % 65536, tile);
  b.clock.step = 20;
  b.show.begin(undefined, 's');
  b.show.show(b.piece);
  b.run(slices);
  b.events.length = 0;
  return b;
}

test('a stroke while much is still to be drawn: its texels come first, and its time stamp with them', () => {
  const { events, show, run, paint, strokeOn } = partlyDrawn(4);
  const last = tileIndex(7, 7);
  paint(9000, last);
  strokeOn(last, 1234);
  run(1);
  expect(show.renderer.planes.pending).toBeGreaterThan(20);
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
  const { events, show, run, strokeOn } = partlyDrawn(2);
  // Nothing that is shown hangs on this plane.
  const rects = [{ tile: 0 as TileIndex, x0: 0, y0: 0, x1: 32, y1: 32 }];
  show.painted({ sheetId: 's', planes: [planeKey('other', 'base-colour')], rects, at: 1234 });
  show.schedule();
  run(5);
  expect(show.renderer.planes.pending).toBeGreaterThan(20);
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
    b.show.renderer.cached.shelves.set('s', new Shelf(disk));
    b.show.begin(undefined, 's');
    b.show.show(b.piece);
    return b;
  };
  const before = open();
  const warmBefore = jest.spyOn(before.show.renderer.here, 'warmUp');
  before.run();
  // There was nothing to be read: all was drawn anyway.
  expect(warmBefore).not.toHaveBeenCalled();
  for (const _ of before.show.renderer.cached.store());
  before.show.renderer.cached.shelves.get('s')!.flush();

  const { piece, events, clock, stroke, show, run, paint, strokeOn } = open();
  const warm = jest.spyOn(show.renderer.here, 'warmUp');
  clock.step = 20;
  const last = tileIndex(7, 7);
  run(2);
  expect(warm).toHaveBeenCalledTimes(1);
  paint(9000, last);
  strokeOn(last, 1234);
  run(2);
  stroke.under = false;
  show.show(piece);
  const coarse = jest.spyOn(show.renderer.coarse, 'render');
  const read = jest.spyOn(show.renderer.cached.shelves.get('s')!, 'read');
  run();
  expect(show.busy).toBe(false);
  expect(coarse).not.toHaveBeenCalled();
  expect(read.mock.results.filter(({ value }) => value !== null).length).toBeGreaterThan(40);
  expect(pixelsOf(events).at(-1)!.exact).toBe(true);
});

/** The buoy token: 64 by 64 texels, placed one by one and in dithers, by recorded strokes that keep to a palette of sixteen. */
import '../src/core/compute';
import { hexToSrgb } from '../src/core/colour/transfer';
import { newPaintedLayer, newPiece, newSheet } from '../src/core/document/factory';
import { brushSchema } from '../src/core/hand/brush';
import type { Dither } from '../src/core/hand/dither';
import { replay, type Recording } from '../src/core/hand/replay';
import type { FlatSample } from '../src/core/hand/sample';
import { readModel } from '../src/core/mesh/readModel';
import { writeGlb } from '../src/core/mesh/writeGlb';
import type { PieceBundle } from '../src/core/piece/pieceFile';
import { PieceSurfaces } from '../src/core/strata/pieceSurfaces';
import { TileStore } from '../src/core/tile/tiles';
import { onMaterial } from '../src/core/piece/create';
import { AT, BUOY_TEXELS, buoyModel, type Rect } from './buoyModel';

/** From dark to light within each hue. */
const C = {
  ink: '#1b1a2b',
  wine: '#4f1e31',
  red: '#a3303a',
  coral: '#dd5a46',
  peach: '#f6a27a',
  umber: '#4b3327',
  wood: '#84583a',
  straw: '#c79a5b',
  cream: '#f5e3b4',
  deep: '#17364a',
  teal: '#22717c',
  sea: '#4fb3a5',
  foam: '#c2ead0',
  slate: '#4a5566',
  steel: '#8794a3',
  glow: '#ffd95e',
} as const;
const PALETTE = Object.values(C);

const at = (x: number, y: number): FlatSample => ({
  ...{ pane: 'flat', x, y, texelsPerPixel: 0.1, pressure: 1, tiltX: 0, tiltY: 0, time: 0 },
});

/** A hand that sets texels: all places in texels of the sheet. */
class Hand {
  readonly strokes: Recording['strokes'] = [];
  constructor(private layer: string) {}

  private stroke(colour: string, samples: FlatSample[], over: object, values: Record<string, number> = {}): void {
    const { tip = {}, ...rest } = over as { tip?: object };
    const maps = Object.entries(values).map(([map, v]) => [map, { on: true, value: [v], amount: 1 }]);
    const brush = brushSchema.parse({
      ...{ size: 1, sizeUnit: 'texel', hardness: 1, flow: 1, spacing: 0.25, smoothing: 0, vary: [], reach: 'all' },
      only: PALETTE,
      tip: { shape: 'square', grid: true, ...tip },
      writes: { 'base-colour': { on: true, value: hexToSrgb(colour), amount: 1 }, ...Object.fromEntries(maps) },
      ...rest,
    });
    this.strokes.push({ layer: this.layer, brush, seed: this.strokes.length + 1, samples });
  }

  fill({ x, y, w, h }: Rect, colour: string, values?: Record<string, number>): void {
    this.stroke(colour, [at(x, y), at(x + w, y + h)], { area: { type: 'shape', figure: 'rectangle' } }, values);
  }

  /** From texel to texel. */
  line(colour: string, ...points: [number, number][]): void {
    this.stroke(
      colour,
      points.map(([x, y]) => at(x + 0.5, y + 0.5)),
      {},
    );
  }

  dots(colour: string, ...points: [number, number][]): void {
    for (const [x, y] of points) this.stroke(colour, [at(x + 0.5, y + 0.5)], {});
  }

  /** A pattern over a rectangle, so dense. */
  dither({ x, y, w, h }: Rect, colour: string, density: number, dither: Dither = 'even'): void {
    this.stroke(colour, [at(x, y), at(x + w, y + h)], {
      ...{ area: { type: 'shape', figure: 'rectangle' }, flow: density, tip: { dither } },
    });
  }
}

const part = ({ x, y }: Rect, dx: number, dy: number, w: number, h: number): Rect => ({ x: x + dx, y: y + dy, w, h });
/** A whole thing with its margin, so that no other colour shows at its seams. */
const wide = ({ x, y, w, h }: Rect, by = 1): Rect => ({ x: x - by, y: y - by, w: w + 2 * by, h: h + 2 * by });

const SIDE = 6;
/** How the eight sides of the hull turn away from a light at the front's left: −1 dark … 1 light. The front is the fourth and fifth. */
const TURNED = [-1, -1, 0, 1, 1, 0, -1, -1] as const;

function base(hand: Hand): void {
  const paint = { roughness: 0.55, metallic: 0 };
  hand.fill(wide(AT.hull), C.coral, paint);
  hand.fill(wide(AT.keel), C.deep, { roughness: 0.8, metallic: 0 });
  hand.fill(wide(AT.foot), C.ink, { roughness: 0.9, metallic: 0 });
  hand.fill(wide(AT.edge), C.steel, { roughness: 0.35, metallic: 1 });
  hand.fill(wide(AT.rope), C.straw, { roughness: 0.95, metallic: 0 });
  hand.fill(wide(AT.deck), C.wood, { roughness: 0.85, metallic: 0 });
  hand.fill(wide(AT.tower), C.cream, paint);
  hand.fill(wide(AT.cap), C.steel, { roughness: 0.35, metallic: 1 });
  hand.fill(wide(AT.capTop), C.slate, { roughness: 0.4, metallic: 1 });
  hand.fill(wide(AT.capBelow), C.ink, { roughness: 0.6, metallic: 1 });
  hand.fill(wide(AT.glass), C.sea, { roughness: 0.1, metallic: 0 });
  hand.fill(wide(AT.mark), C.red, paint);
}

function shade(hand: Hand): void {
  const { hull, keel, tower, rope, mark, glass, cap, edge } = AT;
  TURNED.forEach((turned, n) => {
    const side = part(hull, n * SIDE, 0, SIDE, hull.h);
    if (turned < 0) {
      hand.fill(side, C.red);
      hand.dither(part(side, 0, 3, SIDE, 2), C.wine, 0.25);
    }
    if (turned === 0) hand.dither(part(side, n === 2 ? 0 : 3, 0, 3, hull.h), C.red, 0.5);
    // Its edges catch the light above, and lie in shade where the next side begins.
    hand.line(turned < 0 ? C.coral : C.peach, [side.x, side.y], [side.x + SIDE - 1, side.y]);
    hand.line(turned < 0 ? C.wine : C.red, [side.x + SIDE - 1, side.y + 1], [side.x + SIDE - 1, side.y + hull.h - 1]);
    // Under water: weed in the dark, a light line of salt above it.
    hand.line(turned < 0 ? C.teal : C.sea, [keel.x + n * SIDE, keel.y], [keel.x + n * SIDE + SIDE - 1, keel.y]);
  });
  hand.dither(part(keel, 0, 1, keel.w, 2), C.teal, 0.5, 'dots');
  hand.dither(part(keel, 0, 3, keel.w, 1), C.ink, 0.75);
  // Over the rope the hull is dark, and it stays so below.
  hand.dither(part(hull, 0, 4, hull.w, 1), C.wine, 0.5);
  hand.fill(part(hull, 0, 5, hull.w, 3), C.wine);
  // The rope: its strands, dark below and light on top.
  for (let x = rope.x; x < rope.x + rope.w; x += 4) {
    hand.line(C.wood, [x, rope.y + 3], [x + 3, rope.y]);
    hand.line(C.cream, [x + 2, rope.y + 2], [x + 3, rope.y + 1]);
  }
  hand.line(C.umber, [rope.x, rope.y + 3], [rope.x + rope.w - 1, rope.y + 3]);
  hand.line(C.foam, [edge.x, edge.y], [edge.x + edge.w - 1, edge.y]);
  hand.dither(part(edge, 0, 1, edge.w, 1), C.slate, 0.5);
  // The tower: red bands that go around it aslant, then its sides.
  for (let n = 0; n < 8; n++) {
    const x = tower.x + n * 3;
    for (let band = 0; band < 3; band++) {
      const y = tower.y + 1 + band * 6 - Math.floor(n * 0.75);
      for (const dy of [y, y + 6]) {
        const top = Math.max(tower.y, dy);
        const bottom = Math.min(tower.y + tower.h, dy + 3);
        if (bottom <= top) continue;
        hand.fill({ x, y: top, w: 3, h: bottom - top }, TURNED[n] < 0 ? C.red : C.coral);
        if (dy + 3 === bottom) hand.line(TURNED[n] < 0 ? C.wine : C.red, [x, bottom - 1], [x + 2, bottom - 1]);
      }
    }
  }
  for (let n = 0; n < 8; n++) {
    const x = tower.x + n * 3;
    const turned = TURNED[n];
    const right = n >= 4;
    if (turned < 0) hand.dither(part(tower, n * 3, 0, 3, tower.h), C.wine, 0.25);
    if (turned === 0) hand.dither(part(tower, n * 3 + (right ? 1 : 0), 0, 2, tower.h), C.straw, 0.25);
    // The side's edge towards the light.
    if (turned > 0) hand.line(C.foam, [x, tower.y], [x, tower.y + tower.h - 1]);
  }
  hand.dither(part(tower, 0, 0, tower.w, 2), C.wine, 0.5, 'rows');
  hand.dither(part(tower, 0, tower.h - 2, tower.w, 2), C.umber, 0.5);
  // The cap and its bolts.
  hand.line(C.foam, [cap.x, cap.y], [cap.x + cap.w - 1, cap.y]);
  hand.line(C.slate, [cap.x, cap.y + 2], [cap.x + cap.w - 1, cap.y + 2]);
  for (let x = cap.x + 1; x < cap.x + cap.w; x += 3) hand.dots(C.ink, [x, cap.y + 1]);
  // The lamp: dark glass at its sides, a glow in the middle of what is seen.
  hand.fill(part(glass, 0, 0, 5, 6), C.teal);
  hand.fill(part(glass, 11, 0, 5, 6), C.teal);
  hand.dither(part(glass, 4, 0, 8, 6), C.glow, 0.75);
  hand.fill(part(glass, 6, 1, 4, 4), C.glow);
  hand.line(C.cream, [glass.x + 6, glass.y + 2], [glass.x + 6, glass.y + 3]);
  for (let x = glass.x; x < glass.x + glass.w; x += 4) hand.line(C.deep, [x, glass.y], [x, glass.y + 5]);
  hand.line(C.foam, [glass.x + 5, glass.y + 1], [glass.x + 5, glass.y + 2]);
  // The mark on top.
  for (let n = 0; n < 8; n++) {
    const x = mark.x + n * 2;
    if (TURNED[n] < 0) hand.fill({ x, y: mark.y, w: 2, h: 6 }, C.wine);
    if (TURNED[n] > 0) hand.fill({ x, y: mark.y, w: 2, h: 5 }, C.coral);
  }
  hand.line(C.peach, [mark.x + 6, mark.y], [mark.x + 6, mark.y + 4]);
  hand.line(C.ink, [mark.x, mark.y + 5], [mark.x + mark.w - 1, mark.y + 5]);
}

/** Four by five texels. */
const SEVEN: [number, number][] = [
  [0, 0],
  [1, 0],
  [2, 0],
  [3, 0],
  [3, 1],
  [2, 2],
  [2, 3],
  [1, 4],
];

function details(hand: Hand): void {
  const { hull, deck, capTop } = AT;
  // A plate with the buoy's number over the two sides at the front.
  const plate = part(hull, 20, 0, 8, 5);
  hand.fill(plate, C.cream);
  hand.line(C.straw, [plate.x, plate.y + 4], [plate.x + 7, plate.y + 4]);
  hand.line(C.foam, [plate.x, plate.y], [plate.x + 7, plate.y]);
  hand.dots(C.deep, ...SEVEN.map(([x, y]): [number, number] => [plate.x + 2 + x, plate.y + y]));
  // Rust runs down from the plate's bolts and the rim.
  for (const [x, length] of [
    [3, 3],
    [15, 2],
    [31, 3],
    [37, 2],
    [44, 3],
  ]) {
    hand.line(C.umber, [hull.x + x, hull.y], [hull.x + x, hull.y + length - 1]);
    hand.dots(C.wood, [hull.x + x, hull.y + length]);
  }
  // Planks.
  for (let y = deck.y + 2; y < deck.y + deck.h; y += 3) {
    hand.line(C.umber, [deck.x, y], [deck.x + deck.w - 1, y]);
    hand.line(C.straw, [deck.x + ((y * 5) % 7), y + 1], [deck.x + 4 + ((y * 5) % 7), y + 1]);
  }
  hand.dots(C.ink, [deck.x + 3, deck.y + 4], [deck.x + 10, deck.y + 4], [deck.x + 3, deck.y + 10], [deck.x + 10, deck.y + 10]);
  // Where the tower stands it is dark.
  hand.dither(part(deck, 2, 2, 10, 10), C.umber, 0.5);
  // Gulls were on the cap.
  hand.dots(C.foam, [capTop.x + 2, capTop.y + 3], [capTop.x + 3, capTop.y + 3], [capTop.x + 7, capTop.y + 6]);
  hand.dither(part(capTop, 0, 6, 10, 4), C.ink, 0.25);
}

export async function buoyBundle(): Promise<PieceBundle> {
  const modelGlb = await writeGlb(buoyModel());
  const model = await readModel(new Map([['buoy.glb', modelGlb]]));
  const store = new TileStore();
  const sheet = newSheet('buoy-sheet', 'Buoy', BUOY_TEXELS, BUOY_TEXELS, {
    ...onMaterial(model, 0),
    maps: ['base-colour', 'roughness', 'metallic'],
  });
  const layers = [
    ['by-base', 'Base', base],
    ['by-shade', 'Light and shade', shade],
    ['by-details', 'Plate, rust, planks', details],
  ] as const;
  sheet.layers = [...layers.map(([id, name]) => newPaintedLayer(id, name)), newPaintedLayer('by-hand', 'Hand')];
  const piece = newPiece('demo-buoy', 'Buoy token', 'model', [sheet], {
    model: { blob: '', uvSet: 0 },
    palette: [...PALETTE],
    onlyPalette: true,
  });
  const surfaces = new PieceSurfaces(model, 0);
  for (const [id, , paint] of layers) {
    const hand = new Hand(id);
    paint(hand);
    replay(piece, store, surfaces, { version: 1, strokes: hand.strokes });
  }
  return { piece, store, modelGlb, thumbnailPng: null };
}

/**
 * The quay setts of Saltglass: a tileable pavement, 1024 texels to the metre, built by rule: a bond of stones, noise
 * for what they are made of, recipes for sand, moss and wet, and a few strokes by hand at the end.
 */
import { brushSchema, type Brush } from '../src/core/hand/brush';
import type { Sample } from '../src/core/hand/sample';
import { replay, type Recording } from '../src/core/hand/replay';
import type { PieceBundle } from '../src/core/piece/pieceFile';
import { newAdjustLayer, newGroup, newPaintedLayer, newPiece, newSheet } from '../src/core/document/factory';
import type { Layer, Mask } from '../src/core/document/schema';
import { TileStore } from '../src/core/tile/tiles';
import type { MadeOf } from '../src/core/kinds/sources';
import { seededRandom } from '../src/core/testing/models';
import { rackBrush } from './rackBrush';
import { coat, levels, made, mask, masked, open, rule, step, within } from './rules';

/** The one bond that everything follows: rows that drift, stones of uneven length with round corners. */
const BOND = { seed: 12, rows: 10, aspect: 1.43, bond: 'drifting', uneven: 0.5, round: 0.75, gap: 0.045, wobble: 0.16 } as const;
const stones = (over: Partial<MadeOf<'bricks'>>) => made('bricks', { ...BOND, ...over });

const GREYS = ['#5f646c', '#7d7a74', '#6f7178', '#8a8378', '#66625c', '#747c82', '#7a6f66'];

const MASKS: Mask[] = [
  mask('qm-stones', 'The stones', [
    step('qm-stones-1', rule(stones({ show: 'relief', bevel: 0.1 })), 'normal', [levels(0.25, 0.55)]),
    // Their outlines crumble a little.
    step('qm-stones-2', rule(made('clouds', { seed: 3, scale: 40, octaves: 4 })), 'multiply', [levels(0.1, 0.3)], {
      amount: 0.9,
    }),
  ]),
  mask('qm-worn', 'Worn edges', [
    step('qm-worn-1', rule(stones({ show: 'relief', bevel: 0.3 })), 'normal', [
      { type: 'band', centre: 0.72, width: 0.16, soften: 0.22 },
    ]),
    step('qm-worn-2', rule(made('clouds', { seed: 8, scale: 14, octaves: 5 })), 'multiply', [levels(0.4, 0.62)]),
  ]),
  mask('qm-pits', 'Pits', [
    step('qm-pits-1', rule(made('spots', { seed: 4, scale: 56, density: 0.4, size: 0.34, vary: 0.8, soften: 0.6, warp: 0.35 }))),
    step('qm-pits-2', rule(made('clouds', { seed: 21, scale: 7, octaves: 3 })), 'multiply', [levels(0.4, 0.6)]),
  ]),
  mask('qm-cracks', 'Cracked stones', [
    step('qm-cracks-1', rule(made('cracks', { seed: 5, scale: 8, width: 0.012, broken: 0.62, warp: 0.55 }))),
    step('qm-cracks-2', rule(stones({ show: 'tones' })), 'multiply', [levels(0.55, 0.62)]),
  ]),
  // Silt lies where the setts are lower than it: mixing by height.
  mask('qm-silt', 'In the gaps', [step('qm-silt-1', { type: 'contact', offset: -0.02, contrast: 0.86, line: 0 }, 'normal')]),
  mask('qm-moss', 'Damp joints', [
    step('qm-moss-1', rule(stones({ show: 'relief', bevel: 0.16 })), 'normal', [{ type: 'invert' }, levels(0.35, 0.9)]),
    step('qm-moss-2', rule(made('clouds', { seed: 41, scale: 4, octaves: 4 })), 'multiply', [levels(0.48, 0.6)]),
    step('qm-moss-3', rule(made('clouds', { seed: 43, scale: 90, octaves: 3 })), 'multiply', [levels(0.28, 0.52)]),
  ]),
  mask('qm-wet', 'Spray, still wet', [
    step('qm-wet-1', rule(made('smudges', { seed: 51, scale: 3, amount: 0.42, soften: 0.7, warp: 0.4 })), 'normal', [
      levels(0, 0.7),
    ]),
    step('qm-wet-2', { type: 'below', map: 'height', by: 'luminance' }, 'multiply', [{ type: 'invert' }, levels(0.2, 0.5)], {
      amount: 0.65,
    }),
  ]),
  mask('qm-lichen', 'Lichen', [
    step(
      'qm-lichen-1',
      rule(made('spots', { seed: 61, scale: 22, density: 0.2, size: 0.5, vary: 0.7, soften: 0.15, warp: 0.55 })),
    ),
    step('qm-lichen-2', rule(made('clouds', { seed: 62, scale: 70, octaves: 3 })), 'multiply', [levels(0.35, 0.6)]),
    step('qm-lichen-3', { type: 'mask', of: 'qm-stones' }),
  ]),
];

function stack(): Layer[] {
  const bed = within(
    open('qs-bed', 'Bed'),
    coat(
      'qs-mortar',
      'Mortar and sand',
      {
        'base-colour': [
          { at: 0.2, colour: '#3b3529' },
          { at: 0.55, colour: '#5d543f' },
          { at: 0.85, colour: '#7d7257' },
        ],
        height: [0.28, 0.38],
        roughness: [0.97, 0.86],
      },
      made('clouds', { seed: 15, scale: 48, octaves: 5, gain: 0.6, contrast: 0.2 }),
    ),
    coat(
      'qs-grit',
      'Grit',
      { 'base-colour': ['#4a4232', '#8d8163'], height: [0.49, 0.53] },
      made('grain', { seed: 2, scale: 460, soften: 0.4 }),
      null,
      {
        opacity: 0.3,
      },
    ),
  );
  const worn = coat('qs-worn', 'Worn edges', { 'base-colour': '#b4b1a6', roughness: 0.5 }, null, null, {
    opacity: 0.5,
    blend: 'soft-light',
  });
  const deeper = newAdjustLayer(
    'qs-contrast',
    'Deeper tones',
    {
      type: 'curve',
      points: [
        [0, 0],
        [0.3, 0.25],
        [0.7, 0.75],
        [1, 1],
      ],
    },
    ['base-colour'],
  );
  const stone = within(
    newGroup('qs-stone', 'Setts'),
    coat(
      'qs-form',
      'Stone by stone',
      { 'base-colour': GREYS.map((colour, n) => ({ at: n / (GREYS.length - 1), colour })), roughness: 0.72 },
      stones({ show: 'tones' }),
    ),
    coat('qs-dome', 'Domes', { height: [0.5, 0.86] }, stones({ show: 'relief', bevel: 0.42, vary: 0.22, tilt: 0.55 })),
    coat(
      'qs-cloud',
      'Patches',
      { 'base-colour': ['#39383a', '#c9c2b4'], height: [0.45, 0.55] },
      made('clouds', { seed: 27, scale: 11, octaves: 4, contrast: 0.25 }),
      null,
      {
        opacity: 0.7,
        blend: 'soft-light',
      },
    ),
    coat(
      'qs-grain',
      'Granite grain',
      { 'base-colour': ['#2c2c2e', '#d8d4ca'], height: [0.465, 0.535], roughness: [0.8, 0.6] },
      made('clouds', { seed: 25, scale: 110, octaves: 4, gain: 0.65, contrast: 0.1 }),
      null,
      {
        opacity: 0.6,
        blend: 'overlay',
      },
    ),
    coat(
      'qs-flecks',
      'Flecks',
      { 'base-colour': ['#3a3b3f', '#e6e1d6'] },
      made('cells', { seed: 7, scale: 150, show: 'ids' }),
      null,
      { opacity: 0.32, blend: 'soft-light' },
    ),
    masked(
      coat('qs-pits', 'Pits', { 'base-colour': '#3d3b39', height: 0.43, roughness: 0.9 }, null, null, { opacity: 0.75 }),
      'qm-pits',
    ),
    masked(coat('qs-cracks', 'Cracks', { 'base-colour': '#2b2926', height: 0.4 }, null, null, { opacity: 0.85 }), 'qm-cracks'),
    masked(worn, 'qm-worn'),
    masked(
      coat(
        'qs-lichen',
        'Lichen',
        { 'base-colour': ['#8c8a5e', '#c2bd93'], roughness: 0.95, height: [0.5, 0.53] },
        made('clouds', { seed: 64, scale: 80 }),
        null,
        { opacity: 0.8 },
      ),
      'qm-lichen',
    ),
    deeper,
  );
  const damp = within(
    open('qs-damp', 'Weather', { tag: 4 }),
    masked(
      coat(
        'qs-silt',
        'Washed-in silt',
        { 'base-colour': ['#4d4534', '#74694e'], height: [0.49, 0.53], roughness: [0.98, 0.88] },
        made('clouds', { seed: 71, scale: 60, octaves: 4 }),
      ),
      'qm-silt',
    ),
    masked(
      coat(
        'qs-moss',
        'Moss in the joints',
        {
          'base-colour': [
            { at: 0.2, colour: '#28331a' },
            { at: 0.6, colour: '#4d5c28' },
            { at: 0.9, colour: '#7b8440' },
          ],
          height: [0.5, 0.6],
          roughness: 0.97,
        },
        made('clouds', { seed: 45, scale: 130, octaves: 3, gain: 0.6, contrast: 0.3 }),
      ),
      'qm-moss',
    ),
    masked(
      coat('qs-wet', 'Spray, still wet', { 'base-colour': '#5b5f66', roughness: 0.16 }, null, null, {
        opacity: 0.8,
        blend: 'multiply',
      }),
      'qm-wet',
    ),
  );
  return [
    ...bed,
    ...stone.map((l) => (l.id === 'qs-stone' ? masked(l, 'qm-stones') : l)),
    ...damp,
    newPaintedLayer('qs-ruts', 'Hand: ruts of carts', ['height']),
    newPaintedLayer('qs-hand', 'Hand: chalk and scuffs', ['base-colour', 'roughness']),
    newPaintedLayer('qs-leaves', 'Hand: leaves blown in', ['base-colour', 'height', 'roughness']),
  ];
}

/** Chalk lines of a game and the scuffs of crates. */
function strokes(size: number) {
  const random = seededRandom(77);
  const line = (points: [number, number][], wide: number, colour: [number, number, number], opacity: number, seed: number) => ({
    sheet: 'setts-canvas',
    layer: 'qs-hand',
    seed,
    brush: brushSchema.parse({
      size: wide,
      sizeUnit: 'model',
      hardness: 0.35,
      flow: 0.35,
      opacity,
      spacing: 0.12,
      smoothing: 0,
      writes: {
        'base-colour': { on: true, value: colour, amount: 1 },
        roughness: { on: true, value: [0.95], amount: 0.5 },
      },
    }),
    samples: points.map(([x, y], i): Sample => ({
      pane: 'flat',
      x: x * size,
      y: y * size,
      texelsPerPixel: 1,
      pressure: 0.5 + 0.5 * random(),
      tiltX: 0,
      tiltY: 0,
      time: i * 16,
    })),
  });
  const wander = (x: number, y: number, angle: number, length: number) =>
    Array.from({ length: 14 }, (_, i): [number, number] => [
      x + (Math.cos(angle) * length * i) / 13 + (random() - 0.5) * 0.004,
      y + (Math.sin(angle) * length * i) / 13 + (random() - 0.5) * 0.004,
    ]);
  return Array.from({ length: 9 }, (_, n) =>
    line(
      wander(random(), random(), 0.4 + random() * 0.5, 0.1 + random() * 0.2),
      5 + random() * 6,
      [0.62, 0.6, 0.56],
      0.22,
      n + 1,
    ),
  );
}

/** Ruts that carts have sunk, chalk rubbed by feet, leaves that lie along the joints. They go over the sheet's edges. */
function work(size: number): Recording['strokes'] {
  const random = seededRandom(78);
  const path = (points: readonly (readonly [number, number])[]): Sample[] =>
    points.map(([x, y], i) => ({
      ...{ pane: 'flat', x: x * size, y: y * size, texelsPerPixel: 1, pressure: 0.6 + 0.4 * random() },
      ...{ tiltX: 0, tiltY: 0, time: i * 16 },
    }));
  const across = (y: number, sway: number) =>
    Array.from({ length: 41 }, (_, i): [number, number] => [i / 40, y + sway * Math.sin((i / 40) * Math.PI * 2)]);
  const strokes: Recording['strokes'] = [];
  const add = (layer: string, brush: Brush, samples: Sample[]) =>
    strokes.push({ sheet: 'setts-canvas', layer, seed: strokes.length + 40, brush, samples });
  for (const y of [0.3, 0.78]) {
    const sink = { mode: 'height', vary: [], settings: { way: 'sink', strength: 0.1, of: 'all' } };
    add('qs-ruts', rackBrush('Soft round', 70, { height: 0.5 }, sink), path(across(y, 0.012)));
  }
  for (let n = 0; n < 5; n++) {
    const [x, y] = [random(), random()];
    const rub = { mode: 'smear', vary: [], settings: { strength: 0.8, of: 'layer' } };
    const way = Array.from({ length: 9 }, (_, i): [number, number] => [x + i * 0.012, y + 0.02 * Math.sin(i * 1.7)]);
    add('qs-hand', rackBrush('Soft round', 60, { 'base-colour': '#9e998f', roughness: 0.95 }, rub), path(way));
  }
  for (const [n, colour] of ['#8a5a24', '#6d4a22', '#9a7a34', '#5d4a2a'].entries()) {
    const [x, y] = [random(), 0.12 + 0.22 * n];
    const drift = Array.from({ length: 6 }, (_, i): [number, number] => [x + i * 0.05, y + (random() - 0.5) * 0.05]);
    const brush = rackBrush(
      'Leaf',
      34,
      { 'base-colour': colour, height: 0.52, roughness: 0.7 },
      { spacing: 1.6, second: [0.45, 0.36, 0.12] },
    );
    add('qs-leaves', brush, path(drift));
  }
  return strokes;
}

export async function settsBundle(size = 1024): Promise<PieceBundle> {
  const store = new TileStore();
  const sheet = newSheet('setts-canvas', 'Canvas', size, size, { wrapU: true, wrapV: true, heightSpan: 0.045 });
  sheet.masks = MASKS;
  sheet.layers = stack();
  const piece = newPiece('demo-setts', 'Quay setts', 'canvas', [sheet], {
    palette: ['#6f7178', '#8a8378', '#57503f', '#46512c', '#3b4046', '#b7b2a4'],
    planeRepeats: 2,
  });
  replay(piece, store, null, { version: 1, strokes: [...strokes(size), ...work(size)] });
  return { piece, store, modelGlb: null, thumbnailPng: null };
}

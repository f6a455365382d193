/** The harbour lantern of Saltglass: brass frame, enamel cap, glass, rope ring. Its first layers, by script. */
import type { PieceBundle } from '../src/core/piece/pieceFile';
import { hexToSrgb } from '../src/core/colour/transfer';
import { newAdjustLayer, newEchoLayer, newPaintedLayer, newPiece, newSheet } from '../src/core/document/factory';
import { START_MAPS, type MapId } from '../src/core/kinds/maps';
import type { Layer, Mask } from '../src/core/document/schema';
import type { StepSource } from '../src/core/kinds/steps';
import { writeGlb } from '../src/core/mesh/writeGlb';
import { readModel } from '../src/core/mesh/readModel';
import { PieceSurfaces } from '../src/core/strata/pieceSurfaces';
import { TileStore } from '../src/core/tile/tiles';
import { replay, type Recording } from '../src/core/hand/replay';
import { brushSchema, type Brush } from '../src/core/hand/brush';
import type { Sample } from '../src/core/hand/sample';
import { lanternModel } from './lanternModel';
import { placementSchema, type Placement } from '../src/core/kinds/placement';
import type { Made } from '../src/core/kinds/sources';
import { fractal3, smoothstep } from './noise';
import { seededRandom } from '../src/core/testing/models';
import { onMaterial } from '../src/core/piece/create';
import { paintSurface, type SurfaceTexel } from './paint';
import { bakeOnto, type TwinFile } from './bakes';
import { rackBrush } from './rackBrush';
import { twinFile } from './twins';
import { coat, levels, made, mask, masked, open, rule, step, within } from './rules';

const TAU = Math.PI * 2;

/** Rope strands wind around the ring: phase by angle along the ring and around the tube. */
function ropePhase(t: SurfaceTexel): number {
  const along = Math.atan2(t.x, t.y - 0.424) / TAU;
  const rx = Math.hypot(t.x, t.y - 0.424) - 0.036;
  const around = Math.atan2(t.z, rx);
  return Math.abs(Math.sin(1.5 * around - along * TAU * 12));
}

const SOOT = hexToSrgb('#2b2622');
const ROPE = hexToSrgb('#b79a6a');
const ROPE_DARK = hexToSrgb('#6a5334');
const blend = (a: readonly number[], b: readonly number[], t: number) => a.map((v, k) => v + (b[k] - v) * t);

type Rule = (t: SurfaceTexel) => ReturnType<Parameters<typeof paintSurface>[4]>;

/** What is painted: what hangs on the shape of a part more than on any rule. */
const RULES: { name: string; opacity?: number; blend?: Layer['blend']; rule: Rule }[] = [
  {
    name: 'Rope fibre',
    rule: (t) => {
      if (t.part !== 'Rope ring') return null;
      const strand = ropePhase(t);
      const fibre = fractal3(t.x * 500, t.y * 500, t.z * 900, 23, 3);
      const colour = blend(ROPE_DARK, ROPE, smoothstep(0.1, 0.75, strand) * (0.55 + 0.55 * fibre));
      return {
        cover: 1,
        'base-colour': colour,
        roughness: [0.86 + 0.1 * fibre],
        metallic: [0],
        height: [0.38 + 0.2 * strand + 0.06 * fibre],
      };
    },
  },
  {
    name: 'Soot near vents',
    opacity: 0.75,
    blend: 'multiply',
    rule: (t) => {
      const near = Math.max(
        t.part === 'Crown' ? smoothstep(0.362, 0.335, t.y) : 0,
        t.part === 'Cap' ? smoothstep(0.303, 0.322, t.y) : 0,
        t.part === 'Burner' ? 0.8 : 0,
        t.part === 'Cap' && t.ny < -0.5 ? 0.9 : 0,
      );
      if (near === 0) return null;
      const cloud = fractal3(t.x * 34, t.y * 18, t.z * 34, 97, 4);
      return { cover: near * smoothstep(0.2, 0.6, cloud), 'base-colour': SOOT, roughness: [0.9] };
    },
  },
];

/** From outside, level, towards the axis. */
const towards = (angle: number, y: number, time: number, pressure = 1): Sample => ({
  pane: 'model',
  origin: [Math.sin(angle), y, Math.cos(angle)],
  direction: [-Math.sin(angle), 0, -Math.cos(angle)],
  ...{ pixelSpread: 0.001, pressure, tiltX: 0, tiltY: 0, time },
});

/** Two rings of rivets around the cap: pattern strokes that meet where they began. */
function rivets(): Recording['strokes'] {
  return [0.2865, 0.2545].map((y, n) => ({
    sheet: 'lantern-metal',
    layer: 'lm-rivets',
    seed: n + 900,
    brush: rackBrush(
      'Rivets',
      n === 0 ? 5 : 4,
      { 'base-colour': '#c79a52', height: 0.72, roughness: 0.34, metallic: 1 },
      { mode: 'pattern', settings: { repeat: 2.2 }, vary: [] },
    ),
    samples: Array.from({ length: 73 }, (_, i) => towards((i / 72) * TAU, y, i * 12)),
  }));
}

/** Where rain has run down the glass; smeared at its ends, as a cloth does. */
function runs(): Recording['strokes'] {
  const random = seededRandom(909);
  const strokes: Recording['strokes'] = [];
  const add = (brush: Brush, samples: Sample[]) =>
    strokes.push({ sheet: 'lantern-glass', layer: 'lg-hand', seed: strokes.length + 920, brush, samples });
  for (let n = 0; n < 9; n++) {
    const angle = (n / 9) * TAU + random() * 0.4;
    const [from, long] = [0.205 - random() * 0.01, 0.03 + random() * 0.05];
    const way = Array.from({ length: 7 }, (_, i) =>
      towards(angle + 0.01 * Math.sin(i * 2 + n), from - (long * i) / 6, i * 16, 0.4 + 0.6 * (1 - i / 6)),
    );
    add(
      rackBrush('Soft round', 4 + random() * 3, { 'base-colour': '#8d8a76', roughness: 0.6 }, { flow: 0.2, opacity: 0.5 }),
      way,
    );
    if (n % 3 === 0)
      add(
        rackBrush(
          'Soft round',
          14,
          { 'base-colour': '#8d8a76', roughness: 0.6 },
          { mode: 'smear', vary: [], settings: { strength: 0.7, of: 'layer' } },
        ),
        Array.from({ length: 6 }, (_, i) => towards(angle - 0.15 + i * 0.06, from - long * 0.7, i * 16)),
      );
  }
  return strokes;
}

/** Scratches on the cap and the foot, stroked by hand (well: by a script with an unsteady one). */
function scratches(layer: string, sheet: string) {
  const random = seededRandom(404);
  const eye = (angle: number, y: number): [number, number, number] => [Math.sin(angle) * 1.2, y, Math.cos(angle) * 1.2];
  return Array.from({ length: 46 }, (_, n) => {
    const onCap = n % 2 === 0;
    const angle = random() * TAU;
    const y = onCap ? 0.25 + random() * 0.05 : 0.006 + random() * 0.03;
    const slope = (random() - 0.5) * 0.04;
    const span = 0.04 + random() * 0.12;
    const samples: Sample[] = Array.from({ length: 7 }, (_, i) => {
      const a = angle + (span * i) / 6;
      const origin = eye(a, y + 0.35);
      const target = [Math.sin(a) * 0.05, y + (slope * i) / 6 + (random() - 0.5) * 0.001, Math.cos(a) * 0.05];
      const d = target.map((v, k) => v - origin[k]);
      const l = Math.hypot(...d);
      return {
        pane: 'model',
        origin,
        direction: [d[0] / l, d[1] / l, d[2] / l],
        pixelSpread: 0.001,
        pressure: Math.sin((Math.PI * (i + 0.6)) / 7.2),
        tiltX: 0,
        tiltY: 0,
        time: i * 16,
      };
    });
    return {
      sheet,
      layer,
      seed: n,
      brush: brushSchema.parse({
        size: 1.1 + random(),
        sizeUnit: 'model',
        hardness: 0.6,
        flow: 0.9,
        opacity: 0.8,
        smoothing: 0,
        writes: {
          'base-colour': { on: true, value: onCap ? [0.86, 0.7, 0.6] : [0.95, 0.85, 0.6], amount: 0.55 },
          height: { on: true, value: [0.42], amount: 1 },
          roughness: { on: true, value: [0.55], amount: 0.8 },
        },
      }),
      samples,
    };
  });
}

/** Noise in space, in cells a metre: no seams. */
const SPACE: Placement = placementSchema.parse({ by: 'solid', size: 1 });
const noise = (type: 'clouds' | 'cells' | 'streaks' | 'smudges' | 'spots' | 'leaks', over: object): StepSource =>
  rule(made(type, over), SPACE);
/** Along the upright, from 1 at the first height to 0 at the second. */
const upright = (from: number, to: number): Made => made('gradient', { space: 'model', from: [0, from, 0], to: [0, to, 0] });

const METAL_MASKS: Mask[] = [
  mask('lm-hammered', 'Hammered parts', [step('lm-hammered-1', { type: 'parts', names: ['Base', 'Crown', 'Burner'] })]),
  mask('lm-rim', 'Knocked rim', [
    step('lm-rim-1', rule(upright(0.247, 0.268)), 'normal', [levels(0.35, 0.9)]),
    step('lm-rim-2', noise('clouds', { seed: 31, scale: 58, octaves: 6, gain: 0.55 }), 'multiply', [levels(0.5, 0.56)]),
  ]),
  // The enamel is on the cap, but not where it was knocked off: in chips, and most along the rim.
  mask('lm-enamel', 'Enamel', [
    step('lm-enamel-1', { type: 'parts', names: ['Cap'] }),
    step('lm-enamel-2', noise('clouds', { seed: 47, scale: 34, octaves: 6, gain: 0.55 }), 'subtract', [levels(0.755, 0.775)]),
    step('lm-enamel-3', { type: 'mask', of: 'lm-rim' }, 'subtract'),
    step('lm-enamel-5', { type: 'paint' }),
  ]),
  mask('lm-chip-line', 'Along the chips', [
    step('lm-chip-line-1', { type: 'layer', of: 'lm-cap', map: 'base-colour', take: 'alpha', by: 'luminance' }, 'normal', [
      { type: 'rim', shape: 'outline', width: 5, soften: 0.5 },
    ]),
    step('lm-chip-line-2', noise('clouds', { seed: 33, scale: 160, octaves: 3 }), 'multiply', [levels(0.3, 0.6)]),
  ]),
  // Bare metal where hands and ropes touch: along every edge of the brass.
  mask('lm-edges', 'Worn edges', [
    step('lm-edges-1', { type: 'edges', angle: 28, width: 0.012, contrast: 0.45, breakup: 0.5, grain: 0.035, seed: 83 }),
    step('lm-edges-2', { type: 'parts', names: ['Cap', 'Rope ring'] }, 'subtract'),
  ]),
  mask('lm-corners', 'Where nobody wipes', [
    step('lm-corners-1', {
      type: 'bake',
      of: 'occlusion',
      low: 0.8,
      high: 0.15,
      contrast: 0.1,
      breakup: 0.4,
      grain: 0.05,
      seed: 7,
    }),
  ]),
  mask('lm-green', 'Where water stands', [
    step('lm-green-1', noise('clouds', { seed: 61, scale: 30, octaves: 6, gain: 0.58 }), 'normal', [levels(0.55, 0.72)]),
    step(
      'lm-green-0',
      { type: 'bake', of: 'cavity', low: 0.1, high: 0.8, contrast: 0.3, breakup: 0.6, grain: 0.05, seed: 64 },
      'add',
    ),
    step('lm-green-2', { type: 'parts', names: ['Cap', 'Rope ring'] }, 'subtract'),
    step('lm-green-3', noise('cells', { seed: 62, scale: 260, show: 'distance' }), 'multiply', [levels(0.1, 0.7)], {
      amount: 0.5,
    }),
  ]),
  mask('lm-salt', 'Salt line', [
    step('lm-salt-1', rule(upright(0.004, 0.055))),
    step('lm-salt-2', noise('clouds', { seed: 91, scale: 52, octaves: 6, gain: 0.6 }), 'multiply', [levels(0.48, 0.66)]),
  ]),
  // One mask for dust and tarnish: dirt that climbs from the foot.
  mask('lm-foot', 'From the foot up', [
    step('lm-foot-1', rule(upright(0.0, 0.16))),
    step('lm-foot-2', noise('smudges', { seed: 131, scale: 22, amount: 0.62, soften: 0.6, warp: 0.4 }), 'multiply', [], {
      amount: 0.75,
    }),
  ]),
  mask('lm-runs', 'Runs from the edges', [
    step('lm-runs-1', noise('leaks', { seed: 9, scale: 190, length: 0.055, density: 0.52, soften: 0.5, warp: 0.12 })),
    step('lm-runs-2', { type: 'parts', names: ['Rope ring'] }, 'subtract'),
    step('lm-runs-3', noise('clouds', { seed: 10, scale: 24, octaves: 3 }), 'multiply', [levels(0.35, 0.6)]),
  ]),
];

/** The metalwork in groups: what it is made of, what the weather did, and the hand over all. Bottom first. */
function metalStack(painted: ReadonlyMap<string, Layer>): Layer[] {
  const named = (name: string) => painted.get(name)!;
  const maps = START_MAPS;
  const on = (layer: Layer, ...which: MapId[]): Layer => ({
    ...layer,
    cells: Object.fromEntries(maps.map((m) => [m, { on: which.includes(m) }])),
  });
  const grain = on(newEchoLayer('lm-echo', 'Tone into roughness', 'lm-ground', 'base-colour', maps), 'roughness');
  // Where the brass is dark, it is a little duller.
  grain.echo!.filters = [{ type: 'invert' }, { type: 'levels', black: 0.1, white: 0.9, gamma: 1, outBlack: 0.22, outWhite: 0.6 }];
  const crust = on(newEchoLayer('lm-crust', 'Verdigris into height', 'lm-verdigris', 'base-colour', maps), 'height');
  crust.echo!.filters = [
    { type: 'levels', black: 0.3, white: 0.8, gamma: 1, outBlack: 0.49, outWhite: 0.58 },
    { type: 'blur', sigma: 1.2 },
  ];
  const tarnish = on(
    newAdjustLayer('lm-tarnish', 'Tarnish from the foot', { type: 'hue', hue: -8, saturation: -0.35, lightness: -0.12 }, maps),
    'base-colour',
  );
  return [
    ...within(
      open('lm-brass', 'Brass'),
      coat(
        'lm-ground',
        'Base brass',
        {
          'base-colour': [
            { at: 0.15, colour: '#7d5526' },
            { at: 0.5, colour: '#b08040' },
            { at: 0.85, colour: '#d3a45a' },
          ],
          roughness: [0.4, 0.28],
          metallic: 1,
        },
        made('clouds', { seed: 3, scale: 26, octaves: 6, gain: 0.58, contrast: 0.25 }),
        SPACE,
      ),
      { ...grain, opacity: 0.45 },
      masked(
        coat(
          'lm-hammer',
          'Hammer marks',
          { height: [0.4, 0.56], roughness: [0.24, 0.42] },
          made('cells', { seed: 5, scale: 95, jitter: 0.9, show: 'distance' }),
          SPACE,
        ),
        'lm-hammered',
      ),
    ),
    ...within(
      open('lm-parts', 'Enamel and rope'),
      masked(
        coat(
          'lm-cap',
          'Streaked enamel',
          {
            'base-colour': [
              { at: 0.1, colour: '#6a1c1e' },
              { at: 0.45, colour: '#8f2926' },
              { at: 0.7, colour: '#a03029' },
              { at: 0.95, colour: '#b84a3a' },
            ],
            roughness: [0.32, 0.12],
            metallic: 0,
            height: [0.6, 0.63],
          },
          made('streaks', { seed: 19, scale: 170, length: 22, contrast: 0, warp: 0.25 }),
          SPACE,
        ),
        'lm-enamel',
      ),
      masked(
        coat('lm-chipped', 'Chipped edge', { 'base-colour': '#2c1512', roughness: 0.78, metallic: 0, height: 0.47 }, null, null, {
          opacity: 0.85,
        }),
        'lm-chip-line',
      ),
      named('Rope fibre'),
    ),
    ...within(
      open('lm-weather', 'Weather', { tag: 4 }),
      masked(
        coat(
          'lm-verdigris',
          'Verdigris',
          {
            'base-colour': [
              { at: 0.2, colour: '#3f6e60' },
              { at: 0.55, colour: '#5f9683' },
              { at: 0.9, colour: '#a3c7b0' },
            ],
            roughness: [0.9, 0.72],
            metallic: 0.08,
          },
          made('clouds', { seed: 71, scale: 150, octaves: 4, contrast: 0.3 }),
          SPACE,
          { opacity: 0.92 },
        ),
        'lm-green',
      ),
      crust,
      masked(
        coat('lm-polish', 'Edge polish', { 'base-colour': '#e9c877', roughness: 0.16, metallic: 1 }, null, null, {
          opacity: 0.85,
        }),
        'lm-edges',
      ),
      masked(
        coat('lm-grime', 'Grime in corners', { 'base-colour': '#2a2018', roughness: 0.9, metallic: 0.2 }, null, null, {
          opacity: 0.55,
          blend: 'multiply',
        }),
        'lm-corners',
      ),
      masked(
        coat('lm-bloom', 'Salt bloom', { 'base-colour': '#dedccd', roughness: 0.92, metallic: 0 }, null, null, { opacity: 0.6 }),
        'lm-salt',
      ),
      masked(tarnish, 'lm-foot'),
      masked(
        coat('lm-dust', 'Quay dust', { 'base-colour': '#a89a80', roughness: 0.92, metallic: 0 }, null, null, { opacity: 0.42 }),
        'lm-foot',
      ),
      masked(
        coat('lm-run', 'Runs from the edges', { 'base-colour': '#3a2a20', roughness: 0.75, metallic: 0 }, null, null, {
          opacity: 0.62,
          blend: 'multiply',
        }),
        'lm-runs',
      ),
      named('Soot near vents'),
    ),
  ];
}

/** `size`: texels a side of the metalwork sheet; the glass has half. */
export async function lanternBundle(size = 2048): Promise<PieceBundle & { twins: TwinFile[] }> {
  const drawn = lanternModel();
  const modelGlb = await writeGlb(drawn);
  // Read back, so that face numbers are those everyone else will see.
  const model = await readModel(new Map([['lantern.glb', modelGlb]]));
  const store = new TileStore();
  const metal = newSheet('lantern-metal', 'Metalwork', size, size, {
    ...onMaterial(model, 0),
    heightSpan: 0.008,
  });
  const glass = newSheet('lantern-glass', 'Glass', size / 2, size / 2, {
    ...onMaterial(model, 1),
    heightSpan: 0.004,
    preview: { alpha: 0.28, doubleSided: true },
  });
  const surfaces = new PieceSurfaces(model, 0);
  const metalMap = surfaces.forSheet(metal)!.map;
  const painted = new Map<string, Layer>();
  for (const [n, { name, opacity = 1, blend: mode = 'normal', rule }] of RULES.entries()) {
    const layer = newPaintedLayer(`lm-${n}`, name, []);
    paintSurface(store, layer.id, metalMap, model, rule);
    for (const map of metal.maps) layer.cells[map] = { on: store.tilesOf(`${layer.id}/${map}`).size > 0 };
    painted.set(name, { ...layer, opacity, blend: mode });
  }
  const twin = { name: 'lantern-dense.glb', bytes: await twinFile('lantern') };
  await bakeOnto(metal, store, {
    ...{ modelGlb, twin, prefix: 'lm-bake' },
    wanted: [{ type: 'occlusion', over: { samples: 32 } }, { type: 'cavity' }, { type: 'normal', twin: true }],
  });
  metal.masks = METAL_MASKS;
  metal.layers = metalStack(painted);
  metal.layers.push(newPaintedLayer('lm-rivets', 'Hand: rivets', ['base-colour', 'height', 'roughness', 'metallic']));
  const hand = newPaintedLayer('lm-hand', 'Hand: scratches');
  hand.cells.metallic = { on: false };
  metal.layers.push(hand);
  glass.masks = [
    mask('lg-dirt', 'From below and above', [
      step('lg-dirt-1', rule(upright(0.05, 0.13))),
      step('lg-dirt-2', rule(upright(0.25, 0.215)), 'add', [], { amount: 0.7 }),
      step('lg-dirt-3', noise('clouds', { seed: 113, scale: 38, octaves: 6, gain: 0.58 }), 'multiply', [levels(0.32, 0.68)]),
    ]),
  ];
  glass.layers = [
    coat('lg-ground', 'Clear glass', { 'base-colour': '#cfe3d8', roughness: 0.06, metallic: 0 }),
    coat(
      'lg-wave',
      'Drawn glass',
      { height: [0.38, 0.62] },
      made('streaks', { seed: 127, scale: 24, length: 3, contrast: -0.2, warp: 0.4 }),
      SPACE,
    ),
    masked(coat('lg-grime', 'Grime from below', { 'base-colour': '#6b614c', roughness: 0.75 }), 'lg-dirt'),
    newPaintedLayer('lg-hand', 'Hand'),
  ];
  const piece = newPiece('demo-lantern', 'Harbour lantern', 'model', [metal, glass], {
    model: { blob: '', uvSet: 0 },
    palette: ['#9c2f2a', '#b08040', '#e9c877', '#5f9683', '#2b2622', '#dedccd', '#46617f', '#b79a6a'],
  });
  replay(piece, store, surfaces, { version: 1, strokes: [...rivets(), ...scratches('lm-hand', 'lantern-metal'), ...runs()] });
  return { piece, store, modelGlb, thumbnailPng: null, twins: [twin] };
}

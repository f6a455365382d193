/** The harbour lantern of Saltglass: brass frame, enamel cap, glass, rope ring. Geometry and first layers, by script. */
import type { PieceBundle } from '../src/core/codec/pieceFile';
import { hexToSrgb } from '../src/core/colour/transfer';
import {
  newAdjustLayer,
  newMask,
  newCoatLayer,
  newEchoLayer,
  newGroup,
  newPaintedLayer,
  newPiece,
  newSheet,
} from '../src/core/document/factory';
import { START_MAPS, type MapId } from '../src/core/document/maps';
import type { Layer } from '../src/core/document/schema';
import type { Model } from '../src/core/mesh/model';
import { writeGlb } from '../src/core/mesh/writeGlb';
import { readModel } from '../src/core/mesh/readModel';
import { PieceSurfaces } from '../src/core/piece/surfaces';
import { TileStore } from '../src/core/raster/tiles';
import { replay } from '../src/core/brush/replay';
import { brushSchema, type Sample } from '../src/core/brush/brush';
import { MeshScript, type Point } from './meshScript';
import { fractal3, noise3, smoothstep } from './noise';
import { seededRandom } from '../src/core/testing/models';
import { paintMask, paintSurface, type SurfaceTexel } from './paint';

const METAL = 0;
const GLASS = 1;
const TAU = Math.PI * 2;

export function lanternModel(): Model {
  const m = new MeshScript([
    MeshScript.material('Metalwork', { baseColourLinear: [0.42, 0.25, 0.08, 1], metallic: 1, roughness: 0.4 }),
    MeshScript.material('Glass', {
      baseColourLinear: [0.75, 0.85, 0.8, 0.28],
      roughness: 0.05,
      seeThrough: true,
      doubleSided: true,
    }),
  ]);
  const base = m.part('Base');
  m.lathe(base, METAL, 48, [
    [0.0005, 0],
    [0.06, 0],
    [0.112, 0],
  ]);
  m.lathe(base, METAL, 48, [
    [0.112, 0],
    [0.118, 0.004],
    [0.121, 0.012],
    [0.119, 0.022],
    [0.112, 0.03],
    [0.104, 0.034],
    [0.1, 0.038],
    [0.099, 0.044],
    [0.101, 0.05],
    [0.104, 0.054],
  ]);
  m.lathe(base, METAL, 48, [
    [0.104, 0.054],
    [0.08, 0.054],
    [0.05, 0.057],
    [0.03, 0.062],
  ]);
  const burner = m.part('Burner');
  m.lathe(burner, METAL, 24, [
    [0.03, 0.062],
    [0.033, 0.07],
    [0.03, 0.08],
    [0.022, 0.086],
    [0.016, 0.094],
    [0.017, 0.1],
    [0.013, 0.104],
    [0.009, 0.116],
    [0.0005, 0.118],
  ]);
  const posts = m.part('Posts');
  for (let i = 0; i < 6; i++) {
    const a = ((i + 0.5) / 6) * TAU;
    const out: Point = [Math.sin(a), 0, Math.cos(a)];
    m.tube(
      posts,
      METAL,
      10,
      8,
      (t) => [out[0] * 0.096, 0.05 + 0.2 * t, out[2] * 0.096],
      () => out,
      () => 0.0052,
    );
  }
  const guards = m.part('Guards');
  for (const y of [0.115, 0.185])
    m.tube(
      guards,
      METAL,
      7,
      40,
      (t) => [0.1 * Math.sin(t * TAU), y, 0.1 * Math.cos(t * TAU)],
      (t) => [Math.sin(t * TAU), 0, Math.cos(t * TAU)],
      () => 0.0036,
    );
  const cap = m.part('Cap');
  m.lathe(cap, METAL, 48, [
    [0.06, 0.249],
    [0.095, 0.247],
    [0.117, 0.244],
  ]);
  m.lathe(cap, METAL, 48, [
    [0.117, 0.244],
    [0.123, 0.246],
    [0.125, 0.251],
    [0.122, 0.257],
    [0.11, 0.266],
    [0.09, 0.281],
    [0.07, 0.296],
    [0.055, 0.308],
    [0.047, 0.317],
    [0.044, 0.324],
  ]);
  const crown = m.part('Crown');
  m.lathe(crown, METAL, 32, [
    [0.044, 0.322],
    [0.047, 0.325],
    [0.047, 0.33],
    [0.043, 0.334],
  ]);
  m.lathe(crown, METAL, 32, [
    [0.043, 0.334],
    [0.036, 0.336],
    [0.035, 0.35],
    [0.037, 0.353],
  ]);
  m.lathe(crown, METAL, 32, [
    [0.037, 0.353],
    [0.044, 0.353],
    [0.045, 0.357],
    [0.038, 0.363],
    [0.025, 0.369],
    [0.013, 0.373],
    [0.011, 0.379],
    [0.0125, 0.384],
    [0.009, 0.39],
    [0.0005, 0.392],
  ]);
  const rope = m.part('Rope ring');
  m.tube(
    rope,
    METAL,
    12,
    72,
    (t) => [0.036 * Math.sin(t * TAU), 0.424 + 0.036 * Math.cos(t * TAU), 0],
    (t) => [Math.sin(t * TAU), Math.cos(t * TAU), 0],
    (t, a) => 0.0068 * (1 + 0.1 * Math.abs(Math.sin(1.5 * a + t * TAU * 12))),
  );
  const glass = m.part('Glass');
  m.lathe(glass, GLASS, 48, [
    [0.084, 0.055],
    [0.0855, 0.1],
    [0.086, 0.15],
    [0.0855, 0.2],
    [0.084, 0.248],
  ]);
  return m.build(14 / 2048);
}

/** Rope strands wind around the ring: phase by angle along the ring and around the tube. */
function ropePhase(t: SurfaceTexel): number {
  const along = Math.atan2(t.x, t.y - 0.424) / TAU;
  const rx = Math.hypot(t.x, t.y - 0.424) - 0.036;
  const around = Math.atan2(t.z, rx);
  return Math.abs(Math.sin(1.5 * around - along * TAU * 12));
}

const ENAMEL = hexToSrgb('#9c2f2a');
const ENAMEL_DARK = hexToSrgb('#6d1f22');
const VERDIGRIS = hexToSrgb('#5f9683');
const SOOT = hexToSrgb('#2b2622');
const ROPE = hexToSrgb('#b79a6a');
const ROPE_DARK = hexToSrgb('#6a5334');
const SALT = hexToSrgb('#dedccd');
const POLISH = hexToSrgb('#e9c877');
const blend = (a: readonly number[], b: readonly number[], t: number) => a.map((v, k) => v + (b[k] - v) * t);

/** Where enamel has been knocked off: along the rim and in a few chips. */
function chipped(t: SurfaceTexel): number {
  const rim = smoothstep(0.262, 0.249, t.y) * smoothstep(0.45, 0.62, fractal3(t.x * 60, t.y * 60, t.z * 60, 31, 4));
  const chips = smoothstep(0.7, 0.74, fractal3(t.x * 38, t.y * 38, t.z * 38, 47, 4));
  return Math.max(rim, chips);
}

type Rule = (t: SurfaceTexel) => ReturnType<Parameters<typeof paintSurface>[4]>;

const RULES: { name: string; opacity?: number; blend?: Layer['blend']; rule: Rule }[] = [
  {
    name: 'Hammered tone',
    opacity: 0.8,
    blend: 'soft-light',
    rule: (t) => {
      const v = fractal3(t.x * 26, t.y * 26, t.z * 26, 3, 4);
      return { cover: 1, 'base-colour': blend([0.2, 0.16, 0.12], [0.85, 0.8, 0.66], v) };
    },
  },
  {
    name: 'Hammer marks',
    rule: (t) => {
      if (!['Base', 'Crown', 'Burner'].includes(t.part)) return null;
      const v = noise3(t.x * 130, t.y * 130, t.z * 130, 5);
      const fine = fractal3(t.x * 420, t.y * 420, t.z * 420, 6, 2);
      return { cover: 1, height: [0.5 + (v - 0.5) * 0.2], roughness: [0.26 + 0.2 * v + 0.14 * fine] };
    },
  },
  {
    name: 'Enamel cap',
    rule: (t) => {
      if (t.part !== 'Cap') return null;
      const chip = chipped(t);
      const tone = fractal3(t.x * 14, t.y * 60, t.z * 14, 11, 4);
      const runs = fractal3(Math.atan2(t.x, t.z) * 9, t.y * 12, 0, 19, 3);
      const colour = blend(ENAMEL_DARK, ENAMEL, smoothstep(0.25, 0.75, tone) * 0.8 + 0.3 * smoothstep(0.4, 0.8, runs));
      return {
        cover: 1 - chip,
        'base-colour': colour,
        roughness: [0.16 + 0.12 * tone],
        metallic: [0],
        height: [0.62 + 0.02 * runs],
      };
    },
  },
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
    name: 'Verdigris',
    opacity: 0.92,
    rule: (t) => {
      if (t.part === 'Cap' || t.part === 'Rope ring') return null;
      const patches = smoothstep(0.52, 0.66, fractal3(t.x * 30, t.y * 30, t.z * 30, 61, 5));
      // It gathers in the hollows of the profile and where water stands.
      const hollow = Math.max(
        smoothstep(0.012, 0.0, Math.abs(t.y - 0.042)),
        smoothstep(0.008, 0, Math.abs(t.y - 0.335)),
        t.part === 'Posts' ? smoothstep(0.075, 0.052, t.y) : 0,
      );
      if (patches + hollow < 0.01) return null;
      const cover = Math.min(1, patches * 0.55 + hollow * (0.35 + 0.65 * fractal3(t.x * 90, t.y * 90, t.z * 90, 67, 3)));
      const tone = fractal3(t.x * 150, t.y * 150, t.z * 150, 71, 3);
      return {
        cover,
        'base-colour': blend(VERDIGRIS, hexToSrgb('#8fb9a0'), tone),
        roughness: [0.8],
        metallic: [0.1],
        height: [0.5 + 0.04 * tone],
      };
    },
  },
  {
    name: 'Edge polish',
    opacity: 0.85,
    rule: (t) => {
      if (t.part === 'Rope ring' || t.part === 'Cap') return null;
      const touch = Math.max(
        t.part === 'Base' ? smoothstep(0.006, 0, Math.abs(t.y - 0.0115)) : 0,
        t.part === 'Base' ? smoothstep(0.0035, 0, Math.abs(t.y - 0.0535)) : 0,
        t.part === 'Guards' ? smoothstep(0.1015, 0.1034, Math.hypot(t.x, t.z)) : 0,
        t.part === 'Crown' ? smoothstep(0.003, 0, Math.abs(t.y - 0.3565)) : 0,
      );
      if (touch === 0) return null;
      const worn = smoothstep(0.35, 0.6, fractal3(t.x * 70, t.y * 70, t.z * 70, 83, 3));
      return { cover: touch * worn, 'base-colour': POLISH, roughness: [0.16], metallic: [1] };
    },
  },
  {
    name: 'Salt bloom',
    opacity: 0.6,
    rule: (t) => {
      const low = smoothstep(0.05, 0.004, t.y);
      if (low === 0) return null;
      const bloom = smoothstep(0.5, 0.72, fractal3(t.x * 46, t.y * 46, t.z * 46, 91, 5)) * low;
      return { cover: bloom, 'base-colour': SALT, roughness: [0.92], metallic: [0] };
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

/** The metalwork in groups: what it is made of, what the weather did, and the hand over all. Bottom first. */
function metalStack(painted: ReadonlyMap<string, Layer>): Layer[] {
  const within = (group: Layer, ...members: Layer[]): Layer[] => [...members.map((l) => ({ ...l, parent: group.id })), group];
  const named = (name: string) => painted.get(name)!;
  const maps = START_MAPS;
  const on = (layer: Layer, ...which: MapId[]): Layer => ({
    ...layer,
    cells: Object.fromEntries(maps.map((m) => [m, { on: which.includes(m) }])),
  });
  const grain = on(newEchoLayer('lm-echo', 'Tone into roughness', 'lm-0', 'base-colour', maps), 'roughness');
  // Where the hammered tone is dark, the brass is a little duller.
  grain.echo!.filters = [{ type: 'invert' }, { type: 'levels', black: 0.1, white: 0.9, gamma: 1, outBlack: 0.3, outWhite: 0.55 }];
  const crust = on(newEchoLayer('lm-crust', 'Verdigris into height', 'lm-4', 'base-colour', maps), 'height');
  crust.echo!.filters = [
    { type: 'levels', black: 0.3, white: 0.8, gamma: 1, outBlack: 0.49, outWhite: 0.56 },
    { type: 'blur', sigma: 1.2 },
  ];
  const tarnish = on(
    newAdjustLayer('lm-tarnish', 'Tarnish from the foot', { type: 'hue', hue: -8, saturation: -0.35, lightness: -0.1 }, maps),
    'base-colour',
  );
  tarnish.mask = { id: 'lm-foot', on: true };
  const dust = newCoatLayer('lm-dust', 'Quay dust', { 'base-colour': hexToSrgb('#a89a80'), roughness: [0.92], metallic: [0] });
  dust.mask = { id: 'lm-foot', on: true };
  dust.opacity = 0.34;
  return [
    ...within(
      { ...newGroup('lm-brass', 'Brass'), passThrough: true },
      newCoatLayer('lm-ground', 'Base brass', { 'base-colour': hexToSrgb('#b08040'), roughness: [0.34], metallic: [1] }),
      named('Hammered tone'),
      { ...grain, opacity: 0.5 },
      named('Hammer marks'),
    ),
    ...within({ ...newGroup('lm-parts', 'Enamel and rope'), passThrough: true }, named('Enamel cap'), named('Rope fibre')),
    ...within(
      { ...newGroup('lm-weather', 'Weather'), passThrough: true, tag: 4 },
      named('Verdigris'),
      crust,
      named('Edge polish'),
      named('Salt bloom'),
      tarnish,
      dust,
      named('Soot near vents'),
    ),
  ];
}

/** `size`: texels a side of the metalwork sheet; the glass has half. */
export async function lanternBundle(size = 2048): Promise<PieceBundle> {
  const made = lanternModel();
  const modelGlb = await writeGlb(made);
  // Read back, so that face numbers are those everyone else will see.
  const model = await readModel(new Map([['lantern.glb', modelGlb]]));
  const store = new TileStore();
  const metal = newSheet('lantern-metal', 'Metalwork', size, size, { materialIndex: 0, heightSpan: 0.008 });
  const glass = newSheet('lantern-glass', 'Glass', size / 2, size / 2, {
    materialIndex: 1,
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
  metal.masks = [newMask('lm-foot', 'From the foot up', 0)];
  paintMask(store, 'lm-foot', metalMap, model, (t) => {
    const ragged = 0.035 * (fractal3(t.x * 30, t.y * 14, t.z * 30, 131, 4) - 0.5);
    return 0.75 * smoothstep(0.11, 0.0, t.y + ragged) + 0.5 * smoothstep(0.05, 0.0, t.y);
  });
  metal.layers = metalStack(painted);
  const hand = newPaintedLayer('lm-hand', 'Hand: scratches');
  hand.cells.metallic = { on: false };
  metal.layers.push(hand);
  const glassMap = surfaces.forSheet(glass)!.map;
  const grime = newPaintedLayer('lg-grime', 'Grime from below', ['base-colour', 'roughness']);
  paintSurface(store, grime.id, glassMap, model, (t) => {
    const foot = smoothstep(0.12, 0.056, t.y) + 0.7 * smoothstep(0.225, 0.248, t.y);
    const cloud = fractal3(t.x * 40, t.y * 26, t.z * 40, 113, 5);
    return { cover: Math.min(1, foot * smoothstep(0.3, 0.7, cloud)), 'base-colour': hexToSrgb('#6b614c'), roughness: [0.75] };
  });
  const wave = newPaintedLayer('lg-wave', 'Drawn glass', ['height']);
  paintSurface(store, wave.id, glassMap, model, (t) => ({
    cover: 1,
    height: [0.5 + 0.25 * (fractal3(t.x * 22, t.y * 9, t.z * 22, 127, 3) - 0.5)],
  }));
  glass.layers = [
    newCoatLayer('lg-ground', 'Clear glass', { 'base-colour': hexToSrgb('#cfe3d8'), roughness: [0.06], metallic: [0] }),
    wave,
    grime,
    newPaintedLayer('lg-hand', 'Hand'),
  ];
  const piece = newPiece('demo-lantern', 'Harbour lantern', 'model', [metal, glass], {
    model: { blob: '', uvSet: 0 },
    palette: ['#9c2f2a', '#b08040', '#e9c877', '#5f9683', '#2b2622', '#dedccd', '#46617f', '#b79a6a'],
  });
  replay(piece, store, surfaces, { version: 1, strokes: scratches('lm-hand', 'lantern-metal') });
  return { piece, store, modelGlb, thumbnailPng: null };
}

/** Dabs: how fast strokes are, in the flat sheet and on the model. */
import { createCanvas } from '@napi-rs/canvas';
import { share } from './threads';
import { Coverage, falloffTable } from '../../src/core/hand/coverage';
import { dabFlat } from '../../src/core/hand/dabFlat';
import { dabSurface } from '../../src/core/hand/dabSurface';
import { drawnPicture } from '../../src/core/hand/pictures';
import { Imprint } from '../../src/core/hand/imprint';
import { Beside } from '../../src/core/hand/beside';
import { paint } from '../../src/core/hand/tools/paint';
import type { ToolContext } from '../../src/core/hand/tools/tool';
import { brushSchema } from '../../src/core/hand/brush';
import type { ModelSample } from '../../src/core/hand/sample';
import { Stroke } from '../../src/core/hand/stroke';
import { newPaintedLayer, newSheet } from '../../src/core/document/factory';
import { SOURCES } from '../../src/core/kinds/sources';
import type { SurfaceHit, SurfaceQuery } from '../../src/core/mesh/surfaceQuery';
import { PieceSurfaces } from '../../src/core/strata/pieceSurfaces';
import { newTexels, TILE_TEXELS, TileStore } from '../../src/core/tile/tiles';
import { seededRandom } from '../../src/core/testing/models';
import { lanternModel } from '../../demo/lanternModel';
import { result, type Result } from './result';
import { alternateResting } from './timing';

export const SIZE = 2048;
/** Dabs come in batches, as pointer events do; after each batch what they touched is laid onto the tiles. */
const BATCH = 16;

/** Places along wandering lines, as strokes are: neighbouring dabs overlap. */
function places(count: number): [number, number][] {
  const random = seededRandom(1);
  let [x, y, a] = [SIZE / 2, SIZE / 2, 0];
  return Array.from({ length: count }, () => {
    a += (random() - 0.5) * 0.4;
    x = Math.min(SIZE - 40, Math.max(40, x + Math.cos(a) * 8));
    y = Math.min(SIZE - 40, Math.max(40, y + Math.sin(a) * 8));
    if (x <= 40 || y <= 40 || x >= SIZE - 40 || y >= SIZE - 40) a += 2;
    return [x, y];
  });
}

const COLOUR = [0.8, 0.4, 0.1];

const sheet = newSheet('s', 'Sheet', SIZE, SIZE);
const context: ToolContext = {
  settings: {},
  maps: ['base-colour'],
  sheet,
  surface: null,
  beside: new Beside({ sheet, surface: null }),
  source: null,
  pattern: () => drawnPicture('made:rope')!,
  visible: () => ({ uniform: [0], data: null }),
  stored: () => null,
  picture: () => null,
  layerId: 'l',
  meant: () => null,
};

/** Dabs in batches, each batch laid onto 16-bit tiles: a stroke without its pointer. */
function strokeOf<T>(dabs: readonly T[], dab: (imprint: Imprint, at: T, n: number) => void): () => void {
  return () => {
    const coverage = new Coverage(SIZE, SIZE);
    const imprint = new Imprint(SIZE, SIZE);
    const tiles = new Map<number, Uint16Array>();
    const tool = paint.begin(context);
    dabs.forEach((at, n) => {
      dab(imprint, at, n);
      coverage.lay(imprint, 0.5, 1);
      imprint.clear();
      if (n % BATCH !== BATCH - 1) return;
      for (const t of coverage.dirty) {
        let after = tiles.get(t.index);
        if (!after) tiles.set(t.index, (after = newTexels(TILE_TEXELS * 4)));
        const { x0, y0, x1, y1, values: coverage } = t;
        const what = {
          map: 'base-colour',
          tile: t.index,
          channels: 4,
          before: null,
          value: COLOUR,
          colours: null,
          amount: 1,
        } as const;
        tool.flush({ ...what, x0, y0, x1, y1, coverage, after });
      }
      coverage.clearDirty();
    });
    coverage.release();
  };
}

async function flatDabs(): Promise<Result[]> {
  const count = 4000;
  const at = places(count);
  const falloff = falloffTable(0);
  const subject = strokeOf(at, (imprint, [x, y]) =>
    dabFlat(imprint, { x, y, radiusTexels: 32 }, falloff, { wrapU: false, wrapV: false }),
  );
  // The same soft stamp, drawn by Skia at 8 bit.
  const stamp = createCanvas(64, 64);
  const pen = stamp.getContext('2d');
  const gradient = pen.createRadialGradient(32, 32, 0, 32, 32, 32);
  for (let i = 0; i <= 16; i++)
    gradient.addColorStop(i / 16, `rgba(204,102,26,${0.5 * falloff[Math.floor((i / 16) ** 2 * (falloff.length - 1))]})`);
  pen.fillStyle = gradient;
  pen.fillRect(0, 0, 64, 64);
  const canvas = createCanvas(SIZE, SIZE);
  const context = canvas.getContext('2d');
  const reference = () => {
    for (const [x, y] of at) context.drawImage(stamp, x - 32, y - 32);
    // Skia may put drawing off: reading a texel makes it happen.
    context.getImageData(0, 0, 1, 1);
  };
  const t = await alternateResting(subject, reference);
  return [result('flat-dabs-r32', count / t.subject, 'dabs/s', '@napi-rs/canvas, same stamps, 8 bit', count / t.reference)];
}

export function lantern() {
  const model = lanternModel();
  const surfaces = new PieceSurfaces(model, 0);
  const sheet = newSheet('s', 'Metalwork', SIZE, SIZE, { materialIndex: 0 });
  return { model, surfaces, sheet };
}

/** Places on the lantern along wandering strokes, eight texels from one to the next, a new one every 200: as a hand paints. */
export function wander(query: SurfaceQuery, texelsPerMetre: number, count: number): SurfaceHit[] {
  const random = seededRandom(2);
  const hits: SurfaceHit[] = [];
  const step = 8 / texelsPerMetre;
  for (let [a, y, turn] = [0, 0.2, 0]; hits.length < count;) {
    if (hits.length % 200 === 0) [a, y, turn] = [random() * Math.PI * 2, random() * 0.39, random() * Math.PI * 2];
    turn += (random() - 0.5) * 0.4;
    a += (Math.cos(turn) * step) / 0.1;
    y += Math.sin(turn) * step;
    const hit = query.raycast([Math.sin(a), y, Math.cos(a)], [-Math.sin(a), 0, -Math.cos(a)]);
    if (hit) hits.push(hit);
    else [a, y] = [random() * Math.PI * 2, random() * 0.39];
  }
  return hits;
}

async function surfaceDabs(): Promise<Result[]> {
  const { surfaces, sheet } = lantern();
  const { map, query } = surfaces.forSheet(sheet)!;
  const radius = 32 / map.texelsPerMetre;
  const hits = wander(query, map.texelsPerMetre, 3000);
  const falloff = falloffTable(0.3);
  const subject = strokeOf(hits, (imprint, hit) => dabSurface(imprint, map, query, { hit, radius, reach: 'connected' }, falloff));
  // The same number of dabs of the same size in the flat sheet: what the surface costs beside no surface.
  const at = places(hits.length);
  const reference = () => {
    const coverage = new Coverage(SIZE, SIZE);
    const imprint = new Imprint(SIZE, SIZE);
    for (const [x, y] of at) {
      dabFlat(imprint, { x, y, radiusTexels: 32 }, falloff, { wrapU: false, wrapV: false });
      coverage.lay(imprint, 0.5, 1);
      imprint.clear();
    }
    coverage.release();
  };
  const t = await alternateResting(subject, reference);
  return [
    result(
      'surface-dabs-64',
      hits.length / t.subject,
      'dabs/s',
      'flat dabs without tiles, this machine',
      hits.length / t.reference,
    ),
  ];
}

/** Turned pictures as tips, beside the same picture that Skia draws turned. */
async function flatImageDabs(): Promise<Result[]> {
  const count = 2000;
  const at = places(count);
  const picture = drawnPicture('made:leaf')!;
  const falloff = falloffTable(0);
  const subject = strokeOf(at, (imprint, [x, y], n) => {
    const tip = { shape: 'picture', picture, roundness: 1, angle: n * 0.7 } as const;
    dabFlat(imprint, { x, y, radiusTexels: 32, tip }, falloff, { wrapU: false, wrapV: false });
  });
  const stamp = createCanvas(64, 64);
  const data = stamp.getContext('2d').createImageData(64, 64);
  picture.levels[2].forEach((v, i) => data.data.set([204, 102, 26, v * 127], i * 4));
  stamp.getContext('2d').putImageData(data, 0, 0);
  const context = createCanvas(SIZE, SIZE).getContext('2d');
  const reference = () => {
    at.forEach(([x, y], n) => {
      const [c, s] = [Math.cos(n * 0.7), Math.sin(n * 0.7)];
      context.setTransform(c, s, -s, c, x, y);
      context.drawImage(stamp, -32, -32);
    });
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.getImageData(0, 0, 1, 1);
  };
  const t = await alternateResting(subject, reference);
  return [result('flat-dabs-image', count / t.subject, 'dabs/s', '@napi-rs/canvas, turned pictures, 8 bit', count / t.reference)];
}

/** Millimetres on the lantern. */
function sizeOf(texels: number): number {
  const { surfaces, sheet } = lantern();
  return (texels / surfaces.forSheet(sheet)!.map.texelsPerMetre) * 1000;
}

/** Whole strokes on the lantern, as the engine has them: samples eight texels apart, laid down every sixteen. */
async function strokes(
  name: string,
  count: number,
  brush: object,
  reference: object,
  of: string,
  kind = 'dabs/s',
): Promise<Result[]> {
  const { surfaces, sheet } = lantern();
  const surface = surfaces.forSheet(sheet)!;
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  const { texelsPerMetre } = surface.map;
  const hits = wander(surface.query, texelsPerMetre, count);
  // A pixel is about a texel: normals turn by that much from one to the next on a lantern of 10 cm.
  const pixelSpread = 1 / (0.1 * texelsPerMetre);
  const samples = hits.map(({ point, normal }): ModelSample => ({
    ...{ pane: 'model', pixelSpread, pressure: 1, tiltX: 0, tiltY: 0, time: 0 },
    origin: point.map((v, k) => v + normal[k] * 0.05) as ModelSample['origin'],
    direction: normal.map((v) => -v) as ModelSample['direction'],
  }));
  // Paint everywhere, so that tools have something to work on.
  const painted = new TileStore();
  const random = seededRandom(3);
  for (const tile of surface.map.tiles.keys()) {
    const data = newTexels(TILE_TEXELS * 4);
    for (let i = 0; i < data.length; i++) data[i] = i % 4 === 3 ? 65535 : random() * 65535;
    painted.set('l/base-colour', tile, { data, hash: null });
  }
  let dabs = 0;
  const run = (over: object) => () => {
    const full = brushSchema.parse({
      ...{ size: (64 / texelsPerMetre) * 1000, sizeUnit: 'model', smoothing: 0, spacing: 0.125, hardness: 0.3, vary: [] },
      writes: { 'base-colour': { on: true, value: COLOUR, amount: 1 } },
      ...over,
    });
    dabs = 0;
    // Healed are single patches: one dab each.
    const long = kind === 'dabs/s' ? 200 : 1;
    for (let from = 0; from < samples.length; from += long) {
      const stroke = new Stroke({ sheet, layerId: 'l', store: painted.clone(), surface, seed: 1 }, full);
      for (let n = from; n < from + long; n += BATCH) {
        stroke.add(samples.slice(n, Math.min(n + BATCH, from + long)));
        stroke.flush();
      }
      stroke.end();
      stroke.flush();
      stroke.changes();
      dabs += kind === 'dabs/s' ? stroke.dabCount : 1;
    }
  };
  const [subject, other] = [run(brush), run(reference)];
  const t = await alternateResting(subject, other);
  subject();
  const mine = dabs;
  other();
  return [result(name, mine / t.subject, kind, of, dabs / t.reference)];
}

const PLAIN = 'plain dabs of the same size in the same run';
const source = { at: { pane: 'model', origin: [0, 0.12, 1], direction: [0, 0, -1] } };
const onPaint = (mode: string, settings: object = {}) => ({
  mode,
  source,
  settings: { of: 'layer', moves: 'anew', ...settings },
});

const STROKES: Record<string, () => Promise<Result[]>> = {
  'surface-dabs-400': () => strokes('surface-dabs-400', 400, { size: sizeOf(400) }, {}, PLAIN),
  'surface-dabs-textured': () =>
    strokes('surface-dabs-textured', 1200, { texture: { of: SOURCES.clouds.start, depth: 0.7, join: 'height' } }, {}, PLAIN),
  'surface-dabs-jittered': () =>
    strokes(
      'surface-dabs-jittered',
      1200,
      {
        vary: [
          { what: 'size', by: 'dab', amount: 0.2 },
          { what: 'hue', by: 'dab', amount: 15 },
          { what: 'flow', by: 'pressure', amount: 0.5 },
        ],
      },
      {},
      PLAIN,
    ),
  'surface-dabs-mirrored': () =>
    strokes('surface-dabs-mirrored', 1200, { mirror: { axes: ['x'], radial: 1, around: 'y' } }, {}, PLAIN),
  'smear-64': () => strokes('smear-64', 800, onPaint('smear'), {}, PLAIN),
  'blur-64-tool': () => strokes('blur-64-tool', 800, onPaint('blur'), {}, PLAIN),
  'clone-64': () => strokes('clone-64', 800, onPaint('clone'), {}, PLAIN),
  'heal-64': () =>
    strokes('heal-64', 60, onPaint('heal', { from: 'around' }), {}, 'plain strokes of the same length', 'patches/s'),
};

/** As the engine has it: strokes lie in the memory that its kernels work in. */
const inMemory = (measure: () => Promise<Result[]>) => (): Promise<Result[]> => {
  share();
  return measure();
};

export const DAB_MEASUREMENTS: Record<string, () => Promise<Result[]>> = Object.fromEntries(
  Object.entries({ 'flat-dabs-r32': flatDabs, 'flat-dabs-image': flatImageDabs, 'surface-dabs-64': surfaceDabs, ...STROKES }).map(
    ([name, measure]) => [name, inMemory(measure)],
  ),
);

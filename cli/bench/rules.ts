/** Surfaces by rule: noise, placed materials, distances, normals. */
import sharp from 'sharp';
import { createNoise3D } from 'simplex-noise';
import { giveSurfaces, surfaceUnder } from '../../src/core/strata/surfaceUnder';
import { kernels } from '../../src/core/kernels';
import type { Octave } from '../../src/kernels/kernels';
import { newCoatLayer, newSheet } from '../../src/core/document/factory';
import { type Sheet } from '../../src/core/document/schema';
import { planeKey } from '../../src/core/document/planes';
import type { MapId } from '../../src/core/kinds/maps';
import { PieceSurfaces } from '../../src/core/strata/pieceSurfaces';
import { squaredDistances } from '../../src/core/tile/distance';
import { NORMAL_KERNELS, normalsFromField, kernelWeights } from '../../src/core/tile/normal';
import { TILE, tileIndex, tilesFromPicture, tilesOf, TileStore } from '../../src/core/tile/tiles';
import { placementFor } from '../../src/core/kinds/placement';
import { seededRandom } from '../../src/core/testing/models';
import { lanternModel } from '../../demo/lanternModel';
import type { Result } from './result';
import { result } from './result';
import { pictures, share, Threads } from './threads';
import { alternate, alternateAsync } from './timing';

const SIZE = 2048;
const TEXELS = SIZE * SIZE;
const FREQUENCY = 12;

/** Places over a slanted plane, as texels of a model lie: 64 rows at a time, all of 2048². */
function overPlane(work: (x: Float32Array, y: Float32Array, z: Float32Array) => void): void {
  const rows = 8;
  const mark = kernels().mark();
  const [x, y, z] = [0, 1, 2].map(() => kernels().floats(SIZE * rows));
  for (let top = 0; top < SIZE; top += rows) {
    for (let r = 0, i = 0; r < rows; r++)
      for (let c = 0; c < SIZE; c++, i++) {
        x[i] = c / SIZE;
        y[i] = (top + r) / SIZE;
        z[i] = 0.3 * x[i] + 0.2 * y[i];
      }
    const inner = kernels().mark();
    work(x, y, z);
    kernels().release(inner);
  }
  kernels().release(mark);
}

const octave = (k: number): Octave => ({
  fx: FREQUENCY * 2 ** k,
  fy: FREQUENCY * 2 ** k,
  fz: FREQUENCY * 2 ** k,
  px: 0,
  py: 0,
  pz: 0,
  amplitude: 0.5 ** k,
  seed: k + 1,
});

function noiseFractal5(): Result[] {
  const octaves = [0, 1, 2, 3, 4].map(octave);
  const subject = () => overPlane((x, y, z) => kernels().noiseFractal(kernels().floats(x.length), x, y, z, octaves, 'plain'));
  const random = seededRandom(1);
  const simplex = octaves.map(() => createNoise3D(random));
  let sum = 0;
  // A quarter of the texels: it is the speed that is wanted.
  const reference = () => {
    for (let i = 0; i < TEXELS / 4; i++) {
      const u = (i % SIZE) / SIZE;
      const v = Math.floor(i / SIZE) / SIZE;
      const w = 0.3 * u + 0.2 * v;
      for (let k = 0; k < 5; k++) {
        const { fx, amplitude } = octaves[k];
        sum += amplitude * simplex[k](u * fx, v * fx, w * fx);
      }
    }
  };
  const t = alternate(subject, reference, 3);
  if (!Number.isFinite(sum)) throw new Error('simplex-noise gave no number');
  return [
    result(
      'noise-fractal-5',
      TEXELS / t.subject / 1e6,
      'Mtexel/s',
      'simplex-noise, the same octaves',
      TEXELS / 4 / t.reference / 1e6,
    ),
  ];
}

function noiseCellular(): Result[] {
  const subject = (flat: boolean) => () =>
    overPlane((x, y, z) => {
      const [near, id] = [0, 1].map(() => kernels().floats(x.length));
      kernels().noiseCells(near, null, id, x, y, z, octave(1), 1, flat);
    });
  const t = alternate(subject(false), subject(true), 3);
  return [
    result('noise-cellular', TEXELS / t.subject / 1e6, 'Mtexel/s', 'the same cells in a plane', TEXELS / t.reference / 1e6),
  ];
}

export const MAPS: MapId[] = ['base-colour', 'height', 'roughness', 'metallic', 'occlusion'];

/** A coat of five maps on the lantern: pictures of 1024², from three sides, with hidden repeats. */
export function materialCoat(): { sheet: Sheet; store: TileStore } {
  const side = 1024;
  const store = new TileStore();
  const random = seededRandom(4);
  const coat = newCoatLayer('c', 'Material', {}, MAPS);
  const sheet = newSheet('s', 'Metalwork', SIZE, SIZE, { materialIndex: 0, maps: MAPS });
  for (const map of MAPS) {
    const pixels = new Uint16Array(side * side * 4);
    for (let i = 0; i < pixels.length; i++) pixels[i] = i % 4 === 3 ? 65535 : 20000 + ((i >> 9) % 64) * 400 + random() * 12000;
    const id = `pic-${map}`;
    for (const [tile, data] of tilesFromPicture(pixels, side, side, 4))
      store.set(planeKey(id, 'picture'), tile, { data, hash: null });
    sheet.pictures.push({ id, name: id, width: side, height: side, encoding: map === 'base-colour' ? 'srgb' : 'linear' });
    coat.cells[map] = { ...coat.cells[map]!, on: true, placed: { picture: id, take: 'luminance', neutral: 0 } };
  }
  const surface = new PieceSurfaces(lanternModel(), 0).dataFor(sheet)!;
  giveSurfaces(store, () => surface);
  coat.placement = placementFor('box', surface, { size: 0.2, soft: 0.3, hide: 1 });
  sheet.layers = [coat];
  return { sheet, store };
}

async function coat5(): Promise<Result[]> {
  share();
  const { sheet, store } = materialCoat();
  const threads = new Threads(2);
  threads.sync(sheet, store, surfaceUnder(store, sheet)!);
  const out = pictures(sheet, MAPS);
  let n = 0;
  const moved = (): Sheet => ({
    ...sheet,
    layers: sheet.layers.map((l) => ({ ...l, placement: { ...l.placement!, offset: [++n * 1e-4, 0] as [number, number] } })),
  });
  const all = async () => {
    const next = moved();
    threads.sync(next, null);
    await threads.evaluate(next, MAPS, 2, undefined, out);
  };
  const bytes = new Uint8Array(TEXELS * 2 * 7);
  const t = await alternateAsync(all, async () => void bytes.slice(), 3);
  // What a drag shows: 5 × 6 tiles exactly, and the coarse picture of all of it.
  const near = Array.from({ length: 30 }, (_, i) => tileIndex(3 + (i % 5), 2 + Math.floor(i / 5)));
  const drag = async () => {
    const next = moved();
    threads.sync(next, null);
    await threads.evaluate(next, MAPS, 2, near, out);
  };
  const part = new Uint8Array(near.length * TILE * TILE * 14);
  const d = await alternateAsync(drag, async () => void part.slice(), 3);
  await threads.close();
  const { Renderer } = await import('../../src/engine/show/renderer');
  const { newPiece } = await import('../../src/core/document/factory');
  const renderer = new Renderer(store);
  renderer.planes.focus = 's';
  renderer.planes.visible = { x: 3 * TILE, y: 2 * TILE, width: 640, height: 700 };
  const coarse = () => {
    const piece = newPiece('p', 'P', 'model', [moved()]);
    renderer.refresh(piece);
    renderer.coarse.render(true);
  };
  const c = alternate(coarse, () => void part.slice(), 15);
  return [
    result('coat-5-maps', t.subject, 's', 'one copy of the result', t.reference),
    result('placement-drag, exact', d.subject * 1000, 'ms', 'one copy of the result', d.reference * 1000),
    result('placement-drag, coarse', c.subject * 1000, 'ms', 'one copy of the result', c.reference * 1000),
  ];
}

function distanceTransform(): Result[] {
  const random = seededRandom(3);
  const inside = new Uint8Array(TEXELS);
  for (let n = 0; n < 400; n++) {
    const [cx, cy, r] = [random() * SIZE, random() * SIZE, 4 + random() * 40];
    for (let y = Math.max(0, Math.floor(cy - r)); y < Math.min(SIZE, cy + r); y++)
      for (let x = Math.max(0, Math.floor(cx - r)); x < Math.min(SIZE, cx + r); x++)
        if (Math.hypot(x - cx, y - cy) < r) inside[y * SIZE + x] = 1;
  }
  const out = new Float32Array(TEXELS);
  const t = alternate(
    () => squaredDistances(inside, SIZE, SIZE, 1, out),
    () => void out.slice(),
  );
  return [result('distance-transform', t.subject, 's', 'one copy of the result', t.reference)];
}

async function normalFromHeight(): Promise<Result[]> {
  const random = seededRandom(5);
  const heights = Float32Array.from({ length: TEXELS }, () => random());
  const raw = Buffer.from(Uint8Array.from(heights, (v) => v * 255));
  sharp.concurrency(1);
  const results: Result[] = [];
  for (const kernel of NORMAL_KERNELS) {
    const r = (kernel - 1) / 2;
    const side = TILE + 2 * r;
    const subject = async () => {
      const mark = kernels().mark();
      const field = kernels().floats(side * side);
      const out = kernels().floats(TILE * TILE * 3);
      for (const tile of tilesOf(SIZE, SIZE)) {
        const [x0, y0] = [(tile % 256) * TILE - r, Math.floor(tile / 256) * TILE - r];
        for (let y = 0; y < side; y++) {
          const row = Math.min(SIZE - 1, Math.max(0, y0 + y)) * SIZE;
          const from = Math.min(SIZE - side, Math.max(0, x0));
          field.set(heights.subarray(row + from, row + from + side), y * side);
        }
        normalsFromField(field, TILE, TILE, kernel, out);
      }
      kernels().release(mark);
    };
    const { smooth, slope } = kernelWeights(kernel);
    const matrix = (a: Float32Array, b: Float32Array) =>
      Array.from({ length: kernel * kernel }, (_, i) => a[Math.floor(i / kernel)] * b[i % kernel]);
    // Slopes across and down, as sharp would have to make them.
    const reference = async () => {
      for (const weights of [matrix(smooth, slope), matrix(slope, smooth)])
        await sharp(raw, { raw: { width: SIZE, height: SIZE, channels: 1 } })
          .convolve({ width: kernel, height: kernel, kernel: weights, scale: 1, offset: 128 })
          .raw()
          .toBuffer();
    };
    const t = await alternateAsync(subject, reference, 3);
    const speed = (seconds: number) => TEXELS / seconds / 1e6;
    results.push(
      result(
        `normal-from-height ${kernel}×${kernel}`,
        speed(t.subject),
        'Mtexel/s',
        'sharp, both slopes, 8 bit',
        speed(t.reference),
      ),
    );
  }
  return results;
}

export const RULE_MEASUREMENTS = {
  'noise-fractal-5': noiseFractal5,
  'noise-cellular': noiseCellular,
  'coat-5-maps': coat5,
  'distance-transform': distanceTransform,
  'normal-from-height': normalFromHeight,
} as const;

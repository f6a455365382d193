/** The strata engine: compositing, re-evaluation, a slider, a dab, blurs, memory. */
import { execFileSync } from 'node:child_process';
import { createCanvas } from '@napi-rs/canvas';
import sharp from 'sharp';
import { newAdjustLayer, newMask, newPaintedLayer, newSheet } from '../../src/core/document/factory';
import { storedChannels, valueChannels, type MapId } from '../../src/core/kinds/maps';
import { type Layer, type Sheet } from '../../src/core/document/schema';
import { planeKey } from '../../src/core/document/planes';
import { newTexels, tileIndex, TILE, TILE_TEXELS, tilesOf, TileStore, touch } from '../../src/core/tile/tiles';
import { evaluateWhole16 } from '../../src/core/strata/evaluate';
import { Evaluator } from '../../src/core/strata/evaluator';
import { programOf } from '../../src/core/strata/program';
import { TileCache } from '../../src/core/strata/tileCache';
import { seededRandom } from '../../src/core/testing/models';
import type { Result } from './result';
import { pictures, share, Threads } from './threads';
import { result } from './result';
import { alternate, alternateAsync } from './timing';

const SIZE = 2048;
const TEXELS = SIZE * SIZE;
const BLENDS = ['normal', 'multiply', 'overlay'] as const;

/** Every texel painted with something, partly covered: nothing can be skipped. */
function fill(store: TileStore, plane: string, channels: 2 | 4, seed: number): void {
  const random = seededRandom(seed);
  // One block of noise, shifted from tile to tile: random numbers would take longer than what is measured.
  const noise = Uint16Array.from({ length: TILE_TEXELS * channels + 4096 }, () => 6000 + random() * 59000);
  for (const tile of tilesOf(SIZE, SIZE)) {
    const data = newTexels(TILE_TEXELS * channels);
    const shift = ((tile * 4) % 4096) & ~3;
    data.set(noise.subarray(shift, shift + data.length));
    store.set(plane, tile, { data, hash: null });
  }
}

function colourStack(count: number): { sheet: Sheet; store: TileStore } {
  const sheet = newSheet('s', 'Sheet', SIZE, SIZE);
  const store = new TileStore();
  sheet.layers = Array.from({ length: count }, (_, n) => {
    const layer: Layer = { ...newPaintedLayer(`l${n}`, `Layer ${n}`, ['base-colour']), opacity: 0.7, blend: BLENDS[n % 3] };
    fill(store, planeKey(layer.id, 'base-colour'), 4, n + 1);
    return layer;
  });
  return { sheet, store };
}

async function composite20(): Promise<Result[]> {
  share();
  const count = 20;
  const { sheet, store } = colourStack(count);
  // As Skia's, the picture that it is laid into is there already.
  const out = new Uint16Array(TEXELS * 3);
  const subject = () => void evaluateWhole16({ sheet: { ...sheet }, store, cache: new TileCache(0) }, 'base-colour', out);
  // Skia: the same number of layers, 8 bit, premultiplied, in its own surfaces.
  const layers = Array.from({ length: count }, (_, n) => {
    const canvas = createCanvas(SIZE, SIZE);
    const context = canvas.getContext('2d');
    const image = context.createImageData(SIZE, SIZE);
    const random = seededRandom(n + 1);
    for (let i = 0; i < image.data.length; i++) image.data[i] = 20 + random() * 230;
    context.putImageData(image, 0, 0);
    return canvas;
  });
  const target = createCanvas(SIZE, SIZE);
  const context = target.getContext('2d');
  const skia = () => {
    context.globalCompositeOperation = 'source-over';
    context.globalAlpha = 1;
    context.fillStyle = '#808080';
    context.fillRect(0, 0, SIZE, SIZE);
    for (let n = 0; n < count; n++) {
      context.globalAlpha = 0.7;
      context.globalCompositeOperation = (['source-over', 'multiply', 'overlay'] as const)[n % 3];
      context.drawImage(layers[n], 0, 0);
    }
    context.getImageData(0, 0, 1, 1);
  };
  const t = alternate(subject, skia);
  const speed = (seconds: number) => (count * TEXELS) / seconds / 1e6;
  sharp.concurrency(1);
  const raws = layers.map((l) => Buffer.from(l.getContext('2d').getImageData(0, 0, SIZE, SIZE).data));
  const vips = async () => {
    const raw = { width: SIZE, height: SIZE, channels: 4 as const };
    await sharp({ create: { ...raw, background: '#808080' } })
      .composite(
        Array.from({ length: count }, (_, n) => ({
          input: raws[n],
          raw,
          blend: (['over', 'multiply', 'overlay'] as const)[n % 3],
        })),
      )
      .raw()
      .toBuffer();
  };
  const v = await alternateAsync(async () => subject(), vips, 3);
  return [
    result('composite-20', speed(t.subject), 'Mpixel-layers/s', '@napi-rs/canvas, 8 bit', speed(t.reference)),
    result('composite-20 (sharp)', speed(v.subject), 'Mpixel-layers/s', 'sharp, one thread, 8 bit', speed(v.reference)),
  ];
}

async function compositeTwo(): Promise<Result[]> {
  share();
  const { sheet, store } = colourStack(20);
  const threads = new Threads(2);
  threads.sync(sheet, store);
  let n = 0;
  // A change of opacity makes every signature new, so that no cache helps.
  const out = pictures(sheet, ['base-colour']);
  const run = (count: number) => async () => {
    const next = { ...sheet, layers: sheet.layers.map((l) => ({ ...l, opacity: 0.7 + ++n * 1e-6 })) };
    threads.sync(next, null);
    await threads.evaluate(next, ['base-colour'], count, undefined, out);
  };
  const t = await alternateAsync(run(2), run(1));
  await threads.close();
  const speed = (seconds: number) => (20 * TEXELS) / seconds / 1e6;
  return [result('composite-20-two-threads', speed(t.subject), 'Mpixel-layers/s', 'the same on one thread', speed(t.reference))];
}

export const MAPS: MapId[] = ['base-colour', 'height', 'roughness', 'metallic', 'occlusion'];

/** Thirty layers on five maps, every third with a mask or an adjustment. */
export function stack30(): { sheet: Sheet; store: TileStore } {
  const sheet = newSheet('s', 'Sheet', SIZE, SIZE, { maps: MAPS });
  const store = new TileStore();
  sheet.masks = [newMask('m', 'Mask', 0)];
  fill(store, planeKey('m', 'mask'), 2, 99);
  sheet.layers = Array.from({ length: 30 }, (_, n): Layer => {
    if (n % 6 === 5)
      return newAdjustLayer(
        `l${n}`,
        `Levels ${n}`,
        { type: 'levels', black: 0.1, white: 0.9, gamma: 1.1, outBlack: 0, outWhite: 1 },
        MAPS,
      );
    const layer: Layer = { ...newPaintedLayer(`l${n}`, `Layer ${n}`, MAPS), opacity: 0.7, blend: BLENDS[n % 3] };
    if (n % 6 === 2) layer.mask = { id: 'm', on: true };
    for (const map of MAPS) fill(store, planeKey(layer.id, map), storedChannels(map), n * 7 + 1);
    return layer;
  });
  return { sheet, store };
}

/** Runs of what a hand does many times a second: the engine has compiled it after the first few. */
const DRAGGED = 15;

async function reevaluate(): Promise<Result[]> {
  share();
  const { sheet, store } = stack30();
  const threads = new Threads(2);
  threads.sync(sheet, store);
  let n = 0;
  const changed = (): Sheet => ({
    ...sheet,
    layers: sheet.layers.map((l) => (l.id === 'l14' ? { ...l, opacity: 0.5 + ++n * 1e-5 } : l)),
  });
  const bytes = (texels: number) => new Uint8Array(texels * 2 * MAPS.reduce((sum, m) => sum + valueChannels(m), 0));
  const whole = bytes(TEXELS);
  const out = pictures(sheet, MAPS);
  const all = async () => {
    const next = { ...sheet, layers: sheet.layers.map((l) => ({ ...l, opacity: l.opacity - ++n * 1e-6 })) };
    threads.sync(next, null);
    await threads.evaluate(next, MAPS, 2, undefined, out);
  };
  const t = await alternateAsync(all, async () => void whole.slice());
  // The flat pane shows 640 × 700 texels: 5 × 6 tiles.
  const near = Array.from({ length: 30 }, (_, i) => tileIndex(3 + (i % 5), 4 + Math.floor(i / 5)));
  const part = bytes(near.length * TILE_TEXELS);
  const slider = async () => {
    const next = changed();
    threads.sync(next, null);
    await threads.evaluate(next, MAPS, 2, near, out, 'l14');
  };
  const s = await alternateAsync(slider, async () => void part.slice(), DRAGGED);
  await threads.close();
  return [
    result('reevaluate-30x5', t.subject, 's', 'one copy of the result', t.reference),
    result('slider-visible', s.subject * 1000, 'ms', 'one copy of the result', s.reference * 1000),
    dab(sheet, store),
  ];
}

/** A dab of 64 texels on the colour of a middle layer, in the corner of four tiles: its rectangle with all above it. */
function dab(sheet: Sheet, store: TileStore): Result {
  const cache = new TileCache();
  const tiles = [tileIndex(4, 4), tileIndex(5, 4), tileIndex(4, 5), tileIndex(5, 5)];
  const rects = [TILE - 32, 0].flatMap((y) => [TILE - 32, 0].map((x) => ({ x, y, width: 32, height: 32 })));
  const work = () => {
    for (const map of MAPS) for (const t of tiles) touch(store.get(planeKey('l14', map), t)!);
    const evaluator = new Evaluator({ sheet, store, cache, hot: 'l14' });
    for (const map of MAPS) tiles.forEach((t, n) => evaluator.rect(programOf(sheet, map), t, rects[n], () => {}));
  };
  const copy = new Uint8Array(64 * 64 * 2 * 7);
  const t = alternate(work, () => void copy.slice(), 4 * DRAGGED);
  return result('dab-reevaluated', t.subject * 1000, 'ms', 'one copy of the result', t.reference * 1000);
}

async function blur(sigma: number): Promise<Result[]> {
  const sheet = newSheet('s', 'Sheet', SIZE, SIZE);
  const store = new TileStore();
  fill(store, planeKey('p', 'roughness'), 2, 5);
  const painted = newPaintedLayer('p', 'Paint', ['roughness']);
  const raw = Buffer.from(Uint8Array.from({ length: TEXELS }, (_, i) => (i * 7919) % 251));
  sharp.concurrency(1);
  let n = 0;
  const subject = async () => {
    // A hair's breadth of difference makes it new to every cache.
    const filter = { type: 'blur' as const, sigma: sigma + ++n * 1e-6 };
    const next = { ...sheet, layers: [painted, newAdjustLayer('b', 'Blur', filter, ['roughness'])] };
    evaluateWhole16({ sheet: next, store }, 'roughness');
  };
  const reference = async () => {
    await sharp(raw, { raw: { width: SIZE, height: SIZE, channels: 1 } })
      .blur(sigma)
      .raw()
      .toBuffer();
  };
  const t = await alternateAsync(subject, reference, 7);
  const speed = (seconds: number) => TEXELS / seconds / 1e6;
  return [result(`blur-${sigma}`, speed(t.subject), 'Mtexel/s', 'sharp, one thread, 8 bit', speed(t.reference))];
}

function memory30(): Result[] {
  const out = execFileSync(process.execPath, ['--expose-gc', '--import', 'tsx', 'cli/bench/paintedPiece.ts'], {
    maxBuffer: 1 << 20,
  }).toString();
  const { rss, allowed } = JSON.parse(out) as { rss: number; allowed: number };
  return [result('memory-30-layers', rss / 1048576, 'MiB', 'painted bytes and the cache’s budget', allowed / 1048576)];
}

export const STRATA_MEASUREMENTS = {
  'composite-20': composite20,
  'composite-20-two-threads': compositeTwo,
  'reevaluate-30x5': reevaluate,
  'blur-8': () => blur(8),
  'blur-64': () => blur(64),
  'memory-30-layers': memory30,
} as const;

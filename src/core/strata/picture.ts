/**
 * Pictures as sources: a picture of any size, sampled where the placement puts it. Values are encoded as the picture
 * is; its smaller levels are averaged in linear light where it is a colour.
 */
import { linearToSrgb, srgbToLinear } from '../colour/transfer';
import { planeKey, type Picture, type PictureUse } from '../document/schema';
import { kernels } from '../../kernels';
import { pictureFromTiles, stampOf, TILE_TEXELS, type TileIndex, type TileStore } from '../raster/tiles';
import type { MapKind } from './filters/filter';
import { greyOf } from './grey';
import { fromGauss, hiddenRecipe, type HiddenRecipe } from './hidden';
import {
  GAUSS_STEP,
  PLAIN_STEP,
  readAlpha,
  readColours,
  readDirections,
  readValues,
  readyLevel,
  type ReadyLevel,
} from './levels';
import { texelOf, type Placement } from './placement';
import { mixSignature, type Signature } from './signature';
import { tapsOf, type TapPlace, type Taps } from './taps';

export interface PictureLevel {
  width: number;
  height: number;
  /** RGBA, 16 bit, straight alpha. */
  data: Uint16Array;
}

export interface PictureData {
  stamp: Signature;
  /** Full size first, then halves down to one texel. */
  levels: PictureLevel[];
  /** Mean of each colour channel, 0..1, encoded. */
  mean: [number, number, number];
  /** What was made of it for reading, by use. */
  ready: Map<string, { recipe: HiddenRecipe | null; levels: Map<PictureLevel, ReadyLevel> }>;
}

/** Equal stamps: the same pixels. */
export function pictureStamp(store: TileStore, id: string): Signature {
  let out: Signature = 3;
  for (const [tile, version] of store.tilesOf(planeKey(id, 'picture')))
    if (version.data) out = mixSignature(mixSignature(out, tile), stampOf(version));
  return out;
}

const banks = new WeakMap<TileStore, Map<string, PictureData>>();

export function pictureData(store: TileStore, info: Picture, stamp: Signature): PictureData {
  const bank = banks.get(store) ?? banks.set(store, new Map()).get(store)!;
  const known = bank.get(info.id);
  if (known?.stamp === stamp) return known;
  const { width, height } = info;
  const first = { width, height, data: pictureFromTiles(store.tilesOf(planeKey(info.id, 'picture')), width, height, 4) };
  const levels = [first];
  while (levels.at(-1)!.width > 1 || levels.at(-1)!.height > 1) levels.push(halved(levels.at(-1)!, info.encoding === 'srgb'));
  const last = levels.at(-1)!.data;
  const data: PictureData = {
    stamp,
    levels,
    mean: [0, 1, 2].map((c) => last[c] / 65535) as [number, number, number],
    ready: new Map(),
  };
  bank.set(info.id, data);
  return data;
}

let toLinear: Float32Array | null = null;
const linearTable = (): Float32Array => (toLinear ??= Float32Array.from({ length: 65536 }, (_, i) => srgbToLinear(i / 65535)));

function halved(from: PictureLevel, srgb: boolean): PictureLevel {
  const width = Math.max(1, from.width >> 1);
  const height = Math.max(1, from.height >> 1);
  const data = new Uint16Array(width * height * 4);
  const light = srgb ? linearTable() : null;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const o = (y * width + x) * 4;
      const near = [0, 1].flatMap((j) =>
        [0, 1].map((i) => (Math.min(from.height - 1, y * 2 + j) * from.width + Math.min(from.width - 1, x * 2 + i)) * 4),
      );
      let alpha = 0;
      for (const n of near) alpha += from.data[n + 3];
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        for (const n of near)
          sum += (light ? light[from.data[n + c]] : from.data[n + c] / 65535) * (alpha > 0 ? from.data[n + 3] / alpha : 0.25);
        data[o + c] = Math.min(1, light ? linearToSrgb(sum) : sum) * 65535 + 0.5;
      }
      data[o + 3] = alpha / 4 + 0.5;
    }
  return { width, height, data };
}

/** The level whose texels are about as large as the sheet's where it lies. `texel`: repeats that a sheet's texel spans. */
export function levelFor(data: PictureData, texel: number): PictureLevel {
  const footprint = texel * Math.sqrt(data.levels[0].width * data.levels[0].height);
  const n = footprint > 1 ? Math.round(Math.log2(footprint)) : 0;
  return data.levels[Math.min(data.levels.length - 1, n)];
}

function readyFor(data: PictureData, level: PictureLevel, kind: MapKind, { take }: PictureUse, hide: boolean) {
  const key = `${kind} ${kind === 'value' ? take : ''} ${hide}`;
  let found = data.ready.get(key);
  if (!found) {
    const recipe = hide && kind !== 'normal' ? hiddenRecipe(data.levels[0], kind, take) : null;
    data.ready.set(key, (found = { recipe, levels: new Map() }));
  }
  let ready = found.levels.get(level);
  if (!ready) found.levels.set(level, (ready = readyLevel(level, kind, take, found.recipe)));
  return { recipe: found.recipe, ready };
}

/** A tile of a placed picture: the map's planes, then alpha; null where it lies on nothing. */
export function pictureTile(
  data: PictureData,
  use: PictureUse,
  placement: Placement,
  kind: MapKind,
  place: TapPlace,
): Float32Array | null {
  const level = levelFor(data, texelOf(placement, place.sheet, place.surface));
  const taps = tapsOf(placement, place, level.width, level.height);
  if (taps.count === 0) return null;
  const channels = kind === 'value' ? 1 : 3;
  const out = new Float32Array(TILE_TEXELS * (channels + 1));
  const { recipe, ready } = readyFor(data, level, kind, use, placement.hide > 0);
  const mark = kernels.mark();
  const read = kernels.floats(taps.count * channels);
  const stride = level.width + 1;
  if (kind === 'normal') {
    readDirections(ready.codes, taps, stride, read);
    spreadDirections(read, taps, placement, out);
  } else {
    if (channels === 1) readValues(ready.codes, taps, stride, read);
    else readColours(ready.codes, taps, stride, read);
    if (recipe) unfold(recipe, read, taps.count);
    const mean = channels === 1 ? [greyOf(use.take, [...data.mean, 1])] : data.mean;
    // Towards neutral grey: the picture's own mean becomes the middle.
    for (let c = 0; c < channels; c++)
      spreadPlane(
        read.subarray(c * taps.count, (c + 1) * taps.count),
        taps,
        recipe ? 1 : PLAIN_STEP,
        (recipe ? 0 : 32768 * PLAIN_STEP) + use.neutral * (0.5 - mean[c]),
        out.subarray(c * TILE_TEXELS, (c + 1) * TILE_TEXELS),
      );
  }
  const cover = out.subarray(channels * TILE_TEXELS);
  if (ready.alpha && use.take !== 'alpha') {
    readAlpha(ready.alpha, taps, stride, placement.hide, read);
    spreadPlane(read, taps, 1, 0, cover);
  } else for (let t = 0; t < taps.count; t++) cover[taps.texel[t]] += taps.weight[t];
  kernels.release(mark);
  return out;
}

/** Gaussian sums back to what the picture's histogram holds. */
function unfold({ mean, axes, tables }: HiddenRecipe, read: Float32Array, count: number): void {
  tables.forEach((axis, a) => fromGauss(axis, GAUSS_STEP, read.subarray(a * count), count));
  if (axes.length === 1) {
    for (let t = 0; t < count; t++) read[t] += mean[0];
    return;
  }
  const [[a0, a1, a2], [b0, b1, b2], [c0, c1, c2]] = axes;
  for (let t = 0; t < count; t++) {
    const p = read[t];
    const q = read[count + t];
    const r = read[2 * count + t];
    read[t] = mean[0] + a0 * p + b0 * q + c0 * r;
    read[count + t] = mean[1] + a1 * p + b1 * q + c1 * r;
    read[2 * count + t] = mean[2] + a2 * p + b2 * q + c2 * r;
  }
}

function spreadPlane(read: Float32Array, { count, texel, weight }: Taps, by: number, lift: number, out: Float32Array): void {
  for (let t = 0; t < count; t++) {
    const v = read[t] * by + lift;
    out[texel[t]] += weight[t] * (v < 0 ? 0 : v > 1 ? 1 : v);
  }
}

/** What pointed along the picture's X points along it still once the picture is turned or mirrored. Unit length, encoded. */
function spreadDirections(read: Float32Array, { count, texel, weight, turned }: Taps, p: Placement, out: Float32Array): void {
  const [mx, my] = [p.mirrorX ? -1 : 1, p.mirrorY ? -1 : 1];
  const [cos, sin] = [Math.cos(turned), Math.sin(turned)];
  const n = TILE_TEXELS;
  const solid = new Uint8Array(n);
  for (let t = 0; t < count; t++) {
    let x = read[t] * 2 * PLAIN_STEP * mx;
    let y = read[count + t] * 2 * PLAIN_STEP * my;
    const l = Math.hypot(x, y);
    if (l > 0.98) {
      x *= 0.98 / l;
      y *= 0.98 / l;
    }
    const i = texel[t];
    const w = weight[t];
    out[i] += w * (cos * x + sin * y);
    out[n + i] += w * (-sin * x + cos * y);
    out[2 * n + i] += w * Math.sqrt(1 - x * x - y * y);
    solid[i] = 1;
  }
  for (let i = 0; i < n; i++) {
    if (!solid[i]) continue;
    const l = Math.hypot(out[i], out[n + i], out[2 * n + i]);
    for (let c = 0; c < 3; c++) out[c * n + i] = (out[c * n + i] / l) * 0.5 + 0.5;
  }
}

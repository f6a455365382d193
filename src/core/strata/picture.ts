/**
 * Pictures as sources: a picture of any size, sampled where the placement puts it. Values are encoded as the picture
 * is; its smaller levels are averaged in linear light where it is a colour.
 */
import { type Picture } from '../document/schema';
import type { PictureUse } from '../kinds/fields';
import { planeKey } from '../document/planes';
import { kernels } from '../kernels';
import { MOST_READS, TURNS, type Pixels, type TapSet } from '../../kernels/taps';
import type { Rect } from '../tile/mips';
import { MAX16, pictureFromTiles, stampOf, TILE, TILE_TEXELS, type TileStore, type TileVersion } from '../tile/tiles';
import type { MapKind } from '../kinds/filters/filter';
import { greyOf, type Grey } from '../kinds/grey';
import { BINS_A_DEVIATION, hiddenRecipe, type HiddenRecipe } from './hidden';
import { GAUSS_STEP, PLAIN_STEP, readyAlpha, readyPixels, WHOLE } from './levels';
import { type Placement } from '../kinds/placement';
import { texelOf, uvMatrix } from './projections';
import { pyramidOf, type PictureLevel } from './pictureLevel';
import { mixSignature, numberSignature, type Signature } from './signature';
import { tapsOf, type TapPlace } from './taps';

export interface PictureData {
  stamp: Signature;
  /** Full size first, then halves down to one texel. */
  levels: PictureLevel[];
  /** Mean of each colour channel, 0..1, encoded. */
  mean: [number, number, number];
  /** What was made of it for reading, by use. */
  ready: Map<string, Ready>;
}

type StampNumber = (version: TileVersion) => number | null;

/** Equal stamps: the same pixels. */
export function pictureStamp(
  store: TileStore,
  id: string,
  stampNumber: StampNumber = (v) => (v.data ? stampOf(v) : null),
): Signature {
  let out: Signature = numberSignature(3);
  for (const [tile, version] of [...store.tilesOf(planeKey(id, 'picture'))].sort((a, b) => a[0] - b[0])) {
    const stamp = stampNumber(version);
    if (stamp !== null) out = mixSignature(mixSignature(out, tile), stamp);
  }
  return out;
}

const banks = new WeakMap<TileStore, Map<string, PictureData>>();

export function pictureData(store: TileStore, info: Picture, stamp: Signature): PictureData {
  const bank = banks.get(store) ?? banks.set(store, new Map()).get(store)!;
  const known = bank.get(info.id);
  if (known?.stamp === stamp) return known;
  const { width, height } = info;
  const first = { width, height, data: pictureFromTiles(store.tilesOf(planeKey(info.id, 'picture')), width, height, 4) };
  const levels = pyramidOf(first, info.encoding === 'srgb');
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

/** The level whose texels are about as large as the sheet's where it lies. `texel`: repeats that a sheet's texel spans. */
export function levelFor(data: PictureData, texel: number): PictureLevel {
  const footprint = texel * Math.sqrt(data.levels[0].width * data.levels[0].height);
  const n = footprint > 1 ? Math.round(Math.log2(footprint)) : 0;
  return data.levels[Math.min(data.levels.length - 1, n)];
}

interface Ready {
  recipe: HiddenRecipe | null;
  levels: Map<PictureLevel, { pixels: Pixels; alpha: Pixels | null; weighted: boolean }>;
}

function readyFor(data: PictureData, level: PictureLevel, kind: MapKind, { take }: PictureUse, hide: boolean) {
  const key = `${kind} ${kind === 'value' ? take : ''} ${hide}`;
  let found = data.ready.get(key);
  if (!found) {
    const recipe = hide && kind !== 'normal' ? hiddenRecipe(data.levels[0], kind, take) : null;
    data.ready.set(key, (found = { recipe, levels: new Map() }));
  }
  let ready = found.levels.get(level);
  if (!ready) {
    const alpha = readyAlpha(level);
    const weighted = alpha !== null && (kind === 'normal' || take !== 'alpha');
    ready = { pixels: readyPixels(level, kind, take, found.recipe, weighted), alpha, weighted };
    found.levels.set(level, ready);
  }
  return { recipe: found.recipe, ...ready };
}

/** Each texel of the sheet shows one of the picture's, as it is: baked maps, mostly. */
export function liesTexelOnTexel(
  picture: Pick<Picture, 'width' | 'height'>,
  use: PictureUse,
  placement: Placement,
  sheet: TapPlace['sheet'],
  onModel: boolean,
): boolean {
  if (picture.width !== sheet.width || picture.height !== sheet.height || use.neutral > 0 || placement.hide > 0) return false;
  if (onModel && placement.by !== 'uv') return false;
  const { mirrorX, mirrorY, offset } = placement;
  if (mirrorX || mirrorY || offset[0] !== 0 || offset[1] !== 0) return false;
  const { a, b, c, d } = uvMatrix(placement, sheet);
  return a === 1 && b === 0 && c === 0 && d === 1;
}

/**
 * What a picture's tile gives where it lies texel on texel: the map's planes over a rectangle of it, then alpha; 0 where there is nothing
 * of it. `texels`: RGBA, 16 bit, straight alpha.
 */
export function pictureTexels(texels: Uint16Array, rect: Rect, take: Grey, kind: MapKind, out: Float32Array): void {
  const n = rect.width * rect.height;
  const colour = [0, 0, 0, 0];
  for (let y = 0, i = 0; y < rect.height; y++)
    for (let x = 0, o = ((rect.y + y) * TILE + rect.x) * 4; x < rect.width; x++, i++, o += 4) {
      const alpha = texels[o + 3];
      if (kind === 'value') {
        out[n + i] = take === 'alpha' ? 1 : alpha / MAX16;
        for (let k = 0; k < 4; k++) colour[k] = texels[o + k] / MAX16;
        out[i] = alpha > 0 ? greyOf(take, colour) : 0;
        continue;
      }
      out[3 * n + i] = take === 'alpha' ? 1 : alpha / MAX16;
      if (kind === 'colour' && (alpha > 0 || take === 'alpha'))
        for (let k = 0; k < 3; k++) out[k * n + i] = texels[o + k] / MAX16;
      else if (alpha > 0) direction(texels, o, out, i, n);
      else for (let k = 0; k < 3; k++) out[k * n + i] = 0;
    }
}

/** X and Y are read, Z follows. Unit length, encoded. */
function direction(texels: Uint16Array, o: number, out: Float32Array, i: number, n: number): void {
  const x = (texels[o] - 32768) * 2 * PLAIN_STEP;
  const y = (texels[o + 1] - 32768) * 2 * PLAIN_STEP;
  const long = Math.hypot(x, y);
  const short = long > STEEPEST ? STEEPEST / long : 1;
  out[i] = x * short * 0.5 + 0.5;
  out[n + i] = y * short * 0.5 + 0.5;
  out[2 * n + i] = Math.sqrt(1 - (x * x + y * y) * short * short) * 0.5 + 0.5;
}

/** Directions lie no flatter than this, so that they have a Z. */
const STEEPEST = 0.98;

/** A tile of a placed picture: the map's planes, then alpha; null where it lies on nothing. */
export function pictureTile(
  data: PictureData,
  use: PictureUse,
  placement: Placement,
  kind: MapKind,
  place: TapPlace,
): Float32Array | null {
  const level = levelFor(data, texelOf(placement, place.sheet, place.surface));
  const { set, turned } = tapsOf(placement, place, level.width, level.height);
  if (set.count === 0) return null;
  const channels = kind === 'value' ? 1 : 3;
  const out = new Float32Array(TILE_TEXELS * (channels + 1));
  const { recipe, pixels, alpha, weighted } = readyFor(data, level, kind, use, placement.hide > 0);
  const down = level.width + 1;
  const { pictures } = kernels();
  const table = recipe?.back ?? null;
  const steps = GAUSS_STEP * BINS_A_DEVIATION;
  // Towards neutral grey: the picture's own mean becomes the middle.
  const shift = (mean: number) => use.neutral * (0.5 - mean);
  // What is weighted is shifted once the weight is out of it.
  const later = weighted && !recipe;
  const lift = (c: number, mean: number) => (recipe ? recipe.mean[c] : 32768 * PLAIN_STEP) + (later ? 0 : shift(mean));
  const grey = greyOf(use.take, [...data.mean, 1]);
  if (kind === 'normal') layDirections(pictures.pixelsOf(pixels), set, down, turned, placement, out);
  else if (kind === 'value')
    pictures.readValues(
      set,
      pixels,
      down,
      { table, steps, by: recipe ? 1 : PLAIN_STEP, lift: lift(0, grey) },
      out.subarray(0, TILE_TEXELS),
    );
  else {
    const axes = recipe
      ? recipe.axes.flatMap((a) => [...a, 0])
      : [0, 1, 2].flatMap((k) => [0, 1, 2, 3].map((c) => (c === k ? PLAIN_STEP : 0)));
    const matrix = Float32Array.from([...axes, ...data.mean.map((m, c) => lift(c, m)), 0]);
    pictures.readColours(set, pixels, down, { table, steps, matrix }, out);
  }
  const cover = out.subarray(channels * TILE_TEXELS);
  if (alpha && use.take !== 'alpha') layAlpha(alpha, set, down, placement.hide, cover);
  else cover.set(set.views().seen);
  if (later && kind !== 'normal')
    for (let c = 0; c < channels; c++)
      unweigh(out.subarray(c * TILE_TEXELS, (c + 1) * TILE_TEXELS), cover, shift(kind === 'value' ? grey : data.mean[c]));
  return out;
}

/** Divides by the alpha that was read with it. */
function unweigh(values: Float32Array, alpha: Float32Array, shift: number): void {
  for (let i = 0; i < values.length; i++) {
    const v = alpha[i] > 0 ? values[i] / alpha[i] + shift : 0;
    values[i] = v < 0 ? 0 : v > 1 ? 1 : v;
  }
}

/** `strength`: how much comes from the patches where the picture as it is comes too; alpha is averaged as it is. */
function layAlpha(alpha: Pixels, set: TapSet, down: number, strength: number, out: Float32Array): void {
  const { pictures } = kernels();
  if (set.reads === 1) {
    const asItIs = { table: null, steps: 0, by: PLAIN_STEP, lift: 32768 * PLAIN_STEP };
    return pictures.readValues(set, alpha, down, asItIs, out);
  }
  const codes = pictures.pixelsOf(alpha);
  const { texel, share, scale, at, weights } = set.views();
  const { count, reads } = set;
  const both = Math.hypot(strength, 1 - strength);
  for (let t = 0; t < count; t++) {
    let sum = 0;
    for (let o = t * MOST_READS, k = 0; k < reads; k++, o++) {
      const i = at[o];
      const top = codes[i] * weights[o * 4] + codes[i + 1] * weights[o * 4 + 1];
      const all = top + codes[i + down] * weights[o * 4 + 2] + codes[i + down + 1] * weights[o * 4 + 3];
      sum += reads !== 4 ? all : all * (k < 3 ? strength : scale[t] * both);
    }
    const v = (sum + 32768) * PLAIN_STEP;
    out[texel[t]] += share[t] * (v < 0 ? 0 : v > 1 ? 1 : v);
  }
}

/**
 * Directions: what pointed along the picture's X points along it still, once the picture or its patches are turned or
 * mirrored. X and Y are read, Z follows. Unit length, encoded.
 */
function layDirections(codes: Int16Array, set: TapSet, down: number, turned: number, p: Placement, out: Float32Array): void {
  const { texel, share, scale, at, weights, turn } = set.views();
  const { count, reads } = set;
  const [mx, my] = [p.mirrorX ? -1 : 1, p.mirrorY ? -1 : 1];
  const [cos, sin] = [Math.cos(turned), Math.sin(turned)];
  const n = TILE_TEXELS;
  const seen = new Uint8Array(n);
  for (let t = 0; t < count; t++) {
    let x = 0;
    let y = 0;
    for (let o = t * MOST_READS, k = 0; k < reads; k++, o++) {
      let u = 0;
      let v = 0;
      let whole = 0;
      let there = 0;
      for (let q = 0; q < 4; q++) {
        const i = (at[o] + (q & 1) + (q >> 1) * down) * 4;
        u += codes[i] * weights[o * 4 + q];
        v += codes[i + 1] * weights[o * 4 + q];
        there += (codes[i + 3] / WHOLE) * weights[o * 4 + q];
        whole += weights[o * 4 + q];
      }
      if (there <= 0) continue;
      u *= whole / there;
      v *= whole / there;
      const c = reads === 1 ? 1 : TURNS[turn[o] * 2];
      const s = reads === 1 ? 0 : TURNS[turn[o] * 2 + 1];
      x += c * u - s * v;
      y += s * u + c * v;
    }
    x *= scale[t] * 2 * PLAIN_STEP * mx;
    y *= scale[t] * 2 * PLAIN_STEP * my;
    const long = Math.hypot(x, y);
    const short = long > 0.98 ? 0.98 / long : 1;
    x *= short;
    y *= short;
    const i = texel[t];
    out[i] += share[t] * (cos * x + sin * y);
    out[n + i] += share[t] * (-sin * x + cos * y);
    out[2 * n + i] += share[t] * Math.sqrt(1 - x * x - y * y);
    seen[i] = 1;
  }
  for (let i = 0; i < n; i++) {
    if (!seen[i]) continue;
    const l = Math.hypot(out[i], out[n + i], out[2 * n + i]);
    for (let c = 0; c < 3; c++) out[c * n + i] = (out[c * n + i] / l) * 0.5 + 0.5;
  }
}

/**
 * Pictures as sources: a picture of any size, sampled where the placement puts it. Values are encoded as the picture
 * is; its smaller levels are averaged in linear light where it is a colour.
 */
import { linearToSrgb, srgbToLinear } from '../colour/transfer';
import { planeKey, type Picture, type PictureUse, type Sheet } from '../document/schema';
import { kernels } from '../../kernels';
import { pictureFromTiles, stampOf, TILE_TEXELS, type TileIndex, type TileStore } from '../raster/tiles';
import type { MapKind } from './filters/filter';
import { greyOf } from './grey';
import { fillHidden, hiddenRecipe, patchesOf, type HiddenRecipe } from './hidden';
import { projectionsOf, type Placement, type Projection } from './placement';
import { mixSignature, type Signature } from './signature';
import type { Surface } from './surface';

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
  hidden: Partial<Record<MapKind, HiddenRecipe>>;
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
    hidden: {},
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

/**
 * RGBA of a picture at a place in repeats, 0..1 into `out`; beyond its border it begins anew. Between texels it is
 * interpolated as it is encoded.
 */
export function sample(level: PictureLevel, x: number, y: number, out: Float32Array | number[]): void {
  const { width, height, data } = level;
  const px = (x - Math.floor(x)) * width - 0.5;
  const py = (y - Math.floor(y)) * height - 0.5;
  const ix = Math.floor(px);
  const iy = Math.floor(py);
  const fx = px - ix;
  const fy = py - iy;
  const x0 = ix < 0 ? width - 1 : ix;
  const y0 = iy < 0 ? height - 1 : iy;
  const x1 = x0 + 1 === width ? 0 : x0 + 1;
  const y1 = y0 + 1 === height ? 0 : y0 + 1;
  const a = (y0 * width + x0) * 4;
  const b = (y0 * width + x1) * 4;
  const c = (y1 * width + x0) * 4;
  const d = (y1 * width + x1) * 4;
  const wd = (fx * fy) / 65535;
  const wb = fx / 65535 - wd;
  const wc = fy / 65535 - wd;
  const wa = 1 / 65535 - fx / 65535 - wc;
  out[0] = data[a] * wa + data[b] * wb + data[c] * wc + data[d] * wd;
  out[1] = data[a + 1] * wa + data[b + 1] * wb + data[c + 1] * wc + data[d + 1] * wd;
  out[2] = data[a + 2] * wa + data[b + 2] * wb + data[c + 2] * wc + data[d + 2] * wd;
  out[3] = data[a + 3] * wa + data[b + 3] * wb + data[c + 3] * wc + data[d + 3] * wd;
}

/** The level whose texels are about as large as the sheet's where it lies. `texel`: repeats that a sheet's texel spans. */
export function levelFor(data: PictureData, texel: number): PictureLevel {
  const footprint = texel * Math.sqrt(data.levels[0].width * data.levels[0].height);
  const n = footprint > 1 ? Math.round(Math.log2(footprint)) : 0;
  return data.levels[Math.min(data.levels.length - 1, n)];
}

export interface PicturePlace {
  sheet: Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>;
  surface: Surface | null;
  tile: TileIndex;
}

/** A tile of a placed picture: the map's planes, then alpha. */
export function pictureTile(
  data: PictureData,
  use: PictureUse,
  placement: Placement,
  kind: MapKind,
  place: PicturePlace,
): Float32Array {
  const channels = kind === 'value' ? 1 : 3;
  const out = new Float32Array(TILE_TEXELS * (channels + 1));
  const mark = kernels.mark();
  for (const projection of projectionsOf(placement, place.sheet, place.surface, place.tile, false))
    lay(data, use, placement, kind, projection, out);
  kernels.release(mark);
  if (kind === 'normal') straighten(out);
  return out;
}

function lay(
  data: PictureData,
  use: PictureUse,
  placement: Placement,
  kind: MapKind,
  projection: Projection,
  out: Float32Array,
): void {
  const { field, weight, turned } = projection;
  const level = levelFor(data, field.texel);
  const channels = kind === 'value' ? 1 : 3;
  const n = TILE_TEXELS;
  const texel = new Float32Array(4);
  const values = new Float32Array(3);
  const recipe = placement.hide > 0 ? (data.hidden[kind] ??= hiddenRecipe(data.levels[0], kind, use.take)) : null;
  if (recipe && placement.hide === 1 && layHidden(recipe, level, data, use, projection, channels, out)) return;
  const patches = recipe ? patchesOf(recipe, level, field, placement.hide) : null;
  const [mx, my] = [placement.mirrorX ? -1 : 1, placement.mirrorY ? -1 : 1];
  const [cos, sin] = [Math.cos(turned), Math.sin(turned)];
  // Towards neutral grey: the picture's own mean becomes the middle.
  const lift = [0, 1, 2].map((c) => use.neutral * (0.5 - data.mean[c]));
  for (let i = 0; i < n; i++) {
    const w = weight ? weight[i] : 1;
    if (w === 0) continue;
    if (patches) patches(i, texel);
    else sample(level, field.x[i], field.y[i], texel);
    if (kind === 'value') {
      values[0] = greyOf(use.take, texel);
      if (use.neutral > 0) values[0] += use.neutral * (0.5 - greyOf(use.take, [...data.mean, 1]));
    } else if (kind === 'normal') {
      // What pointed along the picture's X points along it still once the picture is turned or mirrored.
      const x = (texel[0] * 2 - 1) * mx;
      const y = (texel[1] * 2 - 1) * my;
      values[0] = (cos * x + sin * y) * 0.5 + 0.5;
      values[1] = (-sin * x + cos * y) * 0.5 + 0.5;
      values[2] = texel[2];
    } else for (let c = 0; c < 3; c++) values[c] = texel[c] + lift[c];
    for (let c = 0; c < channels; c++) out[c * n + i] += w * (values[c] < 0 ? 0 : values[c] > 1 ? 1 : values[c]);
    out[channels * n + i] += w * (use.take === 'alpha' ? 1 : texel[3]);
  }
}

/** The quick way for solid pictures at full strength (hidden.ts); false where it does not go. */
function layHidden(
  recipe: HiddenRecipe,
  level: PictureLevel,
  data: PictureData,
  use: PictureUse,
  { field, weight }: Projection,
  channels: number,
  out: Float32Array,
): boolean {
  const n = TILE_TEXELS;
  const values = kernels.floats(n * channels);
  if (!fillHidden(recipe, level, field, weight, values)) return false;
  for (let c = 0; c < channels; c++) {
    const mean = channels === 1 ? greyOf(use.take, [...data.mean, 1]) : data.mean[c];
    const lift = use.neutral * (0.5 - mean);
    for (let i = 0, o = c * n; i < n; i++, o++) {
      const w = weight ? weight[i] : 1;
      if (w === 0) continue;
      const v = values[o] + lift;
      out[o] += w * (v < 0 ? 0 : v > 1 ? 1 : v);
    }
  }
  for (let i = 0, o = channels * n; i < n; i++, o++) out[o] += weight ? weight[i] : 1;
  return true;
}

function straighten(out: Float32Array): void {
  const n = TILE_TEXELS;
  for (let i = 0; i < n; i++) {
    const v = [0, 1, 2].map((c) => out[c * n + i] * 2 - 1);
    const l = Math.hypot(...v) || 1;
    for (let c = 0; c < 3; c++) out[c * n + i] = (v[c] / l) * 0.5 + 0.5;
  }
}

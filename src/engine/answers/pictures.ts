/** Small pictures and figures of layers for the table: thumbnails and histograms. */
import { mapKind, storedChannels, type MapId, type PlaneMap } from '../../core/kinds/maps';
import type { Brush } from '../../core/hand/brush';
import { drawnPicture, type Pictures } from '../../core/hand/pictures';
import { SAMPLE_HEIGHT, SAMPLE_WIDTH, sampleStroke } from '../../core/hand/sampleStroke';
import { findPicture, type Sheet } from '../../core/document/schema';
import { planeKey } from '../../core/document/planes';
import { miniatureOf } from '../../core/piece/miniature';
import { TILE, TILE_TEXELS, tileIndex, tilesOf, type TileStore } from '../../core/tile/tiles';
import { Evaluator } from '../../core/strata/evaluator';
import { madeTile } from '../../core/strata/made';
import { pictureData, pictureStamp } from '../../core/strata/picture';
import type { Placement } from '../../core/kinds/placement';
import { programOf, programOfLayers, programOfMask, programOfStep } from '../../core/strata/program';
import type { Scope } from '../../core/strata/scope';
import type { Made } from '../../core/kinds/sources';

/** What a thumbnail is asked of. */
export type Want =
  | { of: 'paint'; ownerId: string; map: PlaneMap }
  /** A mask, or one of its steps by itself, as a layer uses it. */
  | { of: 'mask'; maskId: string; stepId?: string; layerId: string | null }
  /** What a layer lays down on a map. */
  | { of: 'layer'; layerId: string; map: MapId }
  | { of: 'rule'; made: Made; placement: Placement }
  | { of: 'picture'; pictureId: string }
  /** A brush, by a stroke of it. */
  | { of: 'stroke'; brush: Brush };

/** RGBA, straight alpha. */
export interface SmallPicture {
  width: number;
  height: number;
  data: Uint8ClampedArray<ArrayBuffer>;
}

/** Twice the size at which they are shown. */
export const THUMBNAIL_SIDE = 48;

export function thumbnail(sheet: Sheet, store: TileStore, want: Want, tips: Pictures = drawnPicture): SmallPicture {
  if (want.of === 'stroke') return { width: SAMPLE_WIDTH, height: SAMPLE_HEIGHT, data: sampleStroke(want.brush, 1, tips) };
  if (want.of === 'picture') return pictureThumbnail(sheet, store, want.pictureId);
  if (want.of === 'rule') {
    const small = { width: TILE, height: TILE, wrapU: sheet.wrapU, wrapV: sheet.wrapV };
    // Rules are shown as they are on a flat square: what they look like, not where they lie.
    const values = madeTile(want.made, { ...want.placement, by: 'uv' }, small, null, tileIndex(0, 0));
    return drawn(TILE, TILE, (i) => [values[i], values[i], values[i], 1]);
  }
  const mini = miniatureOf(sheet, store);
  const { width, height } = mini.sheet;
  const evaluator = new Evaluator(mini);
  const grey = (v: number): [number, number, number, number] => [v, v, v, 1];
  if (want.of === 'mask') {
    const use = want.stepId
      ? programOfStep(mini.sheet, want.maskId, want.stepId, want.layerId)
      : programOfMask(mini.sheet, want.maskId, want.layerId);
    const value = use ? evaluator.tile(use.scope, tileIndex(0, 0)) : null;
    return drawn(width, height, (i) => grey(value?.data ? value.data[i] : (value?.uniform?.[0] ?? 0)));
  }
  const map = want.of === 'layer' ? want.map : (want.map as MapId);
  const layerId = want.of === 'layer' ? want.layerId : want.ownerId;
  if (want.of === 'paint') {
    const channels = storedChannels(want.map);
    const data = mini.store.get(planeKey(want.ownerId, want.map), tileIndex(0, 0))?.data;
    return drawn(width, height, (i) => {
      if (!data) return [0, 0, 0, 0];
      const v = data.subarray(i * channels, (i + 1) * channels);
      const a = v[channels - 1] / 65535;
      return channels === 4 ? [v[0] / 65535, v[1] / 65535, v[2] / 65535, a] : [v[0] / 65535, v[0] / 65535, v[0] / 65535, a];
    });
  }
  const scope = programOfLayers(mini.sheet, map, [layerId]);
  const value = evaluator.tile(scope, tileIndex(0, 0));
  return drawn(width, height, (i) => {
    const at = (p: number) => (value.data ? value.data[p * TILE_TEXELS + i] : value.uniform[p]);
    return scope.channels === 3 ? [at(0), at(1), at(2), at(3)] : [at(0), at(0), at(0), at(1)];
  });
}

/** Samples a width × height area of a tile into a square, several samples a pixel. */
function drawn(width: number, height: number, at: (i: number) => [number, number, number, number]): SmallPicture {
  const side = THUMBNAIL_SIDE;
  const data = new Uint8ClampedArray(side * side * 4);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const sum = [0, 0, 0, 0];
      for (let n = 0; n < 4; n++) {
        const tx = Math.min(width - 1, Math.floor(((x + 0.25 + 0.5 * (n % 2)) / side) * width));
        const ty = Math.min(height - 1, Math.floor(((y + 0.25 + 0.5 * (n >> 1)) / side) * height));
        const c = at(ty * TILE + tx);
        for (let k = 0; k < 3; k++) sum[k] += c[k] * c[3];
        sum[3] += c[3];
      }
      const o = (y * side + x) * 4;
      if (sum[3] === 0) continue;
      for (let k = 0; k < 3; k++) data[o + k] = (sum[k] / sum[3]) * 255 + 0.5;
      data[o + 3] = (sum[3] / 4) * 255 + 0.5;
    }
  return { width: side, height: side, data };
}

function pictureThumbnail(sheet: Sheet, store: TileStore, pictureId: string): SmallPicture {
  const info = findPicture(sheet, pictureId);
  const side = { width: THUMBNAIL_SIDE, height: THUMBNAIL_SIDE };
  const data = new Uint8ClampedArray(THUMBNAIL_SIDE * THUMBNAIL_SIDE * 4);
  if (!info) return { ...side, data };
  const { levels } = pictureData(store, info, pictureStamp(store, pictureId));
  const level = levels.findLast((l) => Math.min(l.width, l.height) >= THUMBNAIL_SIDE) ?? levels[0];
  for (let y = 0; y < THUMBNAIL_SIDE; y++)
    for (let x = 0; x < THUMBNAIL_SIDE; x++) {
      const tx = Math.floor(((x + 0.5) / THUMBNAIL_SIDE) * level.width);
      const ty = Math.floor(((y + 0.5) / THUMBNAIL_SIDE) * level.height);
      for (let c = 0; c < 4; c++) data[(y * THUMBNAIL_SIDE + x) * 4 + c] = level.data[(ty * level.width + tx) * 4 + c] / 257;
    }
  return { ...side, data };
}

export interface Histogram {
  /** 256 shares each, the tallest 1: luminosity or value, and for colours red, green and blue. */
  value: number[];
  channels: number[][];
}

/** The scope and place of a layer's adjustment; null if it does nothing on the map. */
function findOp(scope: Scope, layerId: string): { scope: Scope; index: number } | null {
  for (const [index, op] of scope.ops.entries()) {
    if (op.layerId === layerId && op.type === 'adjust') return { scope, index };
    for (const inner of op.type === 'blend' ? op.source.scopes : []) {
      const found = findOp(inner.scope, layerId);
      if (found) return found;
    }
  }
  return null;
}

/**
 * Values of what an adjust layer gets, every fourth texel of every fourth row: enough for 256 bars. All that lies below is
 * made for it, which may take seconds: `goOn` is asked from tile to tile, and with false there is no answer.
 */
export async function histogramBelow(
  sheet: Sheet,
  evaluator: Evaluator,
  layerId: string,
  map: MapId,
  goOn: () => Promise<boolean>,
): Promise<Histogram | null> {
  const found = findOp(programOf(sheet, map), layerId);
  if (!found) return null;
  const { scope, index } = found;
  const counts = Array.from({ length: scope.channels }, () => new Float64Array(256));
  const luminosity = new Float64Array(256);
  const at = (v: number) => Math.min(255, Math.max(0, Math.round(v * 255)));
  const count = (values: number[], weight: number) => {
    values.forEach((v, c) => (counts[c][at(v)] += weight));
    luminosity[at(values.length === 3 ? 0.3 * values[0] + 0.59 * values[1] + 0.11 * values[2] : values[0])] += weight;
  };
  for (const tile of tilesOf(sheet.width, sheet.height)) {
    if (!(await goOn())) return null;
    const value = evaluator.tile(scope, tile, index);
    if (value.uniform) {
      if (value.uniform[scope.channels] > 0) count(value.uniform.slice(0, scope.channels), TILE_TEXELS / 16);
      continue;
    }
    for (let y = 0; y < TILE; y += 4)
      for (let x = 0; x < TILE; x += 4) {
        const i = y * TILE + x;
        if (value.data[scope.channels * TILE_TEXELS + i] === 0) continue;
        count(
          Array.from({ length: scope.channels }, (_, c) => value.data[c * TILE_TEXELS + i]),
          1,
        );
      }
  }
  const normalised = (bins: Float64Array) => {
    // A flat ground would dwarf the rest: bars are held against the second tallest.
    const tall = [...bins].toSorted((a, b) => b - a);
    const top = tall[1] || tall[0] || 1;
    return [...bins].map((v) => Math.min(1, v / top));
  };
  return { value: normalised(luminosity), channels: mapKind(map) === 'colour' ? counts.map(normalised) : [] };
}

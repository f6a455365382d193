/** Small pictures and figures of layers for the table: thumbnails and histograms. */
import { mapKind, storedChannels, type MapId, type PlaneMap } from '../core/document/maps';
import { planeKey, type Sheet } from '../core/document/schema';
import { TILE, TILE_TEXELS, tileIndex, tilesOf, type TileStore } from '../core/raster/tiles';
import type { Evaluator } from '../core/strata/evaluator';
import { programOf, type Scope } from '../core/strata/program';

export const THUMBNAIL_SIDE = 24;
/** Samples along each side of a thumbnail's pixel. */
const SAMPLES = 3;

/** Painted texels of a plane, seen from afar: RGBA, THUMBNAIL_SIDE squared. Values come out grey. */
export function planeThumbnail(sheet: Sheet, store: TileStore, ownerId: string, map: PlaneMap): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(THUMBNAIL_SIDE * THUMBNAIL_SIDE * 4);
  const key = planeKey(ownerId, map);
  const channels = storedChannels(map);
  const steps = THUMBNAIL_SIDE * SAMPLES;
  for (let py = 0; py < THUMBNAIL_SIDE; py++)
    for (let px = 0; px < THUMBNAIL_SIDE; px++) {
      const sum = [0, 0, 0, 0];
      for (let n = 0; n < SAMPLES * SAMPLES; n++) {
        const x = Math.floor(((px * SAMPLES + (n % SAMPLES) + 0.5) / steps) * sheet.width);
        const y = Math.floor(((py * SAMPLES + Math.floor(n / SAMPLES) + 0.5) / steps) * sheet.height);
        const data = store.get(key, tileIndex((x / TILE) | 0, (y / TILE) | 0))?.data;
        if (!data) continue;
        const o = ((y % TILE) * TILE + (x % TILE)) * channels;
        const a = data[o + channels - 1] / 65535;
        for (let c = 0; c < 3; c++) sum[c] += (data[o + (channels === 4 ? c : 0)] / 257) * a;
        sum[3] += a;
      }
      const o = (py * THUMBNAIL_SIDE + px) * 4;
      if (sum[3] === 0) continue;
      for (let c = 0; c < 3; c++) out[o + c] = sum[c] / sum[3];
      out[o + 3] = (sum[3] / (SAMPLES * SAMPLES)) * 255;
    }
  return out;
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
    if (op.type === 'blend' && (op.source.type === 'scope' || op.source.type === 'converted')) {
      const found = findOp(op.source.scope, layerId);
      if (found) return found;
    }
  }
  return null;
}

/** Values of what an adjust layer gets, every fourth texel of every fourth row: enough for 256 bars. */
export function histogramBelow(sheet: Sheet, evaluator: Evaluator, layerId: string, map: MapId): Histogram | null {
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

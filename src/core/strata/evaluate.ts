/**
 * Evaluating a sheet's strata by pulling a region of one map: from the sheet's ground up, each visible layer
 * that touches the map is composited over what lies below (W3C Compositing, backdrop opaque):
 *   c = cb + a · (B(cb, cs) − cb),   a = coverage × opacity.
 * Values are float32 in the map's stored encoding (base colour: the sRGB curve).
 */
import { BLENDS, type BlendId } from '../colour/blend';
import { MAPS, storedChannels, valueChannels, type MapId } from '../document/maps';
import { planeKey, type Layer, type Sheet } from '../document/schema';
import { TILE, tileIndex, type TileIndex, type TileStore } from '../raster/tiles';

export interface StrataSource {
  sheet: Sheet;
  store: TileStore;
}

interface Contribution {
  blend: BlendId;
  opacity: number;
  /** A coat's value; null for painted layers. */
  value: readonly number[] | null;
  plane: string;
}

/** The blend mode that a layer really uses on a map: height adds up unless its cell says otherwise. */
export function effectiveBlend(layer: Layer, map: MapId): BlendId {
  return layer.cells[map]?.blend ?? (map === 'height' ? 'add' : layer.blend);
}

function contributions(sheet: Sheet, map: MapId): Contribution[] {
  const out: Contribution[] = [];
  if (!sheet.maps.includes(map)) return out;
  for (const layer of sheet.layers) {
    const cell = layer.cells[map];
    if (!layer.visible || layer.opacity === 0 || !cell?.on) continue;
    const value = layer.kind === 'coat' ? cell.value! : null;
    const blend = effectiveBlend(layer, map);
    // An opaque coat hides all that lies below.
    if (value && blend === 'normal' && layer.opacity === 1) out.length = 0;
    out.push({ blend, opacity: layer.opacity, value, plane: planeKey(layer.id, map) });
  }
  return out;
}

const clamp01 = (v: number) => (v < 0 ? 0 : v > 1 ? 1 : v);
const floorMod = (v: number, n: number) => ((v % n) + n) % n;

/**
 * Evaluates texels [x, x + width) × [y, y + height) into `out` (row by row, channels interleaved).
 * Outside the sheet the region wraps where the sheet wraps, else the border texel goes on.
 */
export function evaluateRegion(
  source: StrataSource,
  map: MapId,
  x: number,
  y: number,
  width: number,
  height: number,
  out: Float32Array,
): void {
  const { sheet } = source;
  const layers = contributions(sheet, map);
  // Pieces of the region that lie in one tile (or, beyond an edge that does not wrap, in one row or column).
  for (let ry = 0; ry < height;) {
    const [sy, rows] = run(y + ry, height - ry, sheet.height, sheet.wrapV);
    for (let rx = 0; rx < width;) {
      const [sx, columns] = run(x + rx, width - rx, sheet.width, sheet.wrapU);
      evaluatePiece(source, map, layers, sx, sy, columns, rows, out, ry * width + rx, width);
      rx += columns;
    }
    ry += rows;
  }
}

/** Where a run of texels starts in the sheet, and how far it goes within one tile. */
function run(at: number, left: number, size: number, wrap: boolean): [start: number, count: number] {
  if (wrap) at = floorMod(at, size);
  else if (at < 0) return [0, 1];
  else if (at >= size) return [size - 1, 1];
  return [at, Math.min(left, TILE - (at % TILE), size - at)];
}

function evaluatePiece(
  source: StrataSource,
  map: MapId,
  layers: Contribution[],
  x: number,
  y: number,
  width: number,
  height: number,
  out: Float32Array,
  outTexel: number,
  outStride: number,
): void {
  const channels = valueChannels(map);
  const tile = tileIndex((x / TILE) | 0, (y / TILE) | 0);
  const flat = constantUpTo(source.store, layers, tile, map);
  for (let row = 0; row < height; row++) {
    let o = (outTexel + row * outStride) * channels;
    for (let i = 0; i < width; i++) for (let c = 0; c < channels; c++) out[o++] = flat.value[c];
  }
  for (let n = flat.next; n < layers.length; n++)
    blendPiece(source.store, layers[n], map, tile, x, y, width, height, out, outTexel, outStride);
}

/** The value before the first layer that has paint in this tile: the same for all texels, computed once. */
function constantUpTo(store: TileStore, layers: Contribution[], tile: TileIndex, map: MapId) {
  const value = [...MAPS[map].ground];
  let next = 0;
  for (; next < layers.length; next++) {
    const layer = layers[next];
    if (layer.value === null) {
      if (store.get(layer.plane, tile)) break;
      continue;
    }
    const fn = BLENDS[layer.blend].fn;
    for (let c = 0; c < value.length; c++)
      value[c] = clamp01(value[c] + layer.opacity * (fn(value[c], layer.value[c]) - value[c]));
  }
  return { value, next };
}

function blendPiece(
  store: TileStore,
  layer: Contribution,
  map: MapId,
  tile: TileIndex,
  x: number,
  y: number,
  width: number,
  height: number,
  out: Float32Array,
  outTexel: number,
  outStride: number,
): void {
  const channels = valueChannels(map);
  const stored = storedChannels(map);
  const fn = BLENDS[layer.blend].fn;
  const data = layer.value ? null : store.data(layer.plane, tile);
  if (!layer.value && !data) return;
  const normal = layer.blend === 'normal';
  const alphaScale = layer.opacity / 65535;
  for (let row = 0; row < height; row++) {
    let o = (outTexel + row * outStride) * channels;
    let s = (((y + row) % TILE) * TILE + (x % TILE)) * stored;
    for (let i = 0; i < width; i++, o += channels, s += stored) {
      const a = data ? data[s + channels] * alphaScale : layer.opacity;
      if (a === 0) continue;
      for (let c = 0; c < channels; c++) {
        const cb = out[o + c];
        const cs = data ? data[s + c] / 65535 : layer.value![c];
        if (normal) out[o + c] = cb + a * (cs - cb);
        else out[o + c] = clamp01(cb + a * (fn(cb, cs) - cb));
      }
    }
  }
}

/** A whole map as 16-bit unorm, row by row, channels interleaved. */
export function evaluateWhole16(source: StrataSource, map: MapId): Uint16Array {
  const { width, height } = source.sheet;
  const channels = valueChannels(map);
  const out = new Uint16Array(width * height * channels);
  const strip = new Float32Array(width * TILE * channels);
  for (let y = 0; y < height; y += TILE) {
    const rows = Math.min(TILE, height - y);
    evaluateRegion(source, map, 0, y, width, rows, strip);
    const base = y * width * channels;
    for (let i = 0; i < width * rows * channels; i++) out[base + i] = strip[i] * 65535 + 0.5;
  }
  return out;
}

/** Value of one map at one texel, in the stored encoding: what the picker shows. */
export function valueAt(source: StrataSource, map: MapId, x: number, y: number): number[] {
  const out = new Float32Array(valueChannels(map));
  evaluateRegion(source, map, x, y, 1, 1, out);
  return [...out];
}

/** True if no layer can vary over the region's tiles: then one texel speaks for all. */
export function isUniform(source: StrataSource, map: MapId, tile: TileIndex): boolean {
  return contributions(source.sheet, map).every((l) => l.value !== null || !source.store.get(l.plane, tile));
}

/** Regions, whole maps and single values of a sheet: thin functions around the evaluator. */
import { mapGround, valueChannels, type MapId } from '../kinds/maps';
import { kernels } from '../kernels';
import { TILE, tileIndex, tilesOf, tileX, tileY, TILE_TEXELS, type TileIndex } from '../tile/tiles';
import { Evaluator, type StrataSource } from './evaluator';
import { programOf, programOfLayers } from './program';
import type { Scope } from './scope';
import { gather } from './window';

export type { StrataSource } from './evaluator';
export { effectiveBlend } from './program';

/**
 * Evaluates texels [x, x + width) × [y, y + height) of a map into `out` (row by row, channels interleaved,
 * stored encoding). Outside the sheet the region wraps where the sheet wraps, else the border texel goes on.
 */
export function evaluateRegion(
  source: StrataSource,
  map: MapId,
  x: number,
  y: number,
  width: number,
  height: number,
  out: Float32Array,
  evaluator = new Evaluator(source),
): void {
  const scope = programOf(source.sheet, map);
  const planes = new Float32Array(width * height * scope.channels);
  gather(source.sheet, { x, y, width, height }, scope.channels, (t) => evaluator.tile(scope, t), planes);
  interleave(planes, width * height, scope.channels, out);
}

function interleave(planes: Float32Array, texels: number, channels: number, out: Float32Array): void {
  if (channels === 1) return out.set(planes);
  for (let c = 0; c < channels; c++)
    for (let i = 0, o = c, p = c * texels; i < texels; i++, o += channels) out[o] = planes[p + i];
}

/** Writes one evaluated tile into a whole 16-bit picture, channels interleaved. */
export function tileTo16(
  evaluator: Evaluator,
  scope: Scope,
  tile: TileIndex,
  width: number,
  height: number,
  out: Uint16Array,
): void {
  const { channels } = scope;
  const x0 = tileX(tile) * TILE;
  const y0 = tileY(tile) * TILE;
  const columns = Math.min(TILE, width - x0);
  const rows = Math.min(TILE, height - y0);
  // Strip by strip: a strip's planes stay in a near cache while all layers go over it.
  for (let top = 0; top < rows; top += STRIP)
    evaluator.rect(scope, tile, { x: 0, y: top, width: TILE, height: STRIP }, (even, planes) => {
      const count = Math.min(STRIP, rows - top);
      if (even) {
        for (let y = top; y < top + count; y++)
          for (let x = 0, o = ((y0 + y) * width + x0) * channels; x < columns; x++)
            for (let c = 0; c < channels; c++) out[o++] = even[c] * 65535 + 0.5;
        return;
      }
      const texels = TILE * STRIP;
      const codes = channels === 3 ? kernels().interleave16(planes!, texels) : kernels().toUint16(planes!.subarray(0, texels));
      for (let y = 0; y < count; y++) {
        const from = y * TILE * channels;
        out.set(codes.subarray(from, from + columns * channels), ((y0 + top + y) * width + x0) * channels);
      }
    });
}
/**
 * Rows at a time: the planes of 64 rows of 128 texels are 96 KiB, a tenth of a second-level cache. Measured: fewer rows cost
 * more in calls than a nearer cache gains, since texels are read where they lie.
 */
const STRIP = 64;

/** A whole map as 16-bit unorm, row by row, channels interleaved. */
export function evaluateWhole16(
  source: StrataSource,
  map: MapId,
  out = new Uint16Array(source.sheet.width * source.sheet.height * valueChannels(map)),
): Uint16Array {
  const { width, height } = source.sheet;
  const scope = programOf(source.sheet, map);
  const evaluator = new Evaluator(source);
  for (const tile of tilesOf(width, height)) tileTo16(evaluator, scope, tile, width, height, out);
  return out;
}

/** Value of one map at one texel, in the stored encoding: what the picker shows. */
export function valueAt(source: StrataSource, map: MapId, x: number, y: number, evaluator = new Evaluator(source)): number[] {
  const channels = valueChannels(map);
  if (!source.sheet.maps.includes(map)) return [...mapGround(map)];
  const value = evaluator.tile(programOf(source.sheet, map), tileIndex((x / TILE) | 0, (y / TILE) | 0));
  if (!value.data) return value.uniform.slice(0, channels);
  const i = (y % TILE) * TILE + (x % TILE);
  return Array.from({ length: channels }, (_, c) => value.data[c * TILE_TEXELS + i]);
}

/** The same of one layer by itself, as it stands; null where it has nothing there. */
export function valueOfLayerAt(source: StrataSource, layerId: string, map: MapId, x: number, y: number): number[] | null {
  const scope = programOfLayers(source.sheet, map, [layerId]);
  if (scope.ops.length === 0) return null;
  const value = new Evaluator(source).tile(scope, tileIndex((x / TILE) | 0, (y / TILE) | 0));
  const i = (y % TILE) * TILE + (x % TILE);
  const at = (c: number) => (value.data ? value.data[c * TILE_TEXELS + i] : value.uniform[c]);
  if (!(at(scope.channels) > 0)) return null;
  return Array.from({ length: scope.channels }, (_, c) => at(c));
}

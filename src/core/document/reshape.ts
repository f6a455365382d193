/** Changing the size and the lie of stored planes: resize, crop, extend, quarter turns, mirroring. */
import { holdsOf, mapKind, storedChannels, type PlaneMap } from '../kinds/maps';
import { LIMITS } from './layer';
import { fitPicture } from '../tile/fit';

export type Reshape =
  | { kind: 'resize'; width: number; height: number }
  /** The new sheet shows [x, x + width) × [y, y + height) of the old; what lies outside is empty. */
  | { kind: 'frame'; x: number; y: number; width: number; height: number }
  /** Quarter turns clockwise. */
  | { kind: 'turn'; quarters: 1 | 2 | 3 }
  /** `x`: left and right change places. */
  | { kind: 'mirror'; axis: 'x' | 'y' };

export interface Extent {
  width: number;
  height: number;
}

export function reshapedExtent({ width, height }: Extent, by: Reshape): Extent {
  if (by.kind === 'resize' || by.kind === 'frame') return { width: by.width, height: by.height };
  if (by.kind === 'turn' && by.quarters !== 2) return { width: height, height: width };
  return { width, height };
}

/** Why a sheet cannot have this size, a sentence without its full stop; null if it can. */
export function extentFault({ width, height }: Extent): string | null {
  const wrong = [width, height].find((side) => !Number.isInteger(side) || side < LIMITS.minSize || side > LIMITS.maxSize);
  if (wrong === undefined) return null;
  return `A side would be ${Number.isNaN(wrong) ? 'no number of' : wrong} texels, but has to be a whole number from ${LIMITS.minSize} to ${LIMITS.maxSize}`;
}

/** Pixels (uint16, interleaved as stored) of a plane after the change. Resizing filters colour in linear light. */
export function reshapePlane(
  pixels: Uint16Array,
  extent: Extent & { wrapU?: boolean; wrapV?: boolean },
  map: PlaneMap,
  by: Reshape,
): Uint16Array {
  const channels = storedChannels(map);
  const { width, height, wrapU, wrapV } = extent;
  if (by.kind === 'resize')
    return fitPicture({ width, height, channels, bits: 16, data: pixels }, by.width, by.height, channels, holdsOf(map), {
      wrapX: wrapU,
      wrapY: wrapV,
    });
  const to = reshapedExtent(extent, by);
  const out = new Uint16Array(to.width * to.height * channels);
  for (let y = 0; y < to.height; y++)
    for (let x = 0; x < to.width; x++) {
      const [sx, sy] = sourceOf(x, y, extent, by);
      if (sx < 0 || sy < 0 || sx >= width || sy >= height) continue;
      const s = (sy * width + sx) * channels;
      const o = (y * to.width + x) * channels;
      for (let c = 0; c < channels; c++) out[o + c] = pixels[s + c];
    }
  if (mapKind(map) === 'normal') turnNormals(out, by);
  return out;
}

/** The old texel that comes to lie at a new one. */
export function sourceOf(
  x: number,
  y: number,
  { width, height }: Extent,
  by: Exclude<Reshape, { kind: 'resize' }>,
): [number, number] {
  if (by.kind === 'frame') return [x + by.x, y + by.y];
  if (by.kind === 'mirror') return by.axis === 'x' ? [width - 1 - x, y] : [x, height - 1 - y];
  if (by.quarters === 1) return [y, height - 1 - x];
  if (by.quarters === 2) return [width - 1 - x, height - 1 - y];
  return [width - 1 - y, x];
}

/** Directions turn with the picture: X to the right, Y up. */
function turnNormals(data: Uint16Array, by: Exclude<Reshape, { kind: 'resize' }>): void {
  if (by.kind === 'frame') return;
  for (let o = 0; o < data.length; o += 4) {
    const [x, y] = [data[o], data[o + 1]];
    if (by.kind === 'mirror') data[o + (by.axis === 'x' ? 0 : 1)] = 65535 - (by.axis === 'x' ? x : y);
    else {
      // Clockwise: what pointed up points right, what pointed right points down.
      const turned = { 1: [y, 65535 - x], 2: [65535 - x, 65535 - y], 3: [65535 - y, x] }[by.quarters];
      [data[o], data[o + 1]] = turned;
    }
  }
}

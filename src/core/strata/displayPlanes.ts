/**
 * What the viewport draws: 8-bit RGBA planes computed from the maps.
 *   colour   base colour, sRGB
 *   surface  R height · G roughness · B metallic (glTF's places for G and B), data
 *   normal   tangent-space normal from height, Y up, data
 */
import { valueChannels, type MapId } from '../document/maps';
import type { Sheet } from '../document/schema';
import type { MipPyramid, Rect } from '../raster/mips';
import { normalsFromField } from '../raster/normal';
import { tileIndex, TILE } from '../raster/tiles';
import { evaluateRegion, isUniform, type StrataSource } from './evaluate';

export const PLANE_IDS = ['colour', 'surface', 'normal'] as const;
export type PlaneId = (typeof PLANE_IDS)[number];

export const PLANES: Record<PlaneId, { encoding: 'srgb' | 'linear'; maps: readonly MapId[]; halo: number }> = {
  colour: { encoding: 'srgb', maps: ['base-colour'], halo: 0 },
  surface: { encoding: 'linear', maps: ['height', 'roughness', 'metallic'], halo: 0 },
  normal: { encoding: 'linear', maps: ['height'], halo: 1 },
};

export function planesOfMap(map: MapId): PlaneId[] {
  return PLANE_IDS.filter((p) => PLANES[p].maps.includes(map));
}

/** Height values (0..1, 0.5 level) to texels of relief. */
export function heightScaleTexels(sheet: Sheet): number {
  return sheet.heightSpan * sheet.width;
}

/** Scratch that grows to the largest region asked for. */
let scratch = new Float32Array(0);
let scratchNormals = new Float32Array(0);
function need(length: number): Float32Array {
  if (scratch.length < length) scratch = new Float32Array(length);
  return scratch;
}

/** Draws one rectangle of a plane into level 0 of its pyramid. */
export function renderPlane(source: StrataSource, plane: PlaneId, rect: Rect, pyramid: MipPyramid): void {
  const level = pyramid.levels[0];
  if (plane === 'colour') {
    const values = need(rect.width * rect.height * 3);
    evaluateRegion(source, 'base-colour', rect.x, rect.y, rect.width, rect.height, values);
    put(values, 3, 0, rect, level, true);
  } else if (plane === 'surface') {
    PLANES.surface.maps.forEach((map, channel) => {
      const values = need(rect.width * rect.height * valueChannels(map));
      evaluateRegion(source, map, rect.x, rect.y, rect.width, rect.height, values);
      put(values, 1, channel, rect, level, channel === 0);
    });
  } else {
    const normals = normalRegion(source, rect);
    const { width, data } = level;
    for (let y = 0; y < rect.height; y++) {
      let o = ((rect.y + y) * width + rect.x) * 4;
      for (let x = 0, i = y * rect.width * 3; x < rect.width; x++, o += 4, i += 3) {
        data[o] = (normals[i] * 0.5 + 0.5) * 255 + 0.5;
        data[o + 1] = (normals[i + 1] * 0.5 + 0.5) * 255 + 0.5;
        data[o + 2] = (normals[i + 2] * 0.5 + 0.5) * 255 + 0.5;
        data[o + 3] = 255;
      }
    }
  }
}

function put(
  values: Float32Array,
  channels: number,
  firstChannel: number,
  rect: Rect,
  level: { width: number; data: Uint8Array },
  opaque: boolean,
): void {
  for (let y = 0; y < rect.height; y++) {
    let o = ((rect.y + y) * level.width + rect.x) * 4;
    let i = y * rect.width * channels;
    for (let x = 0; x < rect.width; x++, o += 4) {
      for (let c = 0; c < channels; c++) level.data[o + firstChannel + c] = values[i++] * 255 + 0.5;
      if (opaque) level.data[o + 3] = 255;
    }
  }
}

/** Unit normals of a region, 3 × float32 a texel. The result is overwritten by the next call. */
export function normalRegion(source: StrataSource, rect: Rect): Float32Array {
  const length = rect.width * rect.height * 3;
  if (scratchNormals.length < length) scratchNormals = new Float32Array(length);
  if (flatAround(source, rect)) {
    for (let i = 0; i < length; i += 3) {
      scratchNormals[i] = scratchNormals[i + 1] = 0;
      scratchNormals[i + 2] = 1;
    }
    return scratchNormals;
  }
  const width = rect.width + 2;
  const height = rect.height + 2;
  const field = need(width * height);
  evaluateRegion(source, 'height', rect.x - 1, rect.y - 1, width, height, field);
  const scale = heightScaleTexels(source.sheet);
  for (let i = 0; i < width * height; i++) field[i] *= scale;
  normalsFromField(field, rect.width, rect.height, scratchNormals);
  return scratchNormals;
}

function flatAround(source: StrataSource, rect: Rect): boolean {
  const { sheet } = source;
  const wrap = (v: number, size: number, wraps: boolean) =>
    wraps ? ((v % size) + size) % size : Math.min(size - 1, Math.max(0, v));
  for (const y of steps(rect.y - 1, rect.height + 2))
    for (const x of steps(rect.x - 1, rect.width + 2)) {
      const tx = (wrap(x, sheet.width, sheet.wrapU) / TILE) | 0;
      const ty = (wrap(y, sheet.height, sheet.wrapV) / TILE) | 0;
      if (!isUniform(source, 'height', tileIndex(tx, ty))) return false;
    }
  return true;
}

function steps(from: number, length: number): number[] {
  const out: number[] = [];
  for (let v = from; v < from + length; v += TILE) out.push(v);
  out.push(from + length - 1);
  // The texel just inside, for regions whose first texel lies in another tile.
  out.push(from + 1);
  return out;
}

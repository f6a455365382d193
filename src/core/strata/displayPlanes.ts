/** Draws the planes that the viewport shows (kinds/shown.ts): 8-bit RGBA, computed from the maps. */
import { WHOLE } from '../colour/blend';
import { mapInfo, MAP_ROWS, type MapId } from '../kinds/maps';
import { NORMAL_FROM, PLANE_IDS, PLANES, type PlaneId } from '../kinds/shown';
import { FENCE_ID, fenceAtWork } from '../document/fence';
import type { Picture, Sheet } from '../document/schema';
import { kernels } from '../kernels';
import type { MipLevel, Rect } from '../tile/mips';
import { normalsFromField } from '../tile/normal';
import { TILE, tileX, tileY, type TileIndex } from '../tile/tiles';
import { Evaluator, type StrataSource } from './evaluator';
import { programOf, programOfBake, programOfMask } from './program';
import type { MaskUse, Scope } from './scope';
import type { TileValue } from './tileCache';
import { gather } from './window';

/** Something looked at by itself. */
export type Look =
  | { kind: 'map'; map: MapId }
  | { kind: 'mask'; maskId: string; layerId: string | null }
  /** A bake, or a first try of one that is no part of the document. */
  | { kind: 'bake'; picture: Picture };

/** The planes that a sheet needs. */
export function planesFor(sheet: Sheet, look: Look | null): PlaneId[] {
  const there: Partial<Record<PlaneId, boolean>> = {
    view: look !== null,
    emissive: sheet.maps.includes('emissive'),
    fence: fenceAtWork(sheet) !== null,
  };
  return PLANE_IDS.filter((p) => there[p] ?? true);
}

/** Height values (0..1, 0.5 level) to texels of relief. */
export function heightScaleTexels(sheet: Sheet): number {
  return sheet.heightSpan * sheet.width;
}

/**
 * Draws a rectangle of one tile (texels within the tile) into level 0 of a plane.
 * `x0` and `x1` may be any; they are widened to fours for evaluation, which changes nothing.
 */
export function renderPlane(
  evaluator: Evaluator,
  sheet: Sheet,
  plane: PlaneId,
  tile: TileIndex,
  area: { x0: number; y0: number; x1: number; y1: number },
  level: MipLevel,
  look: Look | null = null,
): void {
  const x = area.x0 & ~3;
  const rect: Rect = { x, y: area.y0, width: Math.min(TILE, (area.x1 + 3) & ~3) - x, height: area.y1 - area.y0 };
  const put = (map: MapId, channel: number) => putMap(evaluator, sheet, map, tile, rect, level, channel);
  if (plane === 'normal') return putNormal(evaluator, sheet, tile, rect, level);
  if (plane === 'fence') return putMask(evaluator, sheet, { kind: 'mask', ...FENCE_LOOK }, tile, rect, level);
  if (plane === 'view') {
    if (look?.kind === 'mask') return putMask(evaluator, sheet, look, tile, rect, level);
    if (look?.kind === 'bake') putScope(evaluator, programOfBake(sheet, look.picture), tile, rect, level, 0);
    else if (look) put(look.map, 0);
  } else for (const map of PLANES[plane].maps) put(map, mapInfo(map).shown!.channel);
  if (!HAS_ALPHA.has(plane)) fillChannel(level, tile, rect, 3, 255);
}

/** How the hatch of a fence looks at it. */
export const FENCE_LOOK = { maskId: FENCE_ID, layerId: null } as const;

/** Planes whose fourth channel a map fills. */
const HAS_ALPHA = new Set(MAP_ROWS.filter((m) => m.shown?.channel === 3).map((m) => m.shown!.plane as PlaneId));

const looked = new WeakMap<Sheet, Map<string, MaskUse | null>>();

/** A mask as the layer uses it, compiled once for each state of a sheet. */
export function maskOf(sheet: Sheet, maskId: string, layerId: string | null): MaskUse | null {
  const known = looked.get(sheet) ?? looked.set(sheet, new Map()).get(sheet)!;
  const key = `${maskId} ${layerId}`;
  if (!known.has(key)) known.set(key, programOfMask(sheet, maskId, layerId));
  return known.get(key)!;
}

/** Calls with the offset of each row in the level and its length; what lies beyond the sheet is left out. */
function rows(level: MipLevel, tile: TileIndex, rect: Rect, row: (offset: number, columns: number, first: number) => void): void {
  const [ox, oy] = level.origin ?? [0, 0];
  const x = tileX(tile) * TILE + rect.x - ox;
  const y = tileY(tile) * TILE + rect.y - oy;
  const columns = Math.min(rect.width, level.width - x);
  for (let r = 0; r < Math.min(rect.height, level.height - y); r++) row(((y + r) * level.width + x) * 4, columns, r * rect.width);
}

function fillChannel(level: MipLevel, tile: TileIndex, rect: Rect, channel: number, value: number): void {
  rows(level, tile, rect, (o, columns) => {
    for (let x = 0; x < columns; x++) level.data[o + x * 4 + channel] = value;
  });
}

function putMap(
  evaluator: Evaluator,
  sheet: Sheet,
  map: MapId,
  tile: TileIndex,
  rect: Rect,
  level: MipLevel,
  channel: number,
): void {
  const scope = programOf(sheet, map);
  // Relief is pulled as a whole tile: its neighbours' normals need it as well.
  if (mapInfo(map).relief) {
    const value = evaluator.tile(scope, tile);
    if (value.uniform) return fillChannel(level, tile, rect, channel, value.uniform[0] * 255 + 0.5);
    rows(level, tile, rect, (o, columns, first) => {
      const from = (rect.y + first / rect.width) * TILE + rect.x;
      for (let x = 0; x < columns; x++) level.data[o + x * 4 + channel] = value.data[from + x] * 255 + 0.5;
    });
    return;
  }
  putScope(evaluator, scope, tile, rect, level, channel);
}

function putScope(evaluator: Evaluator, scope: Scope, tile: TileIndex, rect: Rect, level: MipLevel, channel: number): void {
  const n = rect.width * rect.height;
  evaluator.rect(scope, tile, rect, (even, planes) => {
    for (let c = 0; c < scope.channels; c++) {
      if (even) fillChannel(level, tile, rect, channel + c, even[c] * 255 + 0.5);
      else {
        const plane = planes!.subarray(c * n, (c + 1) * n);
        rows(level, tile, rect, (o, columns, first) => {
          for (let x = 0, t = o + channel + c; x < columns; x++, t += 4) level.data[t] = plane[first + x] * 255 + 0.5;
        });
      }
    }
  });
}

function putMask(
  evaluator: Evaluator,
  sheet: Sheet,
  { maskId, layerId }: Extract<Look, { kind: 'mask' }>,
  tile: TileIndex,
  rect: Rect,
  level: MipLevel,
): void {
  evaluator.maskRect(maskOf(sheet, maskId, layerId), tile, rect, (value) => {
    for (let c = 0; c < 3; c++)
      if (typeof value === 'number') fillChannel(level, tile, rect, c, value * 255 + 0.5);
      else
        rows(level, tile, rect, (o, columns, first) => {
          for (let x = 0; x < columns; x++) level.data[o + x * 4 + c] = value[first + x] * 255 + 0.5;
        });
  });
  fillChannel(level, tile, rect, 3, 255);
}

function putNormal(evaluator: Evaluator, sheet: Sheet, tile: TileIndex, rect: Rect, level: MipLevel): void {
  const absolute = { ...rect, x: tileX(tile) * TILE + rect.x, y: tileY(tile) * TILE + rect.y };
  const normals = normalsOf(evaluator, sheet, absolute);
  rows(level, tile, rect, (o, columns, first) => {
    for (let x = 0, i = first * 3; x < columns; x++, o += 4, i += 3) {
      level.data[o] = (normals[i] * 0.5 + 0.5) * 255 + 0.5;
      level.data[o + 1] = (normals[i + 1] * 0.5 + 0.5) * 255 + 0.5;
      level.data[o + 2] = (normals[i + 2] * 0.5 + 0.5) * 255 + 0.5;
      level.data[o + 3] = 255;
    }
  });
}

let normalScratch = new Float32Array(0);

/** Unit normals of a region (any, in texels of the sheet), 3 × float32 a texel. The next call overwrites the result. */
export function normalsOf(evaluator: Evaluator, sheet: Sheet, rect: Rect): Float32Array {
  const length = rect.width * rect.height * 3;
  if (normalScratch.length < length) normalScratch = new Float32Array(length);
  const out = normalScratch.subarray(0, length);
  const scope = programOf(sheet, NORMAL_FROM.relief);
  const seen = new Map<TileIndex, TileValue>();
  const tileAt = (t: TileIndex) => {
    let value = seen.get(t);
    if (!value) seen.set(t, (value = evaluator.tile(scope, t)));
    return value;
  };
  const mark = kernels().mark();
  try {
    const r = (sheet.normalKernel - 1) / 2;
    // The kernel takes four texels at a time.
    const wide = (rect.width + 3) & ~3;
    const [width, height] = [wide + 2 * r, rect.height + 2 * r];
    const field = kernels().floats(width * height);
    gather(sheet, { x: rect.x - r, y: rect.y - r, width, height }, 1, tileAt, field);
    const values = [...seen.values()];
    const first = values[0];
    if (first.uniform && values.every((v) => v.uniform && v.uniform[0] === first.uniform[0]))
      for (let i = 0; i < length; i += 3) {
        out[i] = out[i + 1] = 0;
        out[i + 2] = 1;
      }
    else {
      const scale = heightScaleTexels(sheet);
      for (let i = 0; i < field.length; i++) field[i] *= scale;
      const n = wide * rect.height;
      const planes = kernels().floats(n * 3);
      normalsFromField(field, wide, rect.height, sheet.normalKernel, planes);
      for (let y = 0, o = 0; y < rect.height; y++)
        for (let i = y * wide; i < y * wide + rect.width; i++, o += 3) {
          out[o] = planes[i];
          out[o + 1] = planes[n + i];
          out[o + 2] = planes[2 * n + i];
        }
    }
    if (sheet.maps.includes(NORMAL_FROM.directions)) layNormalMap(evaluator, sheet, rect, out);
    return out;
  } finally {
    kernels().release(mark);
  }
}

/** Turns the painted normals into the frame of those from height (colour/blend.ts, `reorient`). */
function layNormalMap(evaluator: Evaluator, sheet: Sheet, rect: Rect, normals: Float32Array): void {
  const scope = programOf(sheet, NORMAL_FROM.directions);
  if (scope.ops.length === 0) return;
  const n = rect.width * rect.height;
  const detail = new Float32Array(n * 3);
  gather(sheet, rect, 3, (t) => evaluator.tile(scope, t), detail);
  const base = [0, 0, 0];
  const own = [0, 0, 0];
  const out = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    for (let c = 0; c < 3; c++) {
      base[c] = normals[i * 3 + c] * 0.5 + 0.5;
      own[c] = detail[c * n + i];
    }
    WHOLE.reorient(base, own, out);
    for (let c = 0; c < 3; c++) normals[i * 3 + c] = out[c] * 2 - 1;
  }
}

export function normalRegion(source: StrataSource, rect: Rect, evaluator = new Evaluator(source)): Float32Array {
  return normalsOf(evaluator, source.sheet, rect);
}

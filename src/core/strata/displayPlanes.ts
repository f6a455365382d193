/** Draws the planes that the viewport shows (kinds/shown.ts): 8-bit RGBA, computed from the maps. */
import { WHOLE } from '../colour/blend';
import { mapInfo, MAP_ROWS, type MapId } from '../kinds/maps';
import { mapOn, NORMAL_FROM, PLANE_IDS, PLANES, type PlaneId } from '../kinds/shown';
import { FENCE_ID, fenceAtWork } from '../document/fence';
import type { Picture, Sheet } from '../document/schema';
import { kernels } from '../kernels';
import { around, within } from '../tile/border';
import type { Rect } from '../tile/mips';
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
    emissive: sheet.maps.includes(mapOn('emissive', 0)),
    fence: fenceAtWork(sheet) !== null,
  };
  return PLANE_IDS.filter((p) => there[p] ?? true);
}

/** Height values (0..1, 0.5 level) to texels of relief. */
export function heightScaleTexels(sheet: Sheet): number {
  return sheet.heightSpan * sheet.width;
}

/**
 * Draws a rectangle of one tile (texels within the tile) of a plane: RGBA, 8 bit, tightly packed. Its left side and its width are
 * multiples of 4.
 */
export function renderPlane(
  evaluator: Evaluator,
  sheet: Sheet,
  plane: PlaneId,
  tile: TileIndex,
  rect: Rect,
  look: Look | null = null,
): Uint8Array<ArrayBuffer> {
  const mark = kernels().mark();
  try {
    const out = kernels().bytes(rect.width * rect.height * 4);
    if (!HAS_ALPHA.has(plane)) fillChannel(out, 3, 255);
    const put = (map: MapId, channel: number) => putMap(evaluator, sheet, map, tile, rect, out, channel);
    if (plane === 'normal') putNormal(evaluator, sheet, tile, rect, out);
    else if (plane === 'fence') putMask(evaluator, sheet, { kind: 'mask', ...FENCE_LOOK }, tile, rect, out);
    else if (plane !== 'view') for (const map of PLANES[plane].maps) put(map, mapInfo(map).shown!.channel);
    else if (look?.kind === 'mask') putMask(evaluator, sheet, look, tile, rect, out);
    else if (look?.kind === 'bake') putScope(evaluator, programOfBake(sheet, look.picture), tile, rect, out, 0);
    else if (look) put(look.map, 0);
    return new Uint8Array(out);
  } finally {
    kernels().release(mark);
  }
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

/** `value`: 0..255, rounded down. */
function fillChannel(out: Uint8Array, channel: number, value: number): void {
  for (let i = channel; i < out.length; i += 4) out[i] = value;
}

function putMap(
  evaluator: Evaluator,
  sheet: Sheet,
  map: MapId,
  tile: TileIndex,
  rect: Rect,
  out: Uint8Array,
  channel: number,
): void {
  const scope = programOf(sheet, map);
  if (!mapInfo(map).relief) return putScope(evaluator, scope, tile, rect, out, channel);
  // Relief is pulled as a whole tile: its neighbours' normals need it as well.
  const value = evaluator.tile(scope, tile);
  if (value.uniform) return fillChannel(out, channel, value.uniform[0] * 255 + 0.5);
  const values = kernels().floats(rect.width * rect.height);
  const from = { data: value.data, at: rect.y * TILE + rect.x, stride: TILE };
  kernels().copyRows(from, { data: values, at: 0, stride: rect.width }, rect.width, rect.height);
  kernels().interleave8(values, values.length, 1, channel, out);
}

function putScope(evaluator: Evaluator, scope: Scope, tile: TileIndex, rect: Rect, out: Uint8Array, channel: number): void {
  evaluator.rect(scope, tile, rect, (even, planes) => {
    if (even) for (let c = 0; c < scope.channels; c++) fillChannel(out, channel + c, even[c] * 255 + 0.5);
    else kernels().interleave8(planes!, rect.width * rect.height, scope.channels, channel, out);
  });
}

function putMask(
  evaluator: Evaluator,
  sheet: Sheet,
  { maskId, layerId }: Extract<Look, { kind: 'mask' }>,
  tile: TileIndex,
  rect: Rect,
  out: Uint8Array,
): void {
  evaluator.maskRect(maskOf(sheet, maskId, layerId), tile, rect, (value) => {
    for (let c = 0; c < 3; c++)
      if (typeof value === 'number') fillChannel(out, c, value * 255 + 0.5);
      else kernels().interleave8(value, rect.width * rect.height, 1, c, out);
  });
}

function putNormal(evaluator: Evaluator, sheet: Sheet, tile: TileIndex, rect: Rect, out: Uint8Array): void {
  const absolute = { ...rect, x: tileX(tile) * TILE + rect.x, y: tileY(tile) * TILE + rect.y };
  const normals = normalPlanes(evaluator, sheet, absolute);
  kernels().affine(normals, normals, 0.5, 0.5);
  kernels().interleave8(normals, rect.width * rect.height, 3, 0, out);
}

/** Unit normals of a region (any, in texels of the sheet), 3 × float32 a texel. */
export function normalsOf(evaluator: Evaluator, sheet: Sheet, rect: Rect, heights: Float32Array | null = null): Float32Array {
  const out = new Float32Array(rect.width * rect.height * 3);
  const mark = kernels().mark();
  try {
    const wide = (rect.width + 3) & ~3;
    const planes = normalPlanes(evaluator, sheet, { ...rect, width: wide }, heights);
    const n = wide * rect.height;
    for (let y = 0, o = 0; y < rect.height; y++)
      for (let i = y * wide; i < y * wide + rect.width; i++, o += 3) {
        out[o] = planes[i];
        out[o + 1] = planes[n + i];
        out[o + 2] = planes[2 * n + i];
      }
    return out;
  } finally {
    kernels().release(mark);
  }
}

/**
 * Beyond a border that does not wrap the slope goes on: v(−k) = 2 v(0) − v(k). Held at the border's height instead, the outer texels
 * would have half their slope. `field`: the sheet's texels from (x, y) on.
 */
function goOn(field: Float32Array, { x, y, width, height }: Rect, sheet: Sheet): void {
  const along = (from: number, count: number, size: number, step: number, lines: number, line: number) => {
    const reflect = (border: number, k: number) => {
      const [at, mirrored] = [border - from, border - from - k];
      if (at < 0 || at >= count || mirrored < 0 || mirrored >= count) return;
      const to = at + k;
      for (let l = 0; l < lines; l++)
        field[l * line + to * step] = 2 * field[l * line + at * step] - field[l * line + mirrored * step];
    };
    for (let k = 1; from + count - 1 - (size - 1) >= k; k++) reflect(size - 1, k);
    for (let k = -1; from <= k; k--) reflect(0, k);
  };
  if (!sheet.wrapU && sheet.width > 1) along(x, width, sheet.width, 1, height, width);
  if (!sheet.wrapV && sheet.height > 1) along(y, height, sheet.height, width, width, 1);
}

/** A window of a whole picture of the sheet: where it wraps, it comes round, else its border goes on. */
function cutOut(heights: Float32Array, sheet: Sheet, { x, y, width, height }: Rect, out: Float32Array): void {
  const [across, down] = [sheet.wrapU ? around : within, sheet.wrapV ? around : within];
  for (let r = 0, i = 0; r < height; r++) {
    const row = down(y + r, sheet.height) * sheet.width;
    for (let c = 0; c < width; c++, i++) out[i] = heights[row + across(x + c, sheet.width)];
  }
}

/**
 * The same as three planes in the kernels' arena; the region is a multiple of 4 texels wide. `heights`: those of the whole sheet, where
 * they are other than what is evaluated.
 */
function normalPlanes(evaluator: Evaluator, sheet: Sheet, rect: Rect, heights: Float32Array | null = null): Float32Array {
  const scope = programOf(sheet, NORMAL_FROM.relief);
  const seen = new Map<TileIndex, TileValue>();
  const tileAt = (t: TileIndex) => {
    let value = seen.get(t);
    if (!value) seen.set(t, (value = evaluator.tile(scope, t)));
    return value;
  };
  const n = rect.width * rect.height;
  const planes = kernels().floats(n * 3);
  const r = (sheet.normalKernel - 1) / 2;
  const [width, height] = [rect.width + 2 * r, rect.height + 2 * r];
  const field = kernels().floats((width * height + 3) & ~3);
  const window = { x: rect.x - r, y: rect.y - r, width, height };
  if (heights) cutOut(heights, sheet, window, field);
  else gather(sheet, window, 1, tileAt, field.subarray(0, width * height));
  const values = [...seen.values()];
  const first = values.at(0);
  if (first?.uniform && values.every((v) => v.uniform && v.uniform[0] === first.uniform[0])) {
    planes.fill(0, 0, 2 * n);
    planes.fill(1, 2 * n);
  } else {
    goOn(field, window, sheet);
    kernels().affine(field, field, 0, heightScaleTexels(sheet));
    normalsFromField(field.subarray(0, width * height), rect.width, rect.height, sheet.normalKernel, planes);
  }
  if (sheet.maps.includes(NORMAL_FROM.directions)) layNormalMap(evaluator, sheet, rect, planes);
  return planes;
}

/** Turns the painted normals into the frame of those from height (colour/blend.ts, `reorient`). */
function layNormalMap(evaluator: Evaluator, sheet: Sheet, rect: Rect, normals: Float32Array): void {
  const scope = programOf(sheet, NORMAL_FROM.directions);
  if (scope.ops.length === 0) return;
  const n = rect.width * rect.height;
  const detail = kernels().floats(n * 3);
  gather(sheet, rect, 3, (t) => evaluator.tile(scope, t), detail);
  const base = [0, 0, 0];
  const own = [0, 0, 0];
  const out = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    for (let c = 0; c < 3; c++) {
      base[c] = normals[c * n + i] * 0.5 + 0.5;
      own[c] = detail[c * n + i];
    }
    WHOLE.reorient(base, own, out);
    for (let c = 0; c < 3; c++) normals[c * n + i] = out[c] * 2 - 1;
  }
}

/** `heights`: those of the whole sheet, 0..1, where they are other than what is evaluated. */
export function normalRegion(
  source: StrataSource,
  rect: Rect,
  evaluator = new Evaluator(source),
  heights: Float32Array | null = null,
): Float32Array {
  return normalsOf(evaluator, source.sheet, rect, heights);
}

/**
 * Rendering delivered pictures. Order: evaluate at full size → go on beyond the islands → shrink (colour in linear light, normals
 * renormalised) → cut to the margin that was asked for → quantise. What lies between the islands is filled first, as far as any
 * filter reaches, so that shrinking never mixes it in; the margin is measured from the islands at the delivered size.
 */
import { linearToSrgb, srgbToLinear } from '../colour/transfer';
import type { Bitmap } from '../tile/bitmap';
import { holdsOf, mapKind, PACKED_MAPS, type MapId } from '../kinds/maps';
import type { Sheet } from '../document/schema';
import { attachSurfaces } from '../strata/pieceSurfaces';
import { filterFor } from '../tile/fit';
import { resample } from '../tile/resample';
import { TILE, type TileStore } from '../tile/tiles';
import { alphaOf, NORMAL_FROM } from '../kinds/shown';
import { programOf } from '../strata/program';
import { normalRegion } from '../strata/displayPlanes';
import { evaluateRegion, evaluateWhole16 } from '../strata/evaluate';
import { Evaluator, type StrataSource } from '../strata/evaluator';
import type { TileCache } from '../strata/tileCache';
import { pack, quantise, type Codes } from './codes';
import { applyMargins, cut, marginsFor, type Around, type OnModel } from './margins';
import type { DispatchOptions } from './options';

export interface RenderContext extends OnModel {
  store: TileStore;
  /** What maps of a sheet have in common (rules, masks) is computed once where this is given. */
  cache?: TileCache;
}

export interface RenderSettings extends Codes, Pick<DispatchOptions, 'normalY' | 'margin'> {
  /** Full size divided by this; any positive number. */
  divide: number;
}

/** One map of a sheet as it goes out: grey for values, RGB for colours and for the normal, which is what height and the normal map make together. */
export function renderMap(context: RenderContext, sheet: Sheet, map: MapId, settings: RenderSettings): Bitmap {
  if (context.model && context.piece.model) attachSurfaces(context.store, context.model, context.piece.model.uvSet);
  const around = marginsFor(context, sheet, target(sheet, settings.divide), settings);
  return map === NORMAL_FROM.directions
    ? renderNormal(context, sheet, settings, around)
    : renderStrata(context, sheet, map, settings, around);
}

/** Three maps in one picture, in glTF's places (glTF 2.0, 3.9.2). */
export function packedPicture(context: RenderContext, sheet: Sheet, settings: RenderSettings): Bitmap {
  const [red, green, blue] = PACKED_MAPS.map((part) => renderMap(context, sheet, part, settings));
  return pack(red, green, blue);
}

function target(sheet: Sheet, divide: number): [number, number] {
  return [Math.max(1, Math.round(sheet.width / divide)), Math.max(1, Math.round(sheet.height / divide))];
}

function renderStrata(context: RenderContext, sheet: Sheet, map: MapId, settings: RenderSettings, around: Around | null): Bitmap {
  const colour = mapKind(map) === 'colour';
  const channels = mapKind(map) === 'value' ? 1 : 3;
  const whole = evaluateWhole16({ sheet, store: context.store, cache: context.cache }, map);
  const [width, height] = target(sheet, settings.divide);
  const shrink = width !== sheet.width || height !== sheet.height;
  let values: Float32Array = new Float32Array(whole.length);
  for (let i = 0; i < whole.length; i++) {
    const v = whole[i] / 65535;
    values[i] = colour && shrink ? srgbToLinear(v) : v;
  }
  applyMargins(values, channels, around);
  if (shrink) {
    const solid = cutOut(context, sheet, map, around);
    const smaller = (of: Float32Array, planes: number, weighted: boolean) =>
      resample(of, sheet.width, sheet.height, planes, width, height, {
        wrapX: sheet.wrapU,
        wrapY: sheet.wrapV,
        filter: filterFor(holdsOf(map)),
        weighted,
      });
    values = solid ? dropLast(smaller(beside(values, solid), 4, true), 4) : smaller(values, channels, false);
    if (colour) for (let i = 0; i < values.length; i++) values[i] = linearToSrgb(values[i]);
  }
  cut(values, channels, around, programOf(sheet, map).ground ?? [0, 0, 0]);
  return quantise(values, width, height, channels, settings);
}

/** A hole counts so little beside what is solid, but where all is hole there is a colour too. */
const HOLE_COUNTS = 1e-6;

/** How much each texel of a map counts when it is made smaller: base colour as its opacity says. null: all of them as much. */
function cutOut(context: RenderContext, sheet: Sheet, map: MapId, around: Around | null): Float32Array | null {
  const holes = alphaOf(map);
  if (!holes || !sheet.maps.includes(holes)) return null;
  const opacity = evaluateWhole16({ sheet, store: context.store, cache: context.cache }, holes);
  const out = Float32Array.from(opacity, (v) => Math.max(HOLE_COUNTS, v / 65535));
  applyMargins(out, 1, around);
  return out;
}

/** RGB with a fourth number beside each. */
function beside(rgb: Float32Array, fourth: Float32Array): Float32Array {
  const out = new Float32Array(fourth.length * 4);
  for (let i = 0; i < fourth.length; i++) {
    for (let c = 0; c < 3; c++) out[i * 4 + c] = rgb[i * 3 + c];
    out[i * 4 + 3] = fourth[i];
  }
  return out;
}

function dropLast(values: Float32Array, channels: number): Float32Array {
  const out = new Float32Array((values.length / channels) * (channels - 1));
  for (let i = 0, o = 0; i < values.length; i++) if (i % channels < channels - 1) out[o++] = values[i];
  return out;
}

function renderNormal(context: RenderContext, sheet: Sheet, settings: RenderSettings, around: Around | null): Bitmap {
  let values: Float32Array = new Float32Array(sheet.width * sheet.height * 3);
  const source = { sheet, store: context.store, cache: context.cache };
  const evaluator = new Evaluator(source);
  const heights = around && heightsOf(source, evaluator, around);
  for (let y = 0; y < sheet.height; y += TILE) {
    const rows = Math.min(TILE, sheet.height - y);
    const strip = normalRegion(source, { x: 0, y, width: sheet.width, height: rows }, evaluator, heights);
    values.set(strip.subarray(0, sheet.width * rows * 3), y * sheet.width * 3);
  }
  applyMargins(values, 3, around);
  const [width, height] = target(sheet, settings.divide);
  values = resample(values, sheet.width, sheet.height, 3, width, height, {
    wrapX: sheet.wrapU,
    wrapY: sheet.wrapV,
    filter: filterFor('values'),
  });
  const sign = settings.normalY === 'up' ? 1 : -1;
  for (let i = 0; i < values.length; i += 3) {
    const l = Math.hypot(values[i], values[i + 1], values[i + 2]) || 1;
    values[i] = (values[i] / l) * 0.5 + 0.5;
    values[i + 1] = ((sign * values[i + 1]) / l) * 0.5 + 0.5;
    values[i + 2] = (values[i + 2] / l) * 0.5 + 0.5;
  }
  cut(values, 3, around, [0.5, 0.5, 1]);
  return quantise(values, width, height, 3, settings);
}

/** Heights of a whole sheet that go on beyond the islands: where the gutter ends there is no step. */
function heightsOf(source: StrataSource, evaluator: Evaluator, around: Around): Float32Array {
  const { sheet } = source;
  const out = new Float32Array(sheet.width * sheet.height);
  evaluateRegion(source, NORMAL_FROM.relief, 0, 0, sheet.width, sheet.height, out, evaluator);
  applyMargins(out, 1, around);
  return out;
}

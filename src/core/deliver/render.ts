/**
 * Rendering delivered pictures. Order: evaluate at full size → go on beyond the islands → shrink (colour in linear light, normals
 * renormalised) → cut to the margin that was asked for → quantise. What lies between the islands is filled first, as far as any
 * filter reaches, so that shrinking never mixes it in; the margin is measured from the islands at the delivered size.
 */
import { linearToSrgb, srgbToLinear } from '../colour/transfer';
import { encodePng } from '../codec/png';
import type { Bitmap } from '../tile/bitmap';
import type { Progress } from '../piece/pieceFile';
import { mapKind, PACKED_MAPS, type MapId } from '../kinds/maps';
import type { Piece, Sheet } from '../document/schema';
import { buildIslands, buildTopology } from '../mesh/topology';
import type { Model } from '../mesh/model';
import { planeModel } from '../mesh/plane';
import { buildSurfaceMap, coveredTexels, islandTexels, type SurfaceMap } from '../mesh/surfaceMap';
import { writeGlb, type MaterialPictures } from '../mesh/writeGlb';
import { attachSurfaces } from '../strata/pieceSurfaces';
import { marginSources } from '../tile/gutter';
import { resample } from '../tile/resample';
import { TILE, type TileStore } from '../tile/tiles';
import { NORMAL_FROM } from '../kinds/shown';
import { programOf } from '../strata/program';
import { normalRegion } from '../strata/displayPlanes';
import { evaluateRegion, evaluateWhole16 } from '../strata/evaluate';
import { Evaluator, type StrataSource } from '../strata/evaluator';
import { TileCache } from '../strata/tileCache';
import { chosenSheets, planDispatch, type DispatchOptions, type OutputMap } from './plan';

export interface RenderContext {
  piece: Piece;
  store: TileStore;
  model: Model | null;
  /** Surface maps already made, by sheet id; missing ones are built. */
  surfaces?: ReadonlyMap<string, SurfaceMap>;
  /** What maps of a sheet have in common (rules, masks) is computed once where this is given. */
  cache?: TileCache;
}

/** Holds all rules and masks of a sheet of 2048², so that each map after the first is quick. */
const DISPATCH_BYTES = 768 * 1024 * 1024;

export interface RenderSettings extends Pick<DispatchOptions, 'bits' | 'normalY' | 'margin'> {
  /** Full size divided by this; any positive number. */
  divide: number;
}

/** One delivered picture. Grey for value maps, RGB for colour, normal and the packed map. */
export function renderOutput(context: RenderContext, sheet: Sheet, map: OutputMap, settings: RenderSettings): Bitmap {
  if (context.model && context.piece.model) attachSurfaces(context.store, context.model, context.piece.model.uvSet);
  const around = marginsFor(context, sheet, settings);
  if (map === 'normal') return renderNormal(context, sheet, settings, around);
  if (map === 'orm') {
    const [o, r, m] = PACKED_MAPS.map((part) => renderMap(context, sheet, part, settings, around));
    return pack(o, r, m);
  }
  return renderMap(context, sheet, map, settings, around);
}

function target(sheet: Sheet, divide: number): [number, number] {
  return [Math.max(1, Math.round(sheet.width / divide)), Math.max(1, Math.round(sheet.height / divide))];
}

/** What lies around the islands of a sheet. */
interface Around {
  /** For each texel at full size the one whose value it takes; −1: none is near enough. */
  sources: Int32Array;
  /** 1 for each texel of the delivered size that is no farther from an island than was asked. */
  within: Uint8Array;
}

/** Texels of the delivered size that shrinking looks at, at most (tile/resample.ts). */
const FILTER_REACH = 4;

function marginsFor(context: RenderContext, sheet: Sheet, { margin, divide }: RenderSettings): Around | null {
  const surface = surfaceOf(context, sheet);
  if (!surface) return null;
  const [width, height] = target(sheet, divide);
  const reach = Math.ceil((margin + FILTER_REACH) * Math.max(1, divide));
  const sources = marginSources(coveredTexels(surface), sheet.width, sheet.height, reach);
  const near = marginSources(islandTexels(surface, width, height), width, height, margin);
  return { sources, within: Uint8Array.from(near, (s) => (s < 0 ? 0 : 1)) };
}

/** Beyond the margin there is what an empty map has. */
function cut(values: Float32Array, channels: number, around: Around | null, empty: readonly number[]): void {
  if (!around) return;
  for (let i = 0; i < around.within.length; i++)
    if (!around.within[i]) for (let c = 0; c < channels; c++) values[i * channels + c] = empty[c];
}

const built = new WeakMap<Model, Map<string, SurfaceMap>>();
function surfaceOf({ piece, model, surfaces }: RenderContext, sheet: Sheet): SurfaceMap | null {
  const ready = surfaces?.get(sheet.id);
  if (ready) return ready;
  if (!model || !piece.model || sheet.materialIndex === null) return null;
  const known = built.get(model) ?? built.set(model, new Map()).get(model)!;
  const key = `${sheet.materialIndex} ${sheet.width} ${sheet.height} ${piece.model.uvSet}`;
  let map = known.get(key);
  if (!map) {
    const uv = model.uvs[piece.model.uvSet];
    const islands = buildIslands(model, buildTopology(model), uv);
    map = buildSurfaceMap({ model, islands, uv, materialIndex: sheet.materialIndex, width: sheet.width, height: sheet.height });
    known.set(key, map);
  }
  return map;
}

function applyMargins(values: Float32Array, channels: number, around: Around | null): void {
  if (!around) return;
  const { sources } = around;
  for (let i = 0; i < sources.length; i++) {
    const s = sources[i];
    if (s < 0 || s === i) continue;
    for (let c = 0; c < channels; c++) values[i * channels + c] = values[s * channels + c];
  }
}

function renderMap(context: RenderContext, sheet: Sheet, map: MapId, settings: RenderSettings, around: Around | null): Bitmap {
  const colour = mapKind(map) === 'colour';
  const channels = mapKind(map) === 'value' ? 1 : 3;
  const whole = evaluateWhole16({ sheet, store: context.store, cache: context.cache }, map);
  const [width, height] = target(sheet, settings.divide);
  const shrink = width !== sheet.width || height !== sheet.height;
  let values = new Float32Array(whole.length);
  for (let i = 0; i < whole.length; i++) {
    const v = whole[i] / 65535;
    values[i] = colour && shrink ? srgbToLinear(v) : v;
  }
  applyMargins(values, channels, around);
  if (shrink) {
    values = resample(values, sheet.width, sheet.height, channels, width, height, {
      wrapX: sheet.wrapU,
      wrapY: sheet.wrapV,
    }) as typeof values;
    if (colour) for (let i = 0; i < values.length; i++) values[i] = linearToSrgb(Math.min(1, Math.max(0, values[i])));
  }
  cut(values, channels, around, programOf(sheet, map).ground ?? [0, 0, 0]);
  return quantise(values, width, height, channels, settings.bits);
}

function renderNormal(context: RenderContext, sheet: Sheet, settings: RenderSettings, around: Around | null): Bitmap {
  let values = new Float32Array(sheet.width * sheet.height * 3);
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
  }) as typeof values;
  const sign = settings.normalY === 'up' ? 1 : -1;
  for (let i = 0; i < values.length; i += 3) {
    const l = Math.hypot(values[i], values[i + 1], values[i + 2]) || 1;
    values[i] = (values[i] / l) * 0.5 + 0.5;
    values[i + 1] = ((sign * values[i + 1]) / l) * 0.5 + 0.5;
    values[i + 2] = (values[i + 2] / l) * 0.5 + 0.5;
  }
  cut(values, 3, around, [0.5, 0.5, 1]);
  return quantise(values, width, height, 3, settings.bits);
}

/** Heights of a whole sheet that go on beyond the islands: where the gutter ends there is no step. */
function heightsOf(source: StrataSource, evaluator: Evaluator, around: Around): Float32Array {
  const { sheet } = source;
  const out = new Float32Array(sheet.width * sheet.height);
  evaluateRegion(source, NORMAL_FROM.relief, 0, 0, sheet.width, sheet.height, out, evaluator);
  applyMargins(out, 1, around);
  return out;
}

function quantise(values: Float32Array, width: number, height: number, channels: 1 | 3, bits: 8 | 16): Bitmap {
  const max = bits === 16 ? 65535 : 255;
  const data = bits === 16 ? new Uint16Array(values.length) : new Uint8Array(values.length);
  for (let i = 0; i < values.length; i++) data[i] = Math.min(1, Math.max(0, values[i])) * max + 0.5;
  return { width, height, channels, bits, data };
}

/** glTF 2.0, 3.9.2: occlusion in red, roughness in green, metallic in blue. */
function pack(occlusion: Bitmap, roughness: Bitmap, metallic: Bitmap): Bitmap {
  const data = roughness.bits === 16 ? new Uint16Array(roughness.data.length * 3) : new Uint8Array(roughness.data.length * 3);
  for (let i = 0; i < roughness.data.length; i++) {
    data[i * 3] = occlusion.data[i];
    data[i * 3 + 1] = roughness.data[i];
    data[i * 3 + 2] = metallic.data[i];
  }
  return { ...roughness, channels: 3, data };
}

export class DispatchError extends Error {}

/** Renders everything; yields each file as it is done, so that the caller can show progress and stop. */
export async function* renderDispatch(
  given: RenderContext,
  options: DispatchOptions,
  progress?: Progress,
): AsyncGenerator<[string, Uint8Array]> {
  const context: RenderContext = { ...given, cache: given.cache ?? new TileCache(DISPATCH_BYTES) };
  const plan = planDispatch(context.piece, options);
  if (!plan.ok) throw new DispatchError(plan.message);
  const total = plan.files.length + (plan.glbName ? 1 : 0);
  let done = 0;
  for (const file of plan.files) {
    progress?.(done++, total, file.name);
    const picture = renderOutput(context, file.sheet, file.map, options);
    yield [file.name, encodePng(picture, file.map !== 'orm' && mapKind(file.map) === 'colour' ? 'srgb' : 'data')];
  }
  if (plan.glbName) {
    progress?.(done, total, plan.glbName);
    yield [plan.glbName, await renderGlb(context, options)];
  }
}

/** GLB with 8-bit pictures; normal Y is up, as glTF wants it, whatever the pictures beside it have. */
export async function renderGlb(context: RenderContext, options: DispatchOptions): Promise<Uint8Array> {
  const { piece } = context;
  const settings: RenderSettings = { ...options, bits: 8, normalY: 'up' };
  const model = context.model ?? planeModel(piece.name, piece.sheets[0].height / piece.sheets[0].width);
  const pictures: (MaterialPictures | null)[] = model.materials.map(() => null);
  for (const sheet of chosenSheets(piece, options)) {
    const m = sheet.materialIndex ?? 0;
    pictures[m] = {
      baseColourPng: encodePng(renderOutput(context, sheet, 'base-colour', settings), 'srgb'),
      ormPng: encodePng(renderOutput(context, sheet, 'orm', settings)),
      normalPng: encodePng(renderOutput(context, sheet, 'normal', settings)),
      uvSet: piece.model?.uvSet ?? 0,
      name: sheet.name,
      wrapU: context.model ? true : sheet.wrapU,
      wrapV: context.model ? true : sheet.wrapV,
    };
  }
  return writeGlb(model, pictures);
}

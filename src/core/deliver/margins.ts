/** What lies around the islands of a sheet goes on from them, as far as was asked. */
import type { Piece, Sheet } from '../document/schema';
import { buildIslands, buildTopology } from '../mesh/topology';
import type { Model } from '../mesh/model';
import { buildSurfaceMap } from '../mesh/surfaceMap/build';
import { coveredTexels, islandTexels } from '../mesh/surfaceMap/queries';
import type { SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import { marginSources } from '../tile/gutter';

export interface OnModel {
  piece: Piece;
  model: Model | null;
  /** Surface maps already made, by sheet id; missing ones are built. */
  surfaces?: ReadonlyMap<string, SurfaceMap>;
}

/** What lies around the islands of a sheet. */
export interface Around {
  /** For each texel at full size the one whose value it takes; −1: none is near enough. */
  sources: Int32Array;
  /** 1 for each texel of the delivered size that is no farther from an island than was asked. */
  within: Uint8Array;
}

/** Texels of the delivered size that shrinking looks at, at most (tile/resample.ts). */
const FILTER_REACH = 4;

/** `margin` in texels of the delivered size, width × height. */
export function marginsFor(
  context: OnModel,
  sheet: Sheet,
  [width, height]: readonly [number, number],
  { margin, divide }: { margin: number; divide: number },
): Around | null {
  const surface = surfaceOf(context, sheet);
  if (!surface) return null;
  const reach = Math.ceil((margin + FILTER_REACH) * Math.max(1, divide));
  const sources = marginSources(coveredTexels(surface), sheet.width, sheet.height, reach);
  const near = marginSources(islandTexels(surface, width, height), width, height, margin);
  return { sources, within: Uint8Array.from(near, (s) => (s < 0 ? 0 : 1)) };
}

/** Beyond the margin there is what an empty map has. */
export function cut(values: Float32Array, channels: number, around: Around | null, empty: readonly number[]): void {
  if (!around) return;
  for (let i = 0; i < around.within.length; i++)
    if (!around.within[i]) for (let c = 0; c < channels; c++) values[i * channels + c] = empty[c];
}

const built = new WeakMap<Model, Map<string, SurfaceMap>>();
function surfaceOf({ piece, model, surfaces }: OnModel, sheet: Sheet): SurfaceMap | null {
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

/** Before anything is made smaller: each texel that lies near enough takes the value of the island's nearest. */
export function applyMargins(values: Float32Array, channels: number, around: Around | null): void {
  if (!around) return;
  const { sources } = around;
  for (let i = 0; i < sources.length; i++) {
    const s = sources[i];
    if (s < 0 || s === i) continue;
    for (let c = 0; c < channels; c++) values[i * channels + c] = values[s * channels + c];
  }
}

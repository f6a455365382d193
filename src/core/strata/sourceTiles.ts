/** Tiles of sources that hang on the place: pictures, regions of the model, normals of a height, rules. */
import type { Sheet } from '../document/schema';
import { kernels } from '../kernels';
import { normalsFromField, type NormalKernel } from '../tile/normal';
import { TILE, TILE_TEXELS, tileX, tileY, type TileIndex, type TileStore } from '../tile/tiles';
import { rampAt, rampOver } from '../kinds/filters/ramp';
import { madeTile } from './made';
import { pictureData, pictureTile } from './picture';
import type { State } from './planes';
import type { Scope, Source } from './program';
import { textSignature, type Signature } from './signature';
import type { Surface } from './surface';
import type { TileValue } from './tileCache';
import { gather } from './window';

export type PlacedSource = Extract<Source, { type: 'picture' | 'relief' | 'region' }>;
type MadeSource = Extract<Source, { type: 'made' }>;

/** What a source is laid on, and from what. */
export interface Ground {
  sheet: Sheet;
  store: TileStore;
  /** Null on a canvas. */
  surface: Surface | null;
  pictureStamp(id: string): Signature;
  /** A scope's tiles within a reach of one. */
  near(scope: Scope, tile: TileIndex, reach: { rx: number; ry: number }): ReadonlyMap<TileIndex, TileValue>;
}

const keys = new WeakMap<PlacedSource, Signature>();

/** What a source is, beside what it takes from the tile. */
export function sourceKey(source: PlacedSource): Signature {
  let key = keys.get(source);
  if (key === undefined) {
    const what =
      source.type === 'picture'
        ? { ...source, picture: source.picture.id }
        : source.type === 'relief'
          ? { ...source, scope: 0 }
          : source;
    keys.set(source, (key = textSignature(JSON.stringify(what))));
  }
  return key;
}

export const reliefReach = (kernel: NormalKernel) => ({ rx: (kernel - 1) / 2, ry: (kernel - 1) / 2 });

export function placedTile(source: PlacedSource, kind: Scope['kind'], ground: Ground, tile: TileIndex): TileValue {
  if (source.type === 'picture') return pictured(source, kind, ground, tile);
  return source.type === 'relief' ? relief(source, ground, tile) : region(source, ground.surface, tile);
}

function pictured(source: Extract<Source, { type: 'picture' }>, kind: Scope['kind'], ground: Ground, tile: TileIndex): TileValue {
  const { sheet, store, surface } = ground;
  const data = pictureData(store, source.picture, ground.pictureStamp(source.picture.id));
  const found = pictureTile(data, source.use, source.placement, kind, { sheet, surface, tile });
  return found ? { uniform: null, data: found } : { uniform: new Array<number>(kind === 'value' ? 2 : 4).fill(0), data: null };
}

function region({ by, names, ids }: Extract<Source, { type: 'region' }>, surface: Surface | null, tile: TileIndex): TileValue {
  const faces = surface?.tiles.get(tile)?.face;
  if (!surface || !faces) return { uniform: [0, 1], data: null };
  const chosen = new Set(by === 'parts' ? names.map((n) => surface.parts.indexOf(n)) : ids);
  const of = { parts: surface.facePart, islands: surface.faceIsland, faces: null }[by];
  const data = new Float32Array(TILE_TEXELS * 2).fill(1, TILE_TEXELS);
  // Faces that are the same as the texel before are not looked up again; off the islands anything will do.
  let [last, value, ones, zeros] = [-1, 0, 0, 0];
  for (let i = 0; i < TILE_TEXELS; i++) {
    const face = faces[i];
    if (face < 0) continue;
    if (face !== last) value = chosen.has(of ? of[face] : face) ? 1 : 0;
    last = face;
    data[i] = value;
    if (value) ones++;
    else zeros++;
  }
  if (ones === 0 || zeros === 0) return { uniform: [ones > 0 ? 1 : 0, 1], data: null };
  return { uniform: null, data };
}

function relief({ scope, strength, kernel }: Extract<Source, { type: 'relief' }>, ground: Ground, tile: TileIndex): TileValue {
  const { sheet } = ground;
  const reach = reliefReach(kernel);
  const near = ground.near(scope, tile, reach);
  const side = TILE + 2 * reach.rx;
  const mark = kernels().mark();
  try {
    const field = kernels().floats(side * side);
    const rect = { x: tileX(tile) * TILE - reach.rx, y: tileY(tile) * TILE - reach.ry, width: side, height: side };
    gather(sheet, rect, 1, (t) => near.get(t)!, field);
    const steep = strength * sheet.heightSpan * sheet.width;
    for (let i = 0; i < field.length; i++) field[i] *= steep;
    const data = new Float32Array(TILE_TEXELS * 4).fill(1, TILE_TEXELS * 3);
    const out = kernels().floats(TILE_TEXELS * 3);
    normalsFromField(field, TILE, TILE, kernel, out);
    for (let i = 0; i < out.length; i++) data[i] = out[i] * 0.5 + 0.5;
    return { uniform: null, data };
  } finally {
    kernels().release(mark);
  }
}

/** A rule's values by themselves: all maps of a coat ask for the same. */
export function ruleTile(source: MadeSource, { sheet, surface }: Ground, tile: TileIndex): TileValue {
  const data = madeTile(source.made, source.placement, sheet, surface, tile);
  return data.every((v) => v === data[0]) ? { uniform: [data[0]], data: null } : { uniform: null, data };
}

/** What a cell makes of a rule's values over `n` texels: between two values, or along a ramp. Solid. */
export function spread({ low, high, ramp }: MadeSource['spread'], values: State, n: number, channels: 1 | 3): State {
  if (values.even) {
    const t = values.even[0];
    const colour = [0, 0, 0];
    if (ramp) rampAt(ramp, t, colour);
    return { even: [...(ramp ? colour : low.map((v, c) => v + (high[c] - v) * t)), 1], acc: null };
  }
  const acc = kernels().floats(n * (channels + 1));
  const t = values.acc!;
  if (ramp) rampOver(ramp, t, n, acc);
  else for (let c = 0; c < channels; c++) kernels().affine(acc.subarray(c * n, (c + 1) * n), t, low[c], high[c] - low[c]);
  acc.fill(1, channels * n);
  return { even: null, acc };
}

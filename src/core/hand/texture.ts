/**
 * A brush's texture: what breaks its tip up. It goes with the tip, lies fixed over the sheet, or fixed on the surface, where
 * it is laid on from the sides of a box, blended by where the surface faces: what lies together on the model looks alike on
 * both sides of a seam.
 */
import { z } from 'zod';
import { unit } from '../kinds/fields';
import { madeSchema, type Made } from '../kinds/sources';
import { PLAIN } from '../kinds/placement';
import type { SurfaceMap, SurfaceTile } from '../mesh/surfaceMap';
import { madeTile } from '../strata/made';
import { TILE, TILE_TEXELS, tileIndex, tileX, tileY, type TileIndex } from '../tile/tiles';
import type { Reached } from './imprint';
import { pictureIdSchema } from './pictures/id';
import { levelFor, repeatedAt, tipPicture, type TipPicture } from './tipPicture';

export const TEXTURE_FIXES = ['tip', 'sheet', 'surface'] as const;
export const TEXTURE_JOINS = ['times', 'lighten', 'height'] as const;
export type TextureJoin = (typeof TEXTURE_JOINS)[number];

export const textureSchema = z.object({
  /** What it shows: a rule, as coats have it, or a picture. */
  of: z.union([madeSchema, pictureIdSchema]),
  fix: z.enum(TEXTURE_FIXES).default('surface'),
  /** One repeat of it: diameters of the tip if it goes with that, else millimetres (a canvas counts as one metre wide). */
  size: z.number().min(0.01).max(10_000).default(50),
  depth: unit.default(0.6),
  /** −1: flat. 1: only black and white. */
  contrast: z.number().min(-1).max(1).default(0),
  invert: z.boolean().default(false),
  /**
   * `times`: dark places take less. `lighten`: light places take as much as if the tip were hard there. `height`: light
   * places are filled first, dark ones when the brush gives much.
   */
  join: z.enum(TEXTURE_JOINS).default('times'),
});
export type BrushTexture = z.infer<typeof textureSchema>;

/** A texture as one dab has it. */
export interface TipTexture {
  picture: TipPicture;
  level: number;
  depth: number;
  contrast: number;
  invert: boolean;
  join: TextureJoin;
  /** Repeats to a unit: to a radius of the tip, to a texel of the sheet, or to a metre. */
  scale: number;
  /** Where it begins, in repeats. */
  x: number;
  y: number;
}

/** Texels of a side of what is drawn of a rule: two tiles. */
const SIDE = 2 * TILE;

/** Rules that were drawn of late, the newest last: drawing one takes longer than a pen waits. */
const drawn = new Map<string, TipPicture>();
const MOST_DRAWN = 16;

/** A rule as a picture that repeats. */
export function pictureOfRule(made: Made): TipPicture {
  const key = JSON.stringify(made);
  const known = drawn.get(key) ?? drawRule(made);
  drawn.delete(key);
  drawn.set(key, known);
  for (const old of drawn.keys()) if (drawn.size > MOST_DRAWN) drawn.delete(old);
  return known;
}

function drawRule(made: Made): TipPicture {
  const sheet = { width: SIDE, height: SIDE, wrapU: true, wrapV: true };
  const values = new Float32Array(SIDE * SIDE);
  for (let ty = 0; ty < SIDE / TILE; ty++)
    for (let tx = 0; tx < SIDE / TILE; tx++) {
      const tile = madeTile(made, PLAIN, sheet, null, tileIndex(tx, ty));
      for (let y = 0; y < TILE; y++) values.set(tile.subarray(y * TILE, (y + 1) * TILE), (ty * TILE + y) * SIDE + tx * TILE);
    }
  return tipPicture(SIDE, values);
}

/** A texture for a dab: `texelsPerUnit` of what `scale` counts in, so that it is read as fine as the sheet is. */
export function textureFor(
  { depth, contrast, invert, join, size, fix }: BrushTexture,
  picture: TipPicture,
  texelsPerMetre: number,
  dab: { radiusTexels: number; depth: number; x: number; y: number },
): TipTexture {
  const repeatTexels = fix === 'tip' ? size * 2 * dab.radiusTexels : (size / 1000) * texelsPerMetre;
  const scale = fix === 'tip' ? 1 / (2 * size) : fix === 'sheet' ? 1 / repeatTexels : 1000 / size;
  const [x, y] = fix === 'tip' ? [dab.x, dab.y] : [0, 0];
  return {
    ...{ picture, invert, join, scale, x, y, contrast },
    level: levelFor(picture, repeatTexels),
    depth: Math.min(1, Math.max(0, depth * dab.depth)),
  };
}

/** The texture's value, 0 … 1, with its contrast: around the middle, steeper towards 1, flatter towards −1. */
function toned({ contrast, invert }: TipTexture, value: number): number {
  const v = invert ? 1 - value : value;
  if (contrast === 0) return v;
  // 45° at 0, upright at 1: the tangent of the slope's angle.
  const slope = Math.tan(((Math.min(0.995, contrast) + 1) * Math.PI) / 4);
  return Math.min(1, Math.max(0, (v - 0.5) * slope + 0.5));
}

export const textureInTip = (texture: TipTexture, u: number, v: number): number =>
  toned(texture, repeatedAt(texture.picture, texture.level, u * texture.scale + texture.x, v * texture.scale + texture.y));

/** What a tip gives where the texture is `t`. All 0 … 1; a depth of 0 changes nothing. */
export function joined({ depth, join }: Pick<TipTexture, 'depth' | 'join'>, share: number, t: number): number {
  if (join === 'times') return share * (1 - depth + depth * t);
  if (join === 'lighten') return share * (1 - depth) + depth * t * Math.min(1, share * 4);
  // Deep places need more paint: 1 − t of the whole. What is over is laid over a tenth of the range.
  const filled = (share * (1 + SOFT) - (1 - t)) / SOFT;
  return share * (1 - depth) + depth * Math.min(1, Math.max(0, filled)) * Math.min(1, share * 4);
}
const SOFT = 0.1;

/**
 * A texture that is fixed to the sheet or to the surface: it breaks up what the whole stroke gives, so that going over a
 * place again fills it no further than its opacity says.
 */
export class FixedTexture {
  private tiles = new Map<TileIndex, Float32Array>();

  /** `map`: null where it lies over the sheet. */
  constructor(
    private texture: TipTexture,
    private map: SurfaceMap | null,
  ) {}

  /** The texture's values, 0 … 1, row by row; below 0: not worked out yet. */
  private valuesOf(index: TileIndex): Float32Array {
    let values = this.tiles.get(index);
    if (!values) this.tiles.set(index, (values = new Float32Array(TILE_TEXELS).fill(-1)));
    return values;
  }

  private at(index: TileIndex, i: number, places: SurfaceTile | null): number {
    const { texture } = this;
    const { picture, level, scale } = texture;
    const t = places
      ? onBox(texture, places.position, places.normal, i * 3)
      : repeatedAt(
          picture,
          level,
          (tileX(index) * TILE + (i % TILE) + 0.5) * scale,
          (tileY(index) * TILE + ((i / TILE) | 0) + 0.5) * scale,
        );
    return toned(texture, t);
  }

  /** From `coverage` into `out`, within a rectangle. `depths`: a texel's own share of the depth; null: all of it. */
  breakUp(index: TileIndex, coverage: Float32Array, out: Float32Array, depths: Float32Array | null, rect: Reached): void {
    const values = this.valuesOf(index);
    const { join, depth } = this.texture;
    const places = this.map?.tiles.get(index) ?? null;
    const own = { depth, join };
    for (let y = rect.y0; y < rect.y1; y++)
      for (let i = y * TILE + rect.x0, end = y * TILE + rect.x1; i < end; i++) {
        const share = coverage[i];
        if (share === 0) {
          out[i] = 0;
          continue;
        }
        if (values[i] < 0) values[i] = this.at(index, i, places);
        if (depths) own.depth = Math.min(1, depth * depths[i]);
        out[i] = joined(own, share, values[i]);
      }
  }
}

/** From the sides of a box: each weighs the fourth power of how much the surface faces it. */
function onBox({ picture, level, scale }: TipTexture, position: Float32Array, normal: Int8Array, o: number): number {
  const x = position[o] * scale;
  const y = position[o + 1] * scale;
  const z = position[o + 2] * scale;
  const wx = (normal[o] / 127) ** 4;
  const wy = (normal[o + 1] / 127) ** 4;
  const wz = (normal[o + 2] / 127) ** 4;
  const least = 0.01 * (wx + wy + wz);
  let sum = 0;
  let all = 0;
  if (wx > least) sum += wx * repeatedAt(picture, level, z, -y);
  if (wx > least) all += wx;
  if (wy > least) sum += wy * repeatedAt(picture, level, x, z);
  if (wy > least) all += wy;
  if (wz > least) sum += wz * repeatedAt(picture, level, x, -y);
  if (wz > least) all += wz;
  return all > 0 ? sum / all : 0;
}

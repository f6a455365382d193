/**
 * A brush's texture: what breaks its tip up. It goes with the tip, lies fixed over the sheet, or fixed on the surface, where
 * it is laid on from the sides of a box, blended by where the surface faces: what lies together on the model looks alike on
 * both sides of a seam.
 */
import { z } from 'zod';
import type { TextureJoin, TextureShape } from '../../kernels/dabs';
import { toned } from '../../kernels/dabShares';
import { kernels } from '../kernels';
import { unit } from '../kinds/fields';
import { madeSchema, type Made } from '../kinds/sources';
import { PLAIN } from '../kinds/placement';
import type { SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import { madeTile } from '../strata/made';
import { lasting, TILE, TILE_TEXELS, tileIndex, tileX, tileY, type TileIndex } from '../tile/tiles';
import type { Reached } from './imprint';
import { pictureIdSchema } from './pictures/id';
import { levelFor, levelOf, tipPicture, type TipPicture } from './tipPicture';

export const TEXTURE_FIXES = ['tip', 'sheet', 'surface'] as const;
export const TEXTURE_JOINS = ['times', 'lighten', 'height'] as const satisfies readonly TextureJoin[];

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

/** Ready to be asked. Its contrast is a slope around the middle: 45° at 0, upright at 1, the tangent of the angle. */
export const shapeOfTexture = ({ picture, level, contrast, ...texture }: TipTexture): TextureShape => ({
  ...texture,
  picture: levelOf(picture, level),
  slope: contrast === 0 ? 1 : Math.tan(((Math.min(0.995, contrast) + 1) * Math.PI) / 4),
});

/**
 * A texture that is fixed to the sheet or to the surface: it breaks up what the whole stroke gives, so that going over a
 * place again fills it no further than its opacity says.
 */
export class FixedTexture {
  private tiles = new Map<TileIndex, Float32Array>();
  private texture: TextureShape;

  /** `map`: null where it lies over the sheet. */
  constructor(
    texture: TipTexture,
    private map: SurfaceMap | null,
  ) {
    this.texture = shapeOfTexture(texture);
  }

  /** The texture's values, 0 … 1, row by row; below 0: not worked out yet. */
  private valuesOf(index: TileIndex): Float32Array {
    let values = this.tiles.get(index);
    if (!values) {
      const bare = this.map && !this.map.tiles.has(index);
      this.tiles.set(index, (values = lasting(Float32Array, TILE_TEXELS).fill(bare ? toned(this.texture, 0) : -1)));
    }
    return values;
  }

  /** From `coverage` into `out`, within a rectangle. `depths`: a texel's own share of the depth; null: all of it. */
  breakUp(index: TileIndex, coverage: Float32Array, out: Float32Array, depths: Float32Array | null, rect: Reached): void {
    const k = kernels();
    const values = this.valuesOf(index);
    const at = this.map ? this.map.tiles.get(index) : { x: tileX(index) * TILE + 0.5, y: tileY(index) * TILE + 0.5 };
    if (at) k.textureValues(values, coverage, rect, this.texture, at);
    k.breakUp(out, coverage, values, depths, rect, this.texture);
  }
}

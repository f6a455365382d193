/** Raising the coverage of a stroke, in the sheet and through the eye: what all areas share. */
import type { SurfaceHit } from '../../mesh/surfaceQuery';
import { around } from '../../tile/border';
import { TILE, tileX, tileY } from '../../tile/tiles';
import { imageInSheet, imageOf, imageOfFrame, type Image } from '../mirror';
import { sheetPlace, surfacePlace, frameAt } from '../place';
import type { Sample } from '../sample';
import { Sight, type SightOptions, type Wanted } from '../sight';
import { viewOfImage, type View } from '../view';
import type { AreaContext } from './area';
import type { Box, Point } from './figure';

/** A shape is laid down at most so many turns beyond a border that wraps. */
const MOST_TURNS = 4;

/** Calls `at` for whole runs of texels of a box in the sheet that lie in one row of one tile; beyond the border where it wraps. */
export function visitSheet(
  { width, height, wrapU, wrapV }: AreaContext['sheet'],
  box: Box,
  at: (tx: number, ty: number, i: number, count: number, x: number, y: number) => void,
): void {
  const range = (low: number, high: number, size: number, wraps: boolean): [number, number] => {
    const least = wraps ? -MOST_TURNS * size : 0;
    const most = wraps ? (MOST_TURNS + 1) * size : size;
    return [Math.max(least, Math.floor(low)), Math.min(most, Math.ceil(high))];
  };
  const [left, right] = range(box.x0, box.x1, width, wrapU);
  const [top, bottom] = range(box.y0, box.y1, height, wrapV);
  for (let y = top; y < bottom; y++) {
    const row = around(y, height);
    for (let x = left; x < right;) {
      const column = around(x, width);
      const count = Math.min(right - x, TILE - (column % TILE), width - column);
      at((column / TILE) | 0, (row / TILE) | 0, (row % TILE) * TILE + (column % TILE), count, x, y);
      x += count;
    }
  }
}

/** In the sheet, in texels. */
export function raiseInSheet({ sheet, coverage }: AreaContext, box: Box, wanted: Wanted): void {
  visitSheet(sheet, box, (tx, ty, i, count, x, y) => {
    // A run of a row is all outside, all inside, or asked for texel by texel.
    const even = count > 1 ? wanted.even(x + count / 2, y + 0.5, count / 2, 1) : null;
    if (even === 0) return;
    const tile = coverage.tile(tx, ty);
    let [from, to] = [count, 0];
    for (let n = 0; n < count; n++) {
      const value = even ?? wanted.at(x + n + 0.5, y + 0.5, 1);
      if (!(value > tile.values[i + n])) continue;
      tile.values[i + n] = value;
      if (n < from) from = n;
      to = n + 1;
    }
    const [column, row] = [i & (TILE - 1), i >> 7];
    if (to > from) coverage.touch(tile, column + from, row, column + to, row + 1);
  });
}

/** Through the eye, in pixels of the pane: and where a mirror stands, through the eye's images. */
export function raiseInView(
  { surface, coverage, images, middle }: AreaContext,
  view: View,
  options: SightOptions,
  wanted: Wanted,
): void {
  if (!surface) return;
  for (const seenBy of [view, ...images.map((image) => viewOfImage(view, image, middle))]) {
    const sight = new Sight(surface.map, surface.query, seenBy, options);
    for (const index of surface.map.tiles.keys()) {
      const tile = () => coverage.tile(tileX(index), tileY(index));
      const rect = sight.raise(index, () => tile().values, wanted);
      if (rect) coverage.touch(tile(), rect.x0, rect.y0, rect.x1, rect.y1);
    }
  }
}

/** Where the model is met, for a sample of either pane; null: nowhere. */
export function hitOf({ surface }: Pick<AreaContext, 'surface'>, sample: Sample): SurfaceHit | null {
  if (!surface) return null;
  if (sample.pane === 'model') return surface.query.raycast(sample.origin, sample.direction);
  const place = surfacePlace(surface.map, sample.x, sample.y);
  if (!place || surface.query.isHidden(place.face)) return null;
  return surface.query.near(place.point, place.frame.out, 1e-3 * sizeOf(surface));
}

const sizeOf = ({ map }: NonNullable<AreaContext['surface']>): number => map.width / map.texelsPerMetre;

/** Images of a place of the model, where there is surface within reach: a hundredth of its size. */
export function imagesOnModel({ surface, images, middle }: AreaContext, hit: SurfaceHit): SurfaceHit[] {
  if (!surface) return [];
  const frame = frameAt({ direction: hit.normal.map((v) => -v) as [number, number, number] }, hit);
  return images
    .map((image) => surface.query.near(imageOf(image, middle, hit.point), imageOfFrame(image, frame).out, 0.01 * sizeOf(surface)))
    .filter((h) => h !== null);
}

/** The texel place under a sample; null: it is not over this sheet. */
export function texelOf(context: Pick<AreaContext, 'surface' | 'sheet'>, sample: Sample): Point | null {
  if (sample.pane === 'flat') return { x: sample.x, y: sample.y };
  const hit = hitOf(context, sample);
  if (!hit || Number.isNaN(context.surface!.map.cornersTexels[hit.face * 6])) return null;
  return sheetPlace(hit, context.surface!.map);
}

/** A point's image in a canvas. */
export const pointImage = (image: Image, middle: readonly number[], point: Point): Point => imageInSheet(image, middle, point, 0);

/** Where a mirror lays a dab as well. */
import type { SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import type { SurfaceQuery } from '../mesh/surfaceQuery';
import type { ModelSample } from './sample';
import { imageInSheet, imageOf, imageOfFrame, mirrors, type Image } from './mirror';
import { surfacePlace, type SurfaceTouch } from './place';
import type { DabTip, TipFrame } from './tip';

/** A dab as it is laid: its place, its radius there, its tip, and on the model the frame that this lies in. */
export interface LaidDab {
  at: SurfaceTouch;
  radius: number;
  tip: DabTip;
  frame: TipFrame | null;
  /** It is a mirror image, not one that was turned. */
  mirrored?: boolean;
}

/**
 * A dab's image; null where the model has no surface within its reach there. Images of what is painted in the flat sheet
 * of a model lie on the model. `middle`: where mirrors and the axis meet.
 */
export function imageOfDab(
  image: Image,
  { at, radius, tip, frame }: LaidDab,
  middle: readonly number[],
  surface: { map: SurfaceMap; query: SurfaceQuery } | null,
  texelsPerMetre: number,
): LaidDab | null {
  if (at.pane === 'flat' && !surface) {
    const { x, y, angle } = imageInSheet(image, middle, at, tip.angle);
    return {
      at: { ...at, x, y },
      radius,
      tip: { ...tip, angle, flip: mirrors(image) !== (tip.flip ?? false) },
      frame: null,
      mirrored: mirrors(image),
    };
  }
  const from = at.pane === 'flat' ? surfacePlace(surface!.map, at.x, at.y) : { point: at.hit.point, frame: frame! };
  if (!from) return null;
  const metres = at.pane === 'flat' ? radius / texelsPerMetre : radius;
  const there = imageOfFrame(image, from.frame);
  const hit = surface!.query.near(imageOf(image, middle, from.point), there.out, metres);
  if (!hit) return null;
  const sample: ModelSample = { ...at.sample, pane: 'model', origin: [0, 0, 0], direction: [0, 0, -1], pixelSpread: 0.001 };
  return { at: { pane: 'model', hit, radius: metres, sample }, radius: metres, tip, frame: there, mirrored: mirrors(image) };
}

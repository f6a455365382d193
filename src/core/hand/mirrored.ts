/** What a mirror makes of a stroke, on what it is painted on. */
import type { StrokeContext } from './context';
import { imagesOf, isMirrored, onCanvas, type Image, type Mirror } from './mirror';

/** `middle`: where planes and axis meet. */
export function mirrored(
  mirror: Mirror | undefined,
  { surface, sheet }: Pick<StrokeContext, 'surface' | 'sheet'>,
): { images: readonly Image[]; middle: readonly number[] } {
  const middle = mirror?.at ?? (surface ? surface.query.middle : [sheet.width / 2, sheet.height / 2, 0]);
  return { images: mirror && isMirrored(mirror) ? imagesOf(surface ? mirror : onCanvas(mirror)) : [], middle };
}

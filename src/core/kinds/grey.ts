/** One number of a colour: what a channel of a picture, or colour seen as height, is taken by. */
import { z } from 'zod';
import type { GreyControl } from './control';

export const GREYS = ['luminance', 'maximum', 'mean', 'red', 'green', 'blue', 'alpha'] as const;
export type Grey = (typeof GREYS)[number];
export const GREY_LABELS: Record<Grey, string> = {
  luminance: 'Luminance',
  maximum: 'Largest',
  mean: 'Mean',
  red: 'Red',
  green: 'Green',
  blue: 'Blue',
  alpha: 'Alpha',
};
export const greySchema = z.enum(GREYS);
export const GREY_OPTIONS = GREYS.map((value) => ({ value, label: GREY_LABELS[value] }));

/** Chooses the number of a colour on the map that the setting `of` names. */
export const greyControl = (key: string, label: string, of = 'map'): GreyControl => ({ kind: 'grey', key, label, of });

/** Luminance by the weights of the W3C text for luminosity (colour/blend.ts, `lum`), of encoded values. */
export function greyOf(by: Grey, c: ArrayLike<number>): number {
  switch (by) {
    case 'luminance':
      return 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2];
    case 'maximum':
      return Math.max(c[0], c[1], c[2]);
    case 'mean':
      return (c[0] + c[1] + c[2]) / 3;
    case 'red':
      return c[0];
    case 'green':
      return c[1];
    case 'blue':
      return c[2];
    case 'alpha':
      return c[3];
  }
}

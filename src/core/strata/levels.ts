/**
 * Levels of pictures made ready to be read through taps: 16 bits around the middle, one number or four a pixel, with the
 * first column and row once more at the end, so that a read never has to look where the border is. Where a picture is not solid
 * all over, what a pixel gives is weighted by its alpha: whoever reads divides by the alpha that he reads.
 */
import type { Pixels } from '../../kernels/taps';
import type { MapKind } from '../kinds/filters/filter';
import { gaussOf, SPAN, type HiddenRecipe } from './hidden';
import { greyOf, type Grey } from '../kinds/grey';
import type { PictureLevel } from './pictureLevel';

/** One step of a code: of what is read as it is, and of what was made Gaussian. */
export const PLAIN_STEP = 1 / 65535;
export const GAUSS_STEP = SPAN / 32767;
/** The weight of a direction that is wholly there. */
export const WHOLE = 32767;

/**
 * What a pixel is for a kind of map. With a recipe values are Gaussian (principal axes of colours), and what is not there counts as
 * their mean, 0. Directions stay what they are, and have their weight beside them.
 */
export function readyPixels(
  level: PictureLevel,
  kind: MapKind,
  take: Grey,
  recipe: HiddenRecipe | null,
  weighted = false,
): Pixels {
  const { data } = level;
  const share = weighted ? (from: number) => data[from + 3] / 65535 : () => 1;
  const c = [0, 0, 0, 0];
  const load = (from: number) => {
    for (let k = 0; k < 4; k++) c[k] = data[from + k] / 65535;
  };
  if (kind === 'value')
    return padded(level, 1, (from, into, to) => {
      load(from);
      const grey = greyOf(take, c);
      into[to] = recipe
        ? Math.round((gaussOf(recipe.tables[0], grey - recipe.mean[0]) / GAUSS_STEP) * share(from))
        : Math.round(grey * 65535 * share(from)) - 32768;
    });
  if (kind === 'normal')
    return padded(level, 4, (from, into, to) => {
      for (let k = 0; k < 3; k++) into[to + k] = Math.round((data[from + k] - 32768) * share(from));
      into[to + 3] = Math.round(WHOLE * share(from));
    });
  if (!recipe && !weighted)
    return padded(level, 4, (from, into, to) => {
      into[to] = data[from] - 32768;
      into[to + 1] = data[from + 1] - 32768;
      into[to + 2] = data[from + 2] - 32768;
    });
  if (!recipe)
    return padded(level, 4, (from, into, to) => {
      for (let k = 0; k < 3; k++) into[to + k] = Math.round(data[from + k] * share(from)) - 32768;
    });
  const { mean, axes, tables } = recipe;
  return padded(level, 4, (from, into, to) => {
    load(from);
    for (let a = 0; a < 3; a++) {
      const axis = axes[a];
      const v = axis[0] * (c[0] - mean[0]) + axis[1] * (c[1] - mean[1]) + axis[2] * (c[2] - mean[2]);
      into[to + a] = Math.round((gaussOf(tables[a], v) / GAUSS_STEP) * share(from));
    }
  });
}

/** Null: solid all over. */
export function readyAlpha(level: PictureLevel): Pixels | null {
  const { data } = level;
  let solid = true;
  for (let i = 3; i < data.length && solid; i += 4) solid = data[i] === 65535;
  return solid ? null : padded(level, 1, (from, into, to) => (into[to] = data[from + 3] - 32768));
}

/** `put`: what the pixel at `from` gives, at `to`. */
function padded({ width, height }: PictureLevel, size: 1 | 4, put: (from: number, into: Int16Array, to: number) => void): Pixels {
  return {
    size,
    length: (width + 1) * (height + 1) * size,
    fill: (into) => {
      for (let y = 0, to = 0; y <= height; y++) {
        const row = (y < height ? y : 0) * width;
        for (let x = 0; x < width; x++, to += size) put((row + x) * 4, into, to);
        put(row * 4, into, to);
        to += size;
      }
    },
  };
}

/**
 * Levels of pictures made ready to be read through taps: 16 bits around the middle, one number or four a pixel, with the
 * first column and row once more at the end, so that a read never has to look where the border is.
 */
import type { Pixels } from '../../kernels/taps';
import type { MapKind } from '../kinds/filters/filter';
import { gaussOf, SPAN, type HiddenRecipe } from './hidden';
import { greyOf, type Grey } from '../kinds/grey';
import type { PictureLevel } from './pictureLevel';

/** One step of a code: of what is read as it is, and of what was made Gaussian. */
export const PLAIN_STEP = 1 / 65535;
export const GAUSS_STEP = SPAN / 32767;

/** What a pixel is for a kind of map. With a recipe values are Gaussian (principal axes of colours); directions stay what they are. */
export function readyPixels(level: PictureLevel, kind: MapKind, take: Grey, recipe: HiddenRecipe | null): Pixels {
  const { data } = level;
  const c = [0, 0, 0, 0];
  const load = (from: number) => {
    for (let k = 0; k < 4; k++) c[k] = data[from + k] / 65535;
  };
  if (kind === 'value')
    return padded(level, 1, (from, into, to) => {
      load(from);
      const grey = greyOf(take, c);
      into[to] = recipe
        ? Math.round(gaussOf(recipe.tables[0], grey - recipe.mean[0]) / GAUSS_STEP)
        : Math.round(grey * 65535) - 32768;
    });
  if (!recipe)
    return padded(level, 4, (from, into, to) => {
      for (let k = 0; k < 3; k++) into[to + k] = data[from + k] - 32768;
    });
  const { mean, axes, tables } = recipe;
  return padded(level, 4, (from, into, to) => {
    load(from);
    for (let a = 0; a < 3; a++) {
      const axis = axes[a];
      const v = axis[0] * (c[0] - mean[0]) + axis[1] * (c[1] - mean[1]) + axis[2] * (c[2] - mean[2]);
      into[to + a] = Math.round(gaussOf(tables[a], v) / GAUSS_STEP);
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

function padded({ width, height }: PictureLevel, size: 1 | 4, put: (from: number, into: Int16Array, to: number) => void): Pixels {
  return {
    size,
    length: (width + 1) * (height + 1) * size,
    fill: (into) => {
      for (let y = 0, to = 0; y <= height; y++)
        for (let x = 0; x <= width; x++, to += size) put(((y % height) * width + (x % width)) * 4, into, to);
    },
  };
}

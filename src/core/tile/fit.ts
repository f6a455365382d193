/** Pictures of any size brought to the size of a sheet. */
import { toStored, type Bitmap } from './bitmap';
import { linearToSrgb, srgbToLinear } from '../colour/transfer';
import { resample, type ResampleFilter, type ResampleOptions } from './resample';

/** What a picture holds: colours in the sRGB curve, or values. */
export type Holds = 'colour' | 'values';

export type Wraps = Pick<ResampleOptions, 'wrapX' | 'wrapY'>;

/** Colours keep their edges; values, directions and masks come without any sharpening. */
export const filterFor = (holds: Holds): ResampleFilter => (holds === 'colour' ? 'lanczos' : 'mitchell');

/**
 * Resamples a picture to a sheet (16 bit, interleaved, straight alpha): colour in linear light; what each texel gives is weighted by
 * its alpha. Wraps where the sheet does.
 */
export function fitPicture(
  picture: Bitmap,
  width: number,
  height: number,
  channels: 2 | 4,
  holds: Holds,
  wraps: Wraps = {},
): Uint16Array {
  const stored = toStored(picture, channels);
  if (picture.width === width && picture.height === height) return stored;
  const n = channels - 1;
  const colour = holds === 'colour';
  const plane = new Float32Array(stored.length);
  for (let i = 0; i < stored.length; i += channels) {
    for (let c = 0; c < n; c++) plane[i + c] = colour ? srgbToLinear(stored[i + c] / 65535) : stored[i + c] / 65535;
    plane[i + n] = stored[i + n] / 65535;
  }
  const fitted = resample(plane, picture.width, picture.height, channels, width, height, {
    ...wraps,
    filter: filterFor(holds),
    weighted: true,
  });
  const out = new Uint16Array(width * height * channels);
  for (let i = 0; i < out.length; i += channels) {
    const a = fitted[i + n];
    if (a <= 0) continue;
    for (let c = 0; c < n; c++) out[i + c] = (colour ? linearToSrgb(fitted[i + c]) : fitted[i + c]) * 65535 + 0.5;
    out[i + n] = a * 65535 + 0.5;
  }
  return out;
}

/** Pictures of any size brought to the size of a sheet. */
import { toStored, type Bitmap } from './bitmap';
import { linearToSrgb, srgbToLinear } from '../colour/transfer';
import { resample } from './resample';

/** Resamples a picture to a sheet; colour in linear light and premultiplied, so that edges do not darken. */
export function fitPicture(picture: Bitmap, width: number, height: number, channels: 2 | 4, colour: boolean): Uint16Array {
  const stored = toStored(picture, channels);
  if (picture.width === width && picture.height === height) return stored;
  const n = channels - 1;
  const plane = new Float32Array(stored.length);
  for (let i = 0; i < stored.length; i += channels) {
    const a = stored[i + n] / 65535;
    for (let c = 0; c < n; c++) plane[i + c] = a * (colour ? srgbToLinear(stored[i + c] / 65535) : stored[i + c] / 65535);
    plane[i + n] = a;
  }
  const fitted = resample(plane, picture.width, picture.height, channels, width, height);
  const out = new Uint16Array(width * height * channels);
  for (let i = 0; i < out.length; i += channels) {
    const a = Math.min(1, Math.max(0, fitted[i + n]));
    if (a <= 0) continue;
    for (let c = 0; c < n; c++) {
      const v = Math.min(1, Math.max(0, fitted[i + c] / a));
      out[i + c] = (colour ? linearToSrgb(v) : v) * 65535 + 0.5;
    }
    out[i + n] = a * 65535 + 0.5;
  }
  return out;
}

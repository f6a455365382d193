/**
 * Pictures that do not go through sharp: of numbers beyond 0 … 1, or of formats that it does not read (formats/); TIFF through geotiff.
 * They are stored in 16 bits like all others, so each comes with the sentence that says how its range was brought to 0 … 1.
 */
import { fromFile } from 'geotiff';
import { linearToSrgb } from '../core/colour/transfer';
import type { TiffHead } from './tiffHead';

/** Numbers as a file has them, interleaved. */
export interface RangedPicture {
  width: number;
  height: number;
  channels: number;
  values: Float32Array | Float64Array | Int8Array | Int16Array | Int32Array | Uint32Array | Uint16Array | Uint8Array;
  /** Whole numbers: their least and largest that the format has. null: numbers with fractions. */
  whole: [number, number] | null;
  /** Its last channel is alpha, which has its own range. */
  alpha: boolean;
}

/** A quarter of what is read of others: these take four bytes a number, and a copy. */
export const MOST_RANGED_TEXELS = 4096 * 4096;

export async function readRangedTiff(path: string, { format, bits }: TiffHead): Promise<RangedPicture> {
  const file = await fromFile(path);
  try {
    const image = await file.getImage();
    const rasters = await image.readRasters({ interleave: true });
    const { width, height } = rasters;
    const channels = image.getSamplesPerPixel();
    const half = 2 ** (bits - 1);
    const whole: [number, number] | null = format === 3 ? null : format === 2 ? [-half, half - 1] : [0, 2 ** bits - 1];
    return {
      width,
      height,
      channels,
      values: rasters as unknown as Float32Array,
      whole,
      alpha: channels === 2 || channels === 4,
    };
  } finally {
    await file.close();
  }
}

/** 16 bits, and how the range came to 0 … 1; null: it was there. */
export interface Fitted {
  data: Uint16Array<ArrayBuffer>;
  rule: string | null;
}

/** Values keep their order: by the format's own range, or from the least to the largest where they leave 0 … 1. */
export function fitValues({ values, whole, channels, alpha }: RangedPicture): Fitted {
  const [low, high, broken] = extentOf(values, channels, alpha);
  const inside = low >= 0 && high <= 1;
  const [from, to] = whole ?? (inside ? [0, 1] : [low, high]);
  const data = scaled(
    values,
    channels,
    alpha,
    (v) => (v - from) / (to - from || 1),
    whole ? (v) => (v - whole[0]) / (whole[1] - whole[0]) : null,
  );
  const signed = whole && whole[0] < 0 ? 'holds numbers with a sign: 0 comes in at 50 %' : null;
  const stretched = whole || inside ? null : `goes from ${figure(low)} to ${figure(high)}: that is brought to 0 … 100 %`;
  return { data, rule: joined(signed ?? stretched, broken) };
}

/** Numbers with fractions are linear light, whole ones are in the sRGB curve already. What is brighter than 1 divides all. */
export function fitColours(picture: RangedPicture): Fitted {
  const { values, whole, channels, alpha } = picture;
  if (whole) return fitValues(picture);
  const [, high, broken] = extentOf(values, channels, alpha);
  const most = Math.max(1, high);
  const data = scaled(values, channels, alpha, (v) => linearToSrgb(Math.min(1, Math.max(0, v / most))), null);
  const rule = most > 1 ? `is linear light up to ${figure(high)}: it is divided by that, so that nothing is cut` : null;
  return { data, rule: joined(rule, broken) };
}

const joined = (rule: string | null, broken: number): string | null => {
  const said = broken > 0 ? `${broken} of its numbers are none (NaN or infinite) and count as 0` : null;
  return rule && said ? `${rule}; ${said}` : (rule ?? said);
};

const figure = (v: number): string => Number(v.toPrecision(4)).toString();

/** Least and largest of all but alpha; and how many are no numbers. */
function extentOf(values: RangedPicture['values'], channels: number, alpha: boolean): [number, number, number] {
  let [low, high, broken] = [Infinity, -Infinity, 0];
  const colours = alpha ? channels - 1 : channels;
  for (let i = 0; i < values.length; i++) {
    if (i % channels >= colours) continue;
    const v = values[i];
    if (!Number.isFinite(v)) broken++;
    else {
      if (v < low) low = v;
      if (v > high) high = v;
    }
  }
  return low <= high ? [low, high, broken] : [0, 1, broken];
}

function scaled(
  values: RangedPicture['values'],
  channels: number,
  alpha: boolean,
  to: (v: number) => number,
  alphaTo: ((v: number) => number) | null,
): Uint16Array<ArrayBuffer> {
  const out = new Uint16Array(values.length);
  const last = channels - 1;
  for (let i = 0; i < values.length; i++) {
    const v = Number.isFinite(values[i]) ? values[i] : 0;
    const share = alpha && i % channels === last ? (alphaTo ? alphaTo(v) : v) : to(v);
    out[i] = Math.min(1, Math.max(0, share)) * 65535 + 0.5;
  }
  return out;
}

/** Radiance HDR ("Radiance file formats", RGBE) through three's loader. Linear light. */
import { FloatType } from 'three';
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js';
import { quietly } from '../../core/quietly';
import { PictureDamaged, PictureRefused, startsWith, type PictureFormat } from './format';

interface Head {
  width: number;
  height: number;
  /** What the values were multiplied with; several multiply. */
  exposure: number;
  /** Where the texels begin. */
  start: number;
}

const MOST_HEADER = 64 * 1024;

function headOf(bytes: Uint8Array): Head {
  const text = Buffer.from(bytes.subarray(0, MOST_HEADER)).toString('latin1');
  const end = /\n\r?\n([+-][XY] +\d+ +[+-][XY] +\d+)\r?\n/.exec(text);
  if (!end) throw new PictureDamaged();
  const head = text.slice(0, end.index);
  if (/^FORMAT=32-bit_rle_xyze/im.test(head))
    throw new PictureRefused('is an HDR picture in XYZ instead of RGB, which is not read: save it as RGB.');
  const size = /^-Y +(\d+) +\+X +(\d+)$/.exec(end[1]);
  if (!size) throw new PictureRefused('is an HDR picture that is stored turned or mirrored, which is not read: save it again.');
  const exposure = [...head.matchAll(/^EXPOSURE= *([\d.eE+-]+)/gm)].reduce((product, [, v]) => product * Number(v), 1);
  return {
    width: Number(size[2]),
    height: Number(size[1]),
    exposure: Number.isFinite(exposure) && exposure > 0 ? exposure : 1,
    start: end.index + end[0].length,
  };
}

export const hdr: PictureFormat = {
  is: (head) => startsWith(head, '#?RADIANCE') || startsWith(head, '#?RGBE'),
  size: headOf,
  read(bytes) {
    const { width, height, exposure } = headOf(bytes);
    const loader = new HDRLoader();
    loader.setDataType(FloatType);
    const data = quietly(() => loader.parse(Uint8Array.from(bytes).buffer).data) as unknown as Float32Array;
    if (data.length !== width * height * 4) throw new PictureDamaged();
    const values = new Float32Array(width * height * 3);
    // A mantissa is a share of 256 (Ward, "Real Pixels", Graphics Gems II); the loader divides by 255.
    const scale = 255 / 256 / exposure;
    for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) values[i * 3 + c] = data[i * 4 + c] * scale;
    return { width, height, channels: 3, values, whole: null, alpha: false };
  },
};

/**
 * Reading pictures from outside: PNG, JPEG, TIFF, WebP and GIF through sharp, others by readers of their own (formats/), with limits that
 * hold before anything is unpacked.
 */
import { open, readFile } from 'node:fs/promises';
import sharp from 'sharp';
import { pngTagsOf } from '../core/codec/pngRows';
import { toSrgb } from '../core/codec/fileColour';
import { FORMATS_READ } from './formats';
import { PictureRefused, type PictureSize } from './formats/format';
import { fitColours, fitValues, MOST_RANGED_TEXELS, readRangedTiff, type RangedPicture } from './rangedPictures';
import { tiffHead, type TiffHead } from './tiffHead';

export interface ReadPicture {
  width: number;
  height: number;
  channels: number;
  /** 16 bit; 8-bit files are widened by 257, which is exact both ways. */
  data: Uint16Array<ArrayBuffer>;
  /** What was done to bring it in, a sentence; null: nothing but reading it. */
  note: string | null;
}

export type PictureResult = { ok: true; picture: ReadPicture } | { ok: false; message: string };

/** Called with the number of texels that a picture declares, and whether it is unpacked in JavaScript, which takes longer and holds more. */
export type Declared = (texels: number, inJavaScript?: boolean) => void;

const MOST_SIDE = 16_384;
const MOST_TEXELS = 8192 * 8192;
const FORMATS = ['png', 'jpeg', 'tiff', 'webp', 'gif'];
const GIVE = 'save it as PNG, JPEG, TIFF, WebP, EXR, HDR, TGA, BMP or DDS';

/**
 * `colour`: turned as its EXIF says and brought to sRGB by its profile, or its gAMA and cHRM (CMYK too); numbers with fractions are
 * linear light. `data`: turned, values as they are stored. Never throws for a bad file: what is wrong comes back as one sentence.
 * These readers can be made to take very long: the server calls them in a process of its own (readers/), the command line in this one.
 * `declared` is told how many texels the file says that it has, once that is known to be no more than is read.
 */
export async function readPicture(
  path: string,
  name: string,
  as: 'colour' | 'data',
  declared: Declared = () => undefined,
): Promise<PictureResult> {
  try {
    const head = await headOf(path);
    const format = FORMATS_READ.find((one) => one.is(head, name));
    if (format) {
      const read = async () => format.read(await readFile(path));
      return { ok: true, picture: await readRanged(format.size(head), read, name, as, declared) };
    }
    return { ok: true, picture: await readUsual(path, head, name, as, declared) };
  } catch (error) {
    const why = error instanceof PictureRefused ? error.message : 'is damaged or cut short: copy or save it again.';
    return { ok: false, message: `"${name}" ${why}` };
  }
}

/** It is of a format that sharp does not read, or not as it is meant. */
export const isOwnFormat = async (path: string, name: string): Promise<boolean> => {
  const head = await headOf(path);
  return FORMATS_READ.some((format) => format.is(head, name));
};

/** More than the tags of any usual PNG before its texels, and the attributes of an EXR. */
const HEAD_BYTES = 256 * 1024;

async function headOf(path: string): Promise<Uint8Array> {
  const file = await open(path);
  try {
    const head = new Uint8Array(HEAD_BYTES);
    const { bytesRead } = await file.read(head, 0, HEAD_BYTES);
    return head.subarray(0, bytesRead);
  } finally {
    await file.close();
  }
}

const tooManyChannels = (channels: number) => new PictureRefused(`has ${channels} channels, and up to 4 are read: save fewer.`);

function checkSize(width: number, height: number, most: number): void {
  if (!(width > 0 && height > 0)) throw new PictureRefused('is damaged or cut short: copy or save it again.');
  if (width > MOST_SIDE || height > MOST_SIDE || width * height > most)
    throw new PictureRefused(
      `is ${width} × ${height}, more than is read (up to ${MOST_SIDE} a side and ${Math.round(most / 1e6)} million texels): make it smaller.`,
    );
}

async function readRanged(
  size: PictureSize,
  read: () => Promise<RangedPicture & { left?: string | null }>,
  name: string,
  as: 'colour' | 'data',
  declared: Declared,
): Promise<ReadPicture> {
  checkSize(size.width, size.height, MOST_RANGED_TEXELS);
  declared(size.width * size.height, true);
  const picture = await read();
  const { width, height, channels } = picture;
  const { data, rule } = as === 'colour' ? fitColours(picture) : fitValues(picture);
  if (width > size.width || height > size.height) throw new Error('another size than it declares');
  if (channels > 4 || channels < 1) throw tooManyChannels(channels);
  if (data.length !== width * height * channels) throw new Error('another length');
  const said = [picture.left, rule].filter((s) => s).join('; ');
  return { width, height, channels, data, note: said ? `"${name}" ${said}.` : null };
}

async function readUsual(
  path: string,
  head: Uint8Array,
  name: string,
  as: 'colour' | 'data',
  declared: Declared,
): Promise<ReadPicture> {
  const isTiff = /^(II\*\0|MM\0\*|II\+\0|MM\0\+)/.test(Buffer.from(head.subarray(0, 4)).toString('latin1'));
  if (isTiff) {
    const tiff = await tiffHead(path);
    checkTiff(tiff);
    const apart = tiff.format !== 1 || tiff.bits > 16 || hasUndeclared(tiff);
    if (apart && tiff.samples > 4) throw tooManyChannels(tiff.samples);
    if (apart) return readRanged(tiff, () => readRangedTiff(path, tiff), name, as, declared);
  }
  const meta = await sharp(path, { limitInputPixels: false })
    .metadata()
    .catch(() => null);
  if (!meta) throw new PictureRefused(`is not a picture that is read here, or it is damaged: ${GIVE}.`);
  const { width, height, format, depth } = meta;
  if (!FORMATS.includes(format)) throw new PictureRefused(`is a ${format} file, which is not read here: ${GIVE}.`);
  checkSize(width, height, MOST_TEXELS);
  declared(width * height);
  if (as === 'data' && meta.space === 'cmyk')
    throw new PictureRefused('has the four inks of print, which hold no values: save it as grey.');
  const wide = depth === 'ushort';
  // What libtiff warns of are texels that are not there; with others a warning may be harmless.
  const failOn = format === 'tiff' ? 'warning' : 'error';
  let image = sharp(path, { limitInputPixels: MOST_TEXELS, failOn, ignoreIcc: as === 'data' }).autoOrient();
  const grey = as === 'data' && meta.channels === 1;
  // Said even where it is what the file has: left to itself, sharp goes through 8 bits.
  image = image.toColourspace(grey ? (wide ? 'grey16' : 'b-w') : wide ? 'rgb16' : 'srgb');
  const { data, info } = await image
    .raw({ depth: wide ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true })
    .catch((error: Error) => {
      if (/not implemented|not configured/.test(error.message))
        throw new PictureRefused('uses a compression that is not read: save it with LZW or Deflate.');
      throw error;
    });
  const turned = (meta.orientation ?? 1) >= 5;
  if (info.width !== (turned ? height : width) || info.height !== (turned ? width : height)) throw new Error('another size');
  const texels = info.width * info.height;
  let { channels } = info;
  let out = widened(data, texels * channels, wide);
  if (as === 'data' && meta.channels === 2 && channels === 4) [out, channels] = [greyAndAlpha(out), 2];
  const said = as === 'colour' && format === 'png' && toSrgb(out, channels, pngTagsOf(head));
  const note = said ? `"${name}" says by its gAMA and cHRM how its colours are meant: they are brought to sRGB.` : null;
  return { width: info.width, height: info.height, channels, data: out, note };
}

/** CIELab, ICC Lab and ITU Lab (TIFF 6.0, section 23). */
const LAB: readonly number[] = [8, 9, 10];

/**
 * A sample beside the colours that the file does not declare as one, which libtiff warns of; common as an alpha. A file with undeclared
 * samples and packed bits is left to libtiff.
 */
const hasUndeclared = ({ photometric, samples, extra, bits }: TiffHead): boolean =>
  extra === 0 && (bits === 8 || bits === 16) && ((photometric === 2 && samples === 4) || (photometric <= 1 && samples === 2));

/** What libtiff would say in its own words, or read as black. */
function checkTiff({ compression, bits, format, photometric }: TiffHead): void {
  if (!(bits > 0)) throw new Error('no sample size');
  if (compression === 6)
    throw new PictureRefused('is a TIFF with old-style JPEG compression, which is not read: save it with LZW or Deflate.');
  if (LAB.includes(photometric))
    throw new PictureRefused('is a TIFF in the Lab colour space, which is not read: save it as RGB or grey.');
  if (format === 1 && ![1, 2, 4, 8, 16, 32].includes(bits))
    throw new PictureRefused(`is a TIFF of ${bits} bits a sample, which is not read: save it with 8, 16 or 32.`);
}

function widened(data: Buffer, count: number, wide: boolean): Uint16Array<ArrayBuffer> {
  // Where it lies well it is taken as it is, without another copy.
  if (wide && data.byteOffset % 2 === 0) return new Uint16Array(data.buffer as ArrayBuffer, data.byteOffset, count);
  const out = new Uint16Array(count);
  if (wide) new Uint8Array(out.buffer).set(data.subarray(0, count * 2));
  else for (let i = 0; i < count; i++) out[i] = data[i] * 257;
  return out;
}

function greyAndAlpha(rgba: Uint16Array): Uint16Array<ArrayBuffer> {
  const out = new Uint16Array(rgba.length / 2);
  for (let i = 0, o = 0; i < rgba.length; i += 4, o += 2) [out[o], out[o + 1]] = [rgba[i], rgba[i + 3]];
  return out;
}

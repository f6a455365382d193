/** Readers of pictures. */
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { decodePng, encodePng, PictureError } from '../../src/core/codec/png';
import { mendedPng, spoilt } from '../../src/core/testing/fuzz';
import { seededRandom } from '../../src/core/testing/models';
import { readPicture } from '../../src/server/pictures';
import { exr } from '../../src/server/testingExr';
import { tiff } from '../../src/server/testingTiff';
import { BYTES, orRefusal, text, type Spoil, type Target } from './target';

const path = join(mkdtempSync(join(tmpdir(), 'brindle-fuzz-')), 'it');

const picture = (extension: string) => async (bytes: Uint8Array) => {
  writeFileSync(path, bytes);
  for (const as of ['colour', 'data'] as const) {
    const found = await readPicture(path, `It.${extension}`, as);
    if (!found.ok) return found.message;
    const { width, height, channels, data } = found.picture;
    if (data.length !== width * height * channels) throw new Error('another length than its size says');
  }
  return null;
};

const random = seededRandom(1);
const raw = Buffer.from(Array.from({ length: 16 * 12 * 4 }, () => random() * 256));
const made = () => sharp(raw, { raw: { width: 16, height: 12, channels: 4 } });
const mended: Spoil = (file, r) => mendedPng(spoilt(file, r));

function ownPngs(): Uint8Array[] {
  return ([1, 2, 3, 4] as const).flatMap((channels) =>
    ([8, 16] as const).map((bits) => {
      const length = 81 * channels;
      const data =
        bits === 8 ? Uint8Array.from({ length }, () => random() * 256) : Uint16Array.from({ length }, () => random() * 65536);
      return encodePng({ width: 9, height: 9, channels, bits, data });
    }),
  );
}

const channels = ['R', 'G', 'B', 'A'].map((name, k) => ({
  name,
  type: 'half' as const,
  at: (x: number, y: number) => x + y * k,
}));
const exrs = () => [
  exr({ width: 9, height: 7, channels, zip: true }),
  exr({ width: 9, height: 7, channels, tiles: { side: 4, mode: 'mip' } }),
  exr(
    { width: 5, height: 5, channels, name: 'a' },
    { width: 4, height: 3, channels: channels.slice(0, 1), name: 'b', zip: true },
  ),
  readFileSync('src/server/__tests__/files/dwaa-13x37.exr'),
];
const floats = Float32Array.from({ length: 48 }, () => random() * 3 - 1);
const tiffs = async () => [
  tiff({ bits: 32, format: 3, data: floats, width: 4, height: 4, samples: 3 }),
  tiff({ bits: 8, data: Uint8Array.from({ length: 64 }, (_, i) => i), width: 4, height: 4, samples: 4 }),
  await made().tiff({ compression: 'lzw' }).toBuffer(),
  await made().removeAlpha().tiff({ compression: 'jpeg' }).toBuffer(),
];
/** The first 16 × 16 texels of the tests' files. */
const dds = () =>
  ['bc7', 'bc6u'].map((name) => {
    const bytes = readFileSync(`src/server/__tests__/files/${name}.dds`).subarray(0, 148 + 16 * 16);
    for (const at of [12, 16]) bytes.writeUInt32LE(16, at);
    return bytes;
  });
const hdr = () => [
  Buffer.concat([
    text('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\nEXPOSURE=2\n\n-Y 2 +X 8\n'),
    Buffer.from([2, 2, 0, 8, 136, 9, 136, 7, 8, 1, 2, 3, 4, 5, 6, 7, 8, 136, 128, 2, 2, 0, 8, 136, 9, 136, 7, 136, 5, 136, 128]),
  ]),
];
const bmp = () => {
  const header = Buffer.alloc(54 + 64 + 12);
  header.write('BM', 0, 'latin1');
  for (const [at, value] of [
    [2, 130],
    [10, 118],
    [14, 40],
    [18, 5],
    [22, 3],
    [30, 2],
    [46, 16],
  ])
    header.writeUInt32LE(value, at);
  header.writeUInt16LE(1, 26);
  header.writeUInt16LE(4, 28);
  Buffer.from([5, 0x12, 0, 0, 5, 0x34, 0, 0, 5, 0x56, 0, 1]).copy(header, 118);
  return [header];
};
const tga = () => {
  const head = [0, 0, 10, 0, 0, 0, 0, 0, 0, 0, 0, 0, 4, 0, 4, 0, 32, 40];
  return [Uint8Array.from([...head, 0x87, 1, 2, 3, 4, 7, ...Array.from({ length: 32 }, (_, i) => i * 7)])];
};

export const PICTURES: readonly Target[] = [
  {
    name: 'png',
    files: async () => [await made().png().toBuffer(), await made().png({ palette: true }).toBuffer(), ...ownPngs()],
    ways: [...BYTES, mended],
    read: picture('png'),
  },
  {
    name: 'own png',
    files: ownPngs,
    ways: [...BYTES, mended],
    read: (bytes) => orRefusal(() => decodePng(bytes), PictureError),
  },
  { name: 'jpeg', files: async () => [await made().jpeg().toBuffer()], ways: BYTES, read: picture('jpg') },
  { name: 'webp', files: async () => [await made().webp().toBuffer()], ways: BYTES, read: picture('webp') },
  { name: 'gif', files: async () => [await made().gif().toBuffer()], ways: BYTES, read: picture('gif') },
  { name: 'tiff', files: tiffs, ways: BYTES, read: picture('tif') },
  {
    name: 'exr',
    files: exrs,
    ways: BYTES,
    read: picture('exr'),
    mayTakeLong: "three's loader goes on for ever where packed data (PIZ, DWA) unpacks to more than it should",
  },
  { name: 'dds', files: dds, ways: BYTES, read: picture('dds') },
  { name: 'hdr', files: hdr, ways: BYTES, read: picture('hdr') },
  { name: 'bmp', files: bmp, ways: BYTES, read: picture('bmp') },
  { name: 'tga', files: tga, ways: BYTES, read: picture('tga') },
];

/** Pictures spoilt by fixed seeds: texels of the size that is said, or a sentence of ours. FUZZ=10000 runs the whole of it. */
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { DataTexture, FloatType, RGBAFormat } from 'three';
import { EXRExporter } from 'three/examples/jsm/exporters/EXRExporter.js';
import { seededRandom } from '../../core/testing/models';
import { fuzz, FUZZ_TIMES, mendedPng, spoilt } from '../../core/testing/fuzz';
import { readPicture } from '../pictures';
import { tiff } from '../testingTiff';

jest.setTimeout(3_600_000);
const path = join(mkdtempSync(join(tmpdir(), 'brindle-fuzz-')), 'it');

class Refused extends Error {}
const read = async (bytes: Uint8Array) => {
  writeFileSync(path, bytes);
  for (const as of ['colour', 'data'] as const) {
    const found = await readPicture(path, 'It', as);
    if (!found.ok) throw new Refused(found.message);
    const { width, height, channels, data } = found.picture;
    if (data.length !== width * height * channels) throw new Error('another length than its size says');
  }
};

const random = seededRandom(1);
const raw = Buffer.from(Array.from({ length: 16 * 12 * 4 }, () => random() * 256));
const made = () => sharp(raw, { raw: { width: 16, height: 12, channels: 4 } });

test('PNG, JPEG, WebP, GIF and TIFF', async () => {
  const files = [
    await made().png().toBuffer(),
    await made().png({ palette: true }).toBuffer(),
    await made().jpeg().toBuffer(),
    await made().webp().toBuffer(),
    await made().gif().toBuffer(),
    await made().tiff({ compression: 'lzw' }).toBuffer(),
    await made().removeAlpha().tiff({ compression: 'jpeg' }).toBuffer(),
  ];
  for (const spoil of [spoilt, (file: Uint8Array, r: () => number) => mendedPng(spoilt(file, r))]) {
    const { faults, refused } = await fuzz(spoil === spoilt ? files : files.slice(0, 2), spoil, read, [Refused]);
    expect(faults).toEqual([]);
    expect(refused).toBeGreaterThan(0);
  }
});

test('EXR and TIFF of other numbers, each in a process of its own', async () => {
  const texture = new DataTexture(
    Float32Array.from({ length: 64 }, () => random() * 2),
    4,
    4,
    RGBAFormat,
    FloatType,
  );
  const files = [
    tiff({
      bits: 32,
      format: 3,
      data: Float32Array.from({ length: 48 }, () => random() * 3 - 1),
      width: 4,
      height: 4,
      samples: 3,
    }),
    await new EXRExporter().parse(texture, { type: FloatType }),
  ];
  // Seconds each: a tenth as often, and what goes on for ever is ended after five.
  const { faults, refused } = await fuzz(files, spoilt, read, [Refused], { times: Math.ceil(FUZZ_TIMES / 10), mostMs: 15_000 });
  expect(faults).toEqual([]);
  expect(refused).toBeGreaterThan(0);
});

import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { readPicture, type PictureResult } from '../pictures';

const folder = mkdtempSync(join(tmpdir(), 'brindle-pictures-'));
const read = (name: string, bytes: Uint8Array, as: 'colour' | 'data' = 'colour') => {
  const path = join(folder, name);
  writeFileSync(path, bytes);
  return readPicture(path, name, as);
};
const good = (result: PictureResult) => {
  if (!result.ok) throw new Error(result.message);
  return result.picture;
};
/** 4 × 2: red at the top left, the rest blue. */
const raw = Buffer.from([220, 30, 20, ...Array.from({ length: 7 }, () => [20, 40, 200]).flat()]);
const picture = () => sharp(raw, { raw: { width: 4, height: 2, channels: 3 } });

describe('pictures from outside', () => {
  test('8-bit PNGs are widened exactly; grey ones stay values', async () => {
    const rgb = good(await read('a.png', await picture().png().toBuffer()));
    expect([rgb.width, rgb.height, rgb.channels, rgb.data[0], rgb.data[1]]).toEqual([4, 2, 3, 220 * 257, 30 * 257]);
    const grey = await sharp(Buffer.from([10, 20, 30, 40]), { raw: { width: 2, height: 2, channels: 1 } })
      .toColourspace('b-w')
      .png()
      .toBuffer();
    const value = good(await read('g.png', grey, 'data'));
    expect([...value.data.filter((_, i) => i % value.channels === 0)]).toEqual([10, 20, 30, 40].map((v) => v * 257));
  });

  test('16-bit TIFF keeps its 16 bits', async () => {
    const codes = Uint16Array.from([1000, 2000, 60001, 65535]);
    const tiff = await sharp(codes, { raw: { width: 2, height: 2, channels: 1 } })
      .toColourspace('grey16')
      .tiff({ compression: 'lzw' })
      .toBuffer();
    const out = good(await read('h.tiff', tiff, 'data'));
    expect([...out.data.filter((_, i) => i % out.channels === 0)]).toEqual([...codes]);
  });

  test('an EXIF turn is carried out, CMYK comes as sRGB, and a palette is opened', async () => {
    const turned = good(await read('t.jpg', await picture().withMetadata({ orientation: 6 }).jpeg({ quality: 100 }).toBuffer()));
    expect([turned.width, turned.height]).toEqual([2, 4]);
    const cmyk = good(
      await read(
        'c.jpg',
        await picture().resize(64, 32, { kernel: 'nearest' }).toColourspace('cmyk').jpeg({ quality: 100 }).toBuffer(),
      ),
    );
    expect(cmyk.channels).toBe(3);
    const blue = (cmyk.width * 16 + 48) * 3;
    expect(cmyk.data[blue + 2]).toBeGreaterThan(cmyk.data[blue] + 10000);
    const palette = good(await read('p.png', await picture().png({ palette: true }).toBuffer()));
    expect(palette.data[0]).toBe(220 * 257);
  });

  test.each([
    ['empty', new Uint8Array(0)],
    ['noise', Uint8Array.from({ length: 500 }, (_, i) => (i * 97) & 255)],
    ['text', new TextEncoder().encode('not a picture at all')],
  ])('%s gives one sentence', async (name, bytes) => {
    const result = await read(`${name}.png`, bytes);
    expect(result.ok).toBe(false);
    expect(!result.ok && result.message).toMatch(/^".+" .+\.$/);
  });

  test('a truncated file and one of a huge declared size are refused', async () => {
    const png = await sharp(Buffer.alloc(200 * 200 * 3, 7), { raw: { width: 200, height: 200, channels: 3 } })
      .png({ compressionLevel: 0 })
      .toBuffer();
    expect(await read('cut.png', png.subarray(0, 40_000))).toMatchObject({ ok: false });
    const huge = Buffer.from(png);
    huge.writeUInt32BE(100_000, 16);
    expect(await read('huge.png', huge)).toMatchObject({ ok: false });
  });
});

/** Formats that sharp does not read: known answers by their specifications, by encoders of the tests' own, and by another implementation. */
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seededRandom } from '../../core/testing/models';
import { fuzz, spoilt } from '../../core/testing/fuzz';
import { dds } from '../formats/dds';
import { readPicture } from '../pictures';

const folder = mkdtempSync(join(tmpdir(), 'brindle-formats-'));
const read = (bytes: Uint8Array, name = 'it', as: 'colour' | 'data' = 'data') => {
  writeFileSync(join(folder, 'in'), bytes);
  return readPicture(join(folder, 'in'), name, as);
};
const good = async (bytes: Uint8Array, name?: string, as?: 'colour' | 'data') => {
  const result = await read(bytes, name, as);
  if (!result.ok) throw new Error(result.message);
  return result.picture;
};
const refused = async (bytes: Uint8Array, name?: string) => {
  const result = await read(bytes, name);
  return result.ok ? 'was read' : result.message;
};
const eight = (data: Uint16Array) => [...data].map((v) => v / 257);

/** 5 × 3: no side is a multiple of four. */
const [W, H] = [5, 3];
const random = seededRandom(4);
const rgba = Array.from({ length: W * H }, () => [0, 1, 2, 3].map(() => Math.floor(random() * 256)));
const rgb = rgba.map((texel) => texel.slice(0, 3));
const rows = <T>(texels: T[]) => Array.from({ length: H }, (_, y) => texels.slice(y * W, y * W + W));
const bgr = ([r, g, b, ...a]: number[]) => [b, g, r, ...a];

describe('TGA', () => {
  interface Tga {
    type: number;
    bits: number;
    /** 32: rows from above; 16: from the right; the lowest four are the bits of alpha. */
    descriptor?: number;
    map?: number[][];
    body: number[];
  }
  const tga = ({ type, bits, descriptor = 32, map = [], body }: Tga) =>
    Uint8Array.from([
      ...[3, map.length ? 1 : 0, type, 0, 0, map.length & 255, map.length >> 8, map.length ? 24 : 0, 0, 0, 0, 0],
      ...[W, 0, H, 0, bits, descriptor, 1, 2, 3],
      ...map.flatMap(bgr),
      ...body,
    ]);
  const packed = (texels: number[][]) =>
    // Runs of two where they are alike, else single texels in packets of up to three.
    [
      0x80 | 1,
      ...texels[0],
      ...Array.from({ length: Math.ceil((texels.length - 2) / 3) }, (_, n) => {
        const part = texels.slice(2 + n * 3, 5 + n * 3);
        return [part.length - 1, ...part.flat()];
      }).flat(),
    ];
  const twice = [rgb[0], rgb[0], ...rgb.slice(2)];

  test('24 and 32 bits, from above, below and the right, packed or not', async () => {
    const up = [...rows(rgb)].reverse().flat();
    const left = rows(rgb)
      .map((row) => [...row].reverse())
      .flat();
    for (const file of [
      tga({ type: 2, bits: 24, body: rgb.flatMap(bgr) }),
      tga({ type: 2, bits: 24, descriptor: 0, body: up.flatMap(bgr) }),
      tga({ type: 2, bits: 24, descriptor: 48, body: left.flatMap(bgr) }),
    ]) {
      const { data, width, height, channels } = await good(file, 'a.tga');
      expect([width, height, channels]).toEqual([W, H, 3]);
      expect(eight(data)).toEqual(rgb.flat());
    }
    const whole = await good(tga({ type: 2, bits: 32, descriptor: 40, body: rgba.flatMap(bgr) }), 'a.tga');
    expect(eight(whole.data)).toEqual(rgba.flat());
    const runs = await good(tga({ type: 10, bits: 24, body: packed(twice.map(bgr)) }), 'a.TGA');
    expect(eight(runs.data)).toEqual(twice.flat());
  });

  test('alpha that the header does not declare is padding', async () => {
    const { data, channels } = await good(tga({ type: 2, bits: 32, descriptor: 32, body: rgba.flatMap(bgr) }), 'a.tga');
    expect([channels, ...eight(data)]).toEqual([3, ...rgb.flat()]);
  });

  test('grey, grey with alpha, a palette, and 16 bits', async () => {
    const grey = rgb.map(([r]) => r);
    expect(eight((await good(tga({ type: 3, bits: 8, body: grey }), 'a.tga')).data)).toEqual(grey);
    const two = await good(tga({ type: 3, bits: 16, descriptor: 40, body: rgba.flatMap(([r, , , a]) => [r, a]) }), 'a.tga');
    expect([two.channels, ...eight(two.data)]).toEqual([2, ...rgba.flatMap(([r, , , a]) => [r, a])]);
    const map = [rgb[0], rgb[1], rgb[2]];
    const indices = Array.from({ length: W * H }, (_, i) => i % 3);
    const mapped = await good(tga({ type: 1, bits: 8, map, body: indices }), 'a.tga');
    expect(eight(mapped.data)).toEqual(indices.flatMap((i) => map[i]));
    const fives = rgb.map((texel) => texel.map((v) => v >> 3));
    const words = fives.flatMap(([r, g, b]) => [(r << 10) | (g << 5) | b]).flatMap((v) => [v & 255, v >> 8]);
    const deep = await good(tga({ type: 2, bits: 16, body: words }), 'a.tga');
    expect([deep.channels, ...eight(deep.data)]).toEqual([3, ...fives.flat().map((v) => Math.round((v * 255) / 31))]);
  });

  test('what is cut short is not read as black', async () => {
    const plain = tga({ type: 2, bits: 24, body: rgb.flatMap(bgr) });
    const runs = tga({ type: 10, bits: 24, body: packed(twice.map(bgr)) });
    expect(await refused(plain.slice(0, plain.length - 1), 'a.tga')).toMatch(/damaged/);
    expect(await refused(runs.slice(0, runs.length - 1), 'a.tga')).toMatch(/damaged/);
    expect(await refused(tga({ type: 2, bits: 12, body: [] }), 'a.tga')).toMatch(/12 bits/);
  });
});

describe('BMP', () => {
  const le = (bytes: number) => (value: number) => Array.from({ length: bytes }, (_, i) => (value >>> (8 * i)) & 255);
  const [u16, u32] = [le(2), le(4)];
  interface Bmp {
    bits: number;
    body: number[];
    height?: number;
    compression?: number;
    palette?: number[][];
    masks?: number[];
    header?: number;
  }
  const bmp = ({ bits, body, height = H, compression = 0, palette = [], masks = [], header = 40 }: Bmp) => {
    const more = [...masks.flatMap(u32), ...(header > 40 ? new Array<number>(header - 40 - masks.length * 4).fill(0) : [])];
    const colours = palette.flatMap((c) => [...bgr(c), ...(header === 12 ? [] : [0])]);
    const info =
      header === 12
        ? [...u32(12), ...u16(W), ...u16(height), ...u16(1), ...u16(bits)]
        : [
            ...u32(header),
            ...u32(W),
            ...u32(height),
            ...u16(1),
            ...u16(bits),
            ...u32(compression),
            ...u32(0),
            ...u32(0),
            ...u32(0),
            ...u32(palette.length),
            ...u32(0),
          ];
    const start = 14 + info.length + more.length + colours.length;
    return Uint8Array.from([
      0x42,
      0x4d,
      ...u32(start + body.length),
      ...u32(0),
      ...u32(start),
      ...info,
      ...more,
      ...colours,
      ...body,
    ]);
  };
  const upwards = <T>(texels: T[]) => [...rows(texels)].reverse();
  const padded = (row: number[]) => [...row, ...new Array<number>((4 - (row.length % 4)) % 4).fill(7)];

  test('24 and 32 bits, rows from below or above, an old header', async () => {
    const up = upwards(rgb).flatMap((row) => padded(row.flatMap(bgr)));
    const down = rows(rgb).flatMap((row) => padded(row.flatMap(bgr)));
    for (const file of [
      bmp({ bits: 24, body: up }),
      bmp({ bits: 24, height: -H, body: down }),
      bmp({ bits: 24, header: 12, body: up }),
      bmp({
        bits: 32,
        body: upwards(rgb)
          .flat()
          .flatMap((texel) => [...bgr(texel), 0]),
      }),
    ])
      expect(eight((await good(file)).data)).toEqual(rgb.flat());
    const alpha = await good(bmp({ bits: 32, body: upwards(rgba).flat().flatMap(bgr) }));
    expect(eight(alpha.data)).toEqual(rgba.flat());
  });

  test('masks of 16 and 32 bits', async () => {
    const parts = rgb.map(([r, g, b]) => [r >> 3, g >> 2, b >> 3]);
    const body = upwards(parts).flatMap((row) => padded(row.flatMap(([r, g, b]) => u16((r << 11) | (g << 5) | b))));
    const sixteen = await good(bmp({ bits: 16, compression: 3, masks: [0xf800, 0x7e0, 0x1f], body }));
    expect(eight(sixteen.data)).toEqual(
      parts.flatMap(([r, g, b]) => [Math.round((r * 255) / 31), Math.round((g * 255) / 63), Math.round((b * 255) / 31)]),
    );
    const masks = [0xff000000, 0xff0000, 0xff00, 0xff];
    const wide = upwards(rgba)
      .flat()
      .flatMap(([r, g, b, a]) => [a, b, g, r]);
    const file = await good(bmp({ bits: 32, compression: 3, header: 108, masks, body: wide }));
    expect(eight(file.data)).toEqual(rgba.flat());
  });

  const palette = Array.from({ length: 16 }, (_, i) => [i * 17, 255 - i * 9, (i * 50) % 256]);
  const indices = Array.from({ length: W * H }, (_, i) => (i * 7) % 16);
  const meant = indices.flatMap((i) => palette[i]);

  test('palettes of 1, 4 and 8 bits', async () => {
    const pack = (bits: number, list: number[]) =>
      upwards(list).flatMap((row) => {
        const bytes = new Array<number>(Math.ceil((W * bits) / 8)).fill(0);
        row.forEach((index, x) => (bytes[(x * bits) >> 3] |= index << (8 - bits - ((x * bits) & 7))));
        return padded(bytes);
      });
    expect(eight((await good(bmp({ bits: 8, palette, body: pack(8, indices) }))).data)).toEqual(meant);
    expect(eight((await good(bmp({ bits: 4, palette, body: pack(4, indices) }))).data)).toEqual(meant);
    const ones = indices.map((i) => i & 1);
    const one = await good(bmp({ bits: 1, palette: palette.slice(0, 2), body: pack(1, ones) }));
    expect(eight(one.data)).toEqual(ones.flatMap((i) => palette[i]));
    expect(await refused(bmp({ bits: 8, palette: palette.slice(0, 3), body: pack(8, indices) }))).toMatch(/damaged/);
  });

  test('run lengths of 8 and 4 bits, with skips', async () => {
    // Row by row from below: a run, single texels, the end of the row; a skip to the last row; a run; the end.
    const eights = [2, 5, 0, 3, 1, 2, 3, 0, 0, 0, 0, 2, 1, 1, 4, 9, 0, 1];
    const fours = [3, 0x56, 2, 0x70, 0, 0, 0, 2, 1, 1, 4, 0x99, 0, 1];
    const at = (list: number[]) =>
      upwards(rows(list).flat())
        .flat()
        .flatMap((i) => palette[i]);
    const runs8 = await good(bmp({ bits: 8, compression: 1, palette, body: eights }));
    expect(eight(runs8.data)).toEqual(at([5, 5, 1, 2, 3, 0, 0, 0, 0, 0, 0, 9, 9, 9, 9]));
    const runs4 = await good(bmp({ bits: 4, compression: 2, palette, body: fours }));
    expect(eight(runs4.data)).toEqual(at([5, 6, 5, 7, 0, 0, 0, 0, 0, 0, 0, 9, 9, 9, 9]));
    expect(await refused(bmp({ bits: 8, compression: 1, palette, body: [200, 1] }))).toMatch(/damaged/);
    expect(await refused(bmp({ bits: 8, compression: 1, palette, body: eights.slice(0, 9) }))).toMatch(/damaged/);
  });

  test('pictures in other formats inside are called what they are', async () =>
    expect(await refused(bmp({ bits: 24, compression: 4, body: [] }))).toMatch(/JPEG or PNG inside/));
});

describe('HDR', () => {
  const text = (more = '') => `#?RADIANCE\n# made up\n${more}FORMAT=32-bit_rle_rgbe\n\n-Y 2 +X 2\n`;
  const hdr = (head: string, body: number[]) => Uint8Array.from([...Buffer.from(head, 'latin1'), ...body]);
  // Mantissas of 256 by powers of two: .5, .25, 1, 0; a texel is 2 ^ (e − 128) times its share.
  const body = [128, 64, 255, 128, 128, 128, 128, 129, 0, 0, 0, 0, 64, 128, 192, 127];
  const values = [0.5, 0.25, 255 / 256, 1, 1, 1, 0, 0, 0, 0.125, 0.25, 0.375];

  test('values are mantissas times a power of two; an exposure is taken back', async () => {
    const { data, channels, width, height } = await good(hdr(text(), body));
    expect([channels, width, height]).toEqual([3, 2, 2]);
    [...data].forEach((v, i) => expect(v / 65535).toBeCloseTo(values[i], 4));
    const twice = await good(hdr(text('EXPOSURE=0.5\nEXPOSURE=0.5\n'), body));
    expect(twice.note).toMatch(/from 0 to 4/);
    const light = await good(hdr(text(), body), 'it', 'colour');
    expect(light.data[0] / 65535).toBeCloseTo(0.7354, 3);
  });

  test('other colours and other ways round are called what they are, and what is cut short is damaged', async () => {
    expect(await refused(hdr(text().replace('rgbe', 'xyze'), body))).toMatch(/XYZ/);
    expect(await refused(hdr(text().replace('-Y 2 +X 2', '+X 2 -Y 2'), body))).toMatch(/turned or mirrored/);
    expect(await refused(hdr(text().replace('-Y 2 +X 2', '-Y 90000 +X 2'), body))).toMatch(/more than is read/);
    expect(await refused(hdr(text(), body.slice(0, 9)))).toMatch(/damaged/);
  });
});

describe('DDS', () => {
  const file = (name: string) => readFileSync(join(__dirname, 'files', `${name}.dds`));
  const sum = (values: ArrayBufferView) =>
    createHash('sha256')
      .update(new Uint8Array(values.buffer, values.byteOffset, values.byteLength))
      .digest('hex');

  // 256 blocks each of random bits, all modes in turn; sums are of what another implementation makes of them.
  test.each([
    ['bc7', '5d3131da883e1a7b172e5b9343eb70119f517a95ac2a6b1cf265840dadec2997'],
    ['bc6u', '215d827600b66b65f74aa4044e335097d00216a63f647b947fbbbb8b106a8b38'],
    ['bc6s', '76a175b231ea3377cf1d0e507e9c8d73a18f08759059bfc0f44c630bb8fe00d7'],
  ])('%s of every mode and partition is the same, bit for bit', (name, expected) =>
    expect(sum(dds.read(file(name)).values)).toBe(expected),
  );

  const header = (cc: string, over: Record<number, number> = {}) => {
    const bytes = Buffer.alloc(128);
    bytes.write('DDS ', 0, 'latin1');
    for (const [at, value] of Object.entries({ 4: 124, 12: 4, 16: 4, 76: 32, 80: cc ? 4 : 0x41, ...over }))
      bytes.writeUInt32LE(value >>> 0, Number(at));
    if (cc) bytes.write(cc, 84, 'latin1');
    return bytes;
  };
  const block = (cc: string, ...bytes: number[]) => good(Buffer.concat([header(cc), Buffer.from(bytes)]), 'a.dds');
  const texels = (data: Uint16Array, channels: number, count: number) =>
    Array.from({ length: count }, (_, i) => eight(data.subarray(i * channels, i * channels + channels)));

  test('BC1 to BC3: both ends, thirds between them, three colours and see-through', async () => {
    // Red 31 and blue 31 as ends; indices 0, 1, 2, 3 in the first row.
    const ends = [0x00, 0xf8, 0x1f, 0x00];
    const row = 0b11100100;
    const four = await block('DXT1', ...ends, row, row, row, row);
    const thirds = [
      [255, 0, 0],
      [0, 0, 255],
      [170, 0, 85],
      [85, 0, 170],
    ];
    expect(texels(four.data, four.channels, 4)).toEqual(thirds);
    const three = await block('DXT1', ...ends.slice(2), ...ends.slice(0, 2), row, row, row, row);
    expect(texels(three.data, three.channels, 4)).toEqual([
      [0, 0, 255, 255],
      [255, 0, 0, 255],
      [128, 0, 128, 255],
      [0, 0, 0, 0],
    ]);
    const bc2 = await block('DXT3', 0x10, 0x32, 0x54, 0x76, 0x98, 0xba, 0xdc, 0xfe, ...ends, row, row, row, row);
    expect(texels(bc2.data, 4, 4)).toEqual(thirds.map((c, i) => [...c, i * 17]));
    // Alpha from 210 to 0 by sevenths: indices 0, 1, 2, 7 of three bits.
    const bits = 0 | (1 << 3) | (2 << 6) | (7 << 9);
    const bc3 = await block('DXT5', 210, 0, bits & 255, bits >> 8, 0, 0, 0, 0, ...ends, row, row, row, row);
    expect(texels(bc3.data, 4, 4).map((t) => t[3])).toEqual([210, 0, 180, 30]);
  });

  test('BC4 and BC5, with a sign too: fifths with both extremes, and blue worked out', async () => {
    const bits = 0 | (1 << 3) | (2 << 6) | (6 << 9);
    const last = 7 | (5 << 3);
    const bc4 = await block('BC4U', 50, 200, bits & 255, (bits >> 8) | ((last & 15) << 4), last >> 4, 0, 0, 0);
    expect([bc4.channels, ...eight(bc4.data.subarray(0, 6))]).toEqual([1, 50, 200, 80, 0, 255, 170]);
    const signed = await block('BC4S', 0, 127, 0, 0, 0, 0, 0, 0);
    expect(eight(signed.data.subarray(0, 1))).toEqual([128]);
    const flat = await block('ATI2', 128, 128, 0, 0, 0, 0, 0, 0, 128, 128, 0, 0, 0, 0, 0, 0);
    expect([flat.channels, ...eight(flat.data.subarray(0, 3))]).toEqual([3, 128, 128, 255]);
    expect(flat.note).toMatch(/blue is worked out/);
  });

  test('plain texels by their masks; sides that are no multiples of four', async () => {
    const masks = { 12: H, 16: W, 88: 32, 92: 0xff, 96: 0xff00, 100: 0xff0000, 104: 0xff000000 };
    const { data } = await good(Buffer.concat([header('', masks), Buffer.from(rgba.flat())]), 'a.dds');
    expect(eight(data)).toEqual(rgba.flat());
    const odd = await good(Buffer.concat([header('DXT1', { 12: H, 16: W }), Buffer.alloc(16, 255)]), 'a.dds');
    expect([odd.width, odd.height, odd.data.length]).toEqual([W, H, W * H * odd.channels]);
  });

  test('cubes, volumes, arrays and other kinds are called what they are', async () => {
    const one = Buffer.alloc(16);
    expect(await refused(Buffer.concat([header('DXT1', { 112: 0x200 }), one]))).toMatch(/sides of a cube/);
    expect(await refused(Buffer.concat([header('DXT1', { 112: 0x200000 }), one]))).toMatch(/volume/);
    expect(await refused(Buffer.concat([header('ETC2'), one]))).toMatch(/kind "ETC2"/);
    const ten = (format: number, count: number) => {
      const more = Buffer.alloc(20);
      [format, 3, 0, count, 0].forEach((v, i) => more.writeUInt32LE(v, i * 4));
      return Buffer.concat([header('DX10'), more, one]);
    };
    expect(await refused(ten(10, 1))).toMatch(/DXGI format 10/);
    expect(await refused(ten(98, 2))).toMatch(/several pictures/);
    expect((await read(ten(98, 1))).ok).toBe(true);
    expect(await refused(Buffer.concat([header('DXT5'), one.subarray(0, 15)]))).toMatch(/damaged/);
  });
});

test('spoilt ones are read, or refused in a sentence', async () => {
  const files: [string, Uint8Array][] = ['bc7', 'bc6u'].map((n) => [
    `${n}.dds`,
    readFileSync(join(__dirname, 'files', `${n}.dds`)),
  ]);
  class Refused extends Error {}
  for (const [name, bytes] of files) {
    const { faults } = await fuzz(
      [bytes],
      spoilt,
      async (spoiltBytes) => {
        const result = await read(spoiltBytes, name);
        if (!result.ok) throw new Refused(result.message);
      },
      [Refused],
    );
    expect(faults).toEqual([]);
  }
});

/** Pictures of other numbers than 8 or 16 bits: in by a rule that is said, or refused in true words; never as black. */
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { DataTexture, FloatType, HalfFloatType, RGBAFormat, DataUtils } from 'three';
import { EXRExporter } from 'three/examples/jsm/exporters/EXRExporter.js';
import { linearToSrgb } from '../../core/colour/transfer';
import { toSrgb } from '../../core/codec/fileColour';
import { crc32 } from '../../core/codec/pngRows';
import { readPicture } from '../pictures';
import { handedOver } from '../pictureTurns';
import { exr as writeExr, type ExrChannel, type ExrPart } from '../testingExr';
import { tiff, type Tiff } from '../testingTiff';
import { openTurns } from '../turns';

const folder = mkdtempSync(join(tmpdir(), 'brindle-ranged-'));
let serial = 0;
const read = (bytes: Uint8Array, as: 'colour' | 'data' = 'data') => {
  const path = join(folder, `${serial++}`);
  writeFileSync(path, bytes);
  return readPicture(path, 'It', as);
};
const good = async (bytes: Uint8Array, as: 'colour' | 'data' = 'data') => {
  const result = await read(bytes, as);
  if (!result.ok) throw new Error(result.message);
  return result.picture;
};
const refused = async (bytes: Uint8Array) => {
  const result = await read(bytes);
  expect(result.ok).toBe(false);
  return result.ok ? '' : result.message;
};

const shares = (data: Uint16Array) => [...data].map((v) => v / 65535);

describe('TIFF', () => {
  test('fractions within 0 … 1 are values as they are, 32 bit and half', async () => {
    const values = [0, 0.25, 0.5, 1];
    for (const [bits, data] of [
      [32, Float32Array.from(values)],
      [16, Uint16Array.from(values.map((v) => DataUtils.toHalfFloat(v)))],
    ] as const) {
      const { data: found, note } = await good(tiff({ bits, format: 3, data, width: 2, height: 2 }));
      shares(found).forEach((v, i) => expect(v).toBeCloseTo(values[i], 4));
      expect(note).toBeNull();
    }
  });

  test('fractions beyond are brought to 0 … 1 from least to largest, and that is said', async () => {
    const { data, note } = await good(tiff({ bits: 32, format: 3, data: Float32Array.of(-1, 0, 1, 3), width: 2, height: 2 }));
    shares(data).forEach((v, i) => expect(v).toBeCloseTo([0, 0.25, 0.5, 1][i], 4));
    expect(note).toMatch(/from -1 to 3: .+0 … 100 %\.$/);
    const odd = await good(tiff({ bits: 32, format: 3, data: Float32Array.of(NaN, 0, 1, Infinity), width: 2, height: 2 }));
    expect(shares(odd.data)).toEqual([0, 0, 1, 0]);
    expect(odd.note).toMatch(/2 of its numbers/);
  });

  test('fractions as colour are linear light; what is brighter than 1 divides all', async () => {
    const data = Float32Array.of(0.2, 0.5, 1, 4, 2, 0);
    const { data: found, note } = await good(tiff({ bits: 32, format: 3, data, width: 2, height: 1, samples: 3 }), 'colour');
    shares(found).forEach((v, i) => expect(v).toBeCloseTo(linearToSrgb(data[i] / 4), 3));
    expect(note).toMatch(/linear light up to 4/);
  });

  test('32 bits and numbers with a sign come by the range of their kind', async () => {
    const wide = await good(tiff({ bits: 32, data: Uint32Array.of(0, 2 ** 31, 2 ** 32 - 1, 0), width: 2, height: 2 }));
    shares(wide.data).forEach((v, i) => expect(v).toBeCloseTo([0, 0.5, 1, 0][i], 4));
    const signed = await good(tiff({ bits: 16, format: 2, data: Int16Array.of(-32768, 0, 32767, 16384), width: 2, height: 2 }));
    shares(signed.data).forEach((v, i) => expect(v).toBeCloseTo([0, 0.5, 1, 0.75][i], 4));
    expect(signed.note).toMatch(/sign/);
  });

  test('planes that lie apart are read', async () => {
    const data = Uint8Array.from({ length: 16 * 16 * 3 }, (_, i) => Math.floor(i / 256) * 50 + 10);
    const { data: found, channels } = await good(tiff({ bits: 8, data, width: 16, height: 16, samples: 3, planar: 2 }), 'colour');
    expect([channels, ...found.slice(0, 3)]).toEqual([3, 10 * 257, 60 * 257, 110 * 257]);
  });

  test('what cannot be unpacked is refused in true words, not black', async () => {
    const data = Uint8Array.from({ length: 768 }, (_, i) => i % 251);
    const of = (over: Partial<Tiff>) => refused(tiff({ bits: 8, data, width: 16, height: 16, samples: 3, ...over }));
    expect(await of({ compression: 5 })).toMatch(/damaged/);
    expect(await of({ compression: 8 })).toMatch(/damaged/);
    expect(await of({ compression: 6 })).toMatch(/old-style JPEG/);
    expect(await of({ compression: 34712 })).toMatch(/compression that is not read/);
    expect(await of({ bits: 12, samples: 1, compression: 1 })).toMatch(/12 bits/);
    expect(await refused(tiff({ bits: 8, data, width: 16, height: 16, samples: 3 }).slice(0, 400))).toMatch(/damaged/);
    expect(await refused(tiff({ bits: 32, format: 3, data: new Float32Array(4), width: 60_000, height: 2 }))).toMatch(
      /more than is read/,
    );
  });
});

describe('EXR', () => {
  const exr = async (type: typeof FloatType | typeof HalfFloatType) => {
    const values = [0.25, 0.5, 1, 1, 3, 0, 0.125, 1, 0, 0, 0, 1, 0.75, 0.75, 0.75, 1];
    const data = type === FloatType ? Float32Array.from(values) : Uint16Array.from(values.map((v) => DataUtils.toHalfFloat(v)));
    const texture = new DataTexture(data, 2, 2, RGBAFormat, type);
    return { values, file: await new EXRExporter().parse(texture, { type }) };
  };
  test.each([
    ['float', FloatType],
    ['half', HalfFloatType],
  ] as const)('%s comes in as linear light', async (_what, type) => {
    const { values, file } = await exr(type);
    const { data, note, width, height, channels } = await good(file, 'colour');
    expect([width, height, channels]).toEqual([2, 2, 4]);
    // The exporter's texture has its first row at the bottom.
    const rows = [...values.slice(8), ...values.slice(0, 8)];
    shares(data).forEach((v, i) => expect(v).toBeCloseTo(i % 4 === 3 ? rows[i] : linearToSrgb(rows[i] / 3), 3));
    expect(note).toMatch(/up to 3/);
  });
  test('colours are divided by their alpha, by which the format has them multiplied', async () => {
    const values = [0.25, 0.1, 0, 0.5, 0.3, 0.3, 0.3, 1, 0, 0, 0, 0, 0.05, 0.1, 0.2, 0.25];
    const texture = new DataTexture(Float32Array.from(values), 2, 2, RGBAFormat, FloatType);
    const { data } = await good(await new EXRExporter().parse(texture, { type: FloatType }), 'colour');
    const rows = [...values.slice(8), ...values.slice(0, 8)];
    const straight = rows.map((v, i) => {
      const alpha = rows[i - (i % 4) + 3];
      return i % 4 === 3 ? v : linearToSrgb(alpha > 0 ? v / alpha : v);
    });
    shares(data).forEach((v, i) => expect(v).toBeCloseTo(straight[i], 3));
  });
  test('damaged and enormous ones are refused', async () => {
    const { file } = await exr(FloatType);
    expect(await refused(file.slice(0, file.length - 20))).toMatch(/damaged/);
    const large = Buffer.from(file);
    const at = large.indexOf('dataWindow\0box2i\0', 0, 'latin1') + 21;
    large.writeInt32LE(99_999, at + 8);
    expect(await refused(large)).toMatch(/more than is read/);
  });
});

describe('EXR of every shape', () => {
  const plane = (k: number) => (x: number, y: number) => Math.fround(((x * 7 + y * 3 + k * 5) % 32) / 32);
  const channel = (name: string, k: number, type: ExrChannel['type'] = 'half'): ExrChannel => ({ name, type, at: plane(k) });
  const rgb = ['R', 'G', 'B'].map((name, k) => channel(name, k));
  const part = (over: Partial<ExrPart> = {}): ExrPart => ({ width: 21, height: 18, channels: rgb, ...over });
  const expected = (width: number, height: number, planes: ((x: number, y: number) => number)[]) =>
    Array.from({ length: width * height }, (_, i) => planes.map((at) => at(i % width, Math.floor(i / width)))).flat();
  const colours = expected(21, 18, [0, 1, 2].map(plane));
  const same = (data: Uint16Array, values: number[]) =>
    shares(data).forEach((v, i) => expect(Math.abs(v - values[i])).toBeLessThan(2e-5));

  test.each<[string, ExrPart[]]>([
    ['lines', [part()]],
    ['packed lines', [part({ zip: true })]],
    ['lines from the last to the first', [part({ backwards: true })]],
    ['lines of a window that does not begin at 0', [part({ origin: [-5, 7] })]],
    ['tiles', [part({ tiles: { side: 8, mode: 'one' } })]],
    ['tiles in any order', [part({ tiles: { side: 8, mode: 'one' }, backwards: true })]],
    ['tiles with smaller levels', [part({ tiles: { side: 8, mode: 'mip' }, zip: true })]],
    ['tiles with levels in both directions', [part({ tiles: { side: 8, mode: 'rip' }, backwards: true })]],
    ['two parts', [part({ name: 'first', zip: true }), part({ name: 'second', channels: [channel('Z', 9)] })]],
    ['two parts, the second of colours', [part({ name: 'depth', channels: [channel('Z', 9)] }), part({ name: 'second' })]],
    [
      'two parts of tiles',
      [part({ name: 'a', tiles: { side: 16, mode: 'mip' } }), part({ name: 'b', channels: [channel('Z', 9)] })],
    ],
    ['depth in other numbers beside the colours', [part({ channels: [...rgb, channel('Z', 9, 'float')], zip: true })]],
    ['colours in two kinds of numbers', [part({ channels: [rgb[0], channel('G', 1, 'float'), channel('B', 2)] })]],
    ['an id beside the colours', [part({ channels: [...rgb, channel('id', 9, 'uint')] })]],
    ['a layer with a name', [part({ channels: rgb.map((c) => ({ ...c, name: `diffuse.${c.name}` })) })]],
    ['a layer in a layer', [part({ channels: rgb.map((c) => ({ ...c, name: `light.key.${c.name.toLowerCase()}` })) })]],
    [
      'the unnamed one of several layers',
      [part({ channels: [channel('a.R', 7), channel('a.G', 8), channel('a.B', 9), ...rgb] })],
    ],
  ])('%s', async (what, parts) => {
    const { data, width, height, channels, note } = await good(writeExr(...parts));
    expect([width, height, channels]).toEqual([21, 18, 3]);
    same(data, colours);
    expect(note === null).toBe(!/beside|two parts|several/.test(what));
  });

  test('what is left out is named', async () => {
    const { note } = await good(writeExr(part({ channels: [...rgb, channel('spec.R', 3), channel('Z', 4)] })));
    expect(note).toBe('"It" holds more than RGB, which is read: "spec", "Z" are left out.');
  });

  test('one channel is grey, two are red and green, luminance with alpha is grey with alpha', async () => {
    const one = await good(writeExr(part({ channels: [channel('height.V', 4)] })));
    expect(one.channels).toBe(1);
    same(one.data, expected(21, 18, [plane(4)]));
    const two = await good(writeExr(part({ channels: [channel('X', 0), channel('Y', 1)] })));
    expect(two.channels).toBe(3);
    same(two.data, expected(21, 18, [plane(0), plane(1), () => 0]));
    expect(two.note).toMatch(/red and green/);
    const grey = await good(writeExr(part({ channels: [channel('Y', 1), { ...channel('A', 0), at: () => 1 }] })));
    expect(grey.channels).toBe(2);
    same(grey.data, expected(21, 18, [plane(1), () => 1]));
  });

  test('whole numbers come from the least to the largest', async () => {
    const ids = [0, 7, 60, 2 ** 24 + 1, 0x7fc00001, 2 ** 32 - 2];
    const at = (x: number) => ids[x];
    const { data, note } = await good(writeExr(part({ width: 6, height: 1, channels: [{ name: 'id', type: 'uint', at }] })));
    shares(data).forEach((v, i) => expect(v).toBeCloseTo(ids[i] / (2 ** 32 - 2), 4));
    expect(note).toMatch(/goes from 0 to 4295000000/);
  });

  // Written by another implementation, DWAA, 13 × 37: each channel goes evenly between its four corners.
  test('DWA is read to its last block', async () => {
    const { data, width, height } = await good(readFileSync(join(__dirname, 'files', 'dwaa-13x37.exr')));
    const corners = [
      [0, 0.2, 1],
      [1, 0, 0.3],
      [0.3, 1, 0],
      [0.9, 0.8, 0.5],
    ];
    const at = (x: number, y: number, c: number) => {
      const [s, t] = [x / (width - 1), y / (height - 1)];
      return [(1 - s) * (1 - t), s * (1 - t), (1 - s) * t, s * t].reduce((sum, w, k) => sum + w * corners[k][c], 0);
    };
    const worst = Math.max(
      ...shares(data).map((v, i) => Math.abs(v - at(Math.floor(i / 3) % width, Math.floor(i / 3 / width), i % 3))),
    );
    expect(worst).toBeLessThan(0.02);
  });

  test('what is not read is called what it is', async () => {
    const plain = Buffer.from(writeExr(part()));
    const put = (find: string, offset: number, value: number[]) => {
      const bytes = Buffer.from(plain);
      const at = bytes.indexOf(find, 0, 'latin1') + find.length + offset;
      value.forEach((v, i) => (bytes[at + i] = v));
      return bytes;
    };
    const compression = (n: number) => put('compression\0compression\0', 4, [n]);
    expect(await refused(compression(10))).toMatch(/compression that is not read here/);
    const deep = Buffer.from(plain);
    deep[5] |= 8;
    expect(await refused(deep)).toMatch(/deep EXR/);
    const halved = put('channels\0chlist\0', 4 + 2 + 8, [2]);
    expect(await refused(halved)).toMatch(/half size/);
    const mixed = Buffer.from(writeExr(part({ channels: [...rgb, channel('Z', 9, 'float')] })));
    mixed[mixed.indexOf('compression\0compression\0', 0, 'latin1') + 24 + 4] = 4;
    expect(await refused(mixed)).toMatch(/half and full numbers with PIZ/);
    expect(await refused(plain.subarray(0, plain.length - 9))).toMatch(/damaged/);
  });
});

test('TIFF: strips of no rows, or of a share of a row, are damage and are not counted', async () => {
  const sound = tiff({ bits: 32, format: 3, data: new Float32Array(16), width: 4, height: 4 });
  expect((await read(sound)).ok).toBe(true);
  const rows = Buffer.from(sound).indexOf(Buffer.of(278 & 255, 278 >> 8, 4, 0, 1, 0, 0, 0));
  const withRows = (type: number, value: number) => {
    const out = Buffer.from(sound);
    out.writeUInt16LE(type, rows + 2);
    out.writeUInt32LE(value, rows + 8);
    return refused(out);
  };
  expect(await withRows(4, 0)).toMatch(/damaged/);
  // A double, a rational and a float that lie somewhere in the file: 1e-300 rows a strip.
  for (const type of [5, 11, 12]) expect(await withRows(type, 8)).toMatch(/damaged/);
});

test('TIFF: Lab is called Lab, and a sample that is not declared is alpha', async () => {
  const data = Uint8Array.from({ length: 4 * 4 * 4 }, (_, i) => (i % 4 === 3 ? 128 : i));
  const tags = (bytes: Uint8Array, photometric: number) => {
    const view = Buffer.from(bytes);
    for (let at = 8; at < view.length - 12; at++)
      if (view.readUInt16LE(at) === 262 && view.readUInt16LE(at + 2) === 3) view.writeUInt16LE(photometric, at + 8);
    return view;
  };
  const four = tiff({ bits: 8, data, width: 4, height: 4, samples: 4 });
  expect(await refused(tags(tiff({ bits: 8, data: data.slice(0, 48), width: 4, height: 4, samples: 3 }), 8))).toMatch(/Lab/);
  const { channels, data: found } = await good(four);
  expect(channels).toBe(4);
  expect([...found]).toEqual([...data].map((v) => v * 257));
});

test('grey with alpha keeps its alpha as data', async () => {
  const png = await sharp(Buffer.from([10, 255, 20, 128, 30, 0, 40, 64]), { raw: { width: 2, height: 2, channels: 2 } })
    .toColourspace('b-w')
    .png()
    .toBuffer();
  const { channels, data } = await good(png);
  expect([channels, ...data].map((v, i) => (i ? v / 257 : v))).toEqual([2, 10, 255, 20, 128, 30, 0, 40, 64]);
});

test('gAMA of a PNG is honoured as colour and left alone as data', async () => {
  const plain = await sharp(Buffer.from([128, 64, 255]), { raw: { width: 1, height: 1, channels: 3 } })
    .png()
    .toBuffer();
  const chunk = Buffer.alloc(16);
  chunk.writeUInt32BE(4, 0);
  chunk.write('gAMA', 4, 'latin1');
  chunk.writeUInt32BE(100_000, 8);
  chunk.writeUInt32BE(crc32(chunk.subarray(4, 12)), 12);
  const png = Buffer.concat([plain.subarray(0, 33), chunk, plain.subarray(33)]);
  const colour = await good(png, 'colour');
  [128, 64, 255].forEach((v, i) => expect(colour.data[i] / 65535).toBeCloseTo(linearToSrgb(v / 255), 3));
  expect(colour.note).toMatch(/gAMA/);
  expect([...(await good(png, 'data')).data]).toEqual([128 * 257, 64 * 257, 65535]);
});

test('primaries of Rec. 2020 come to sRGB as the matrix of ITU-R BT.2087 has it', () => {
  const data = Uint16Array.of(40000, 30000, 20000);
  const linear = [...data].map((v) => v / 65535);
  const tags = {
    gamma: 1,
    chromaticities: [0.3127, 0.329, 0.708, 0.292, 0.17, 0.797, 0.131, 0.046],
    srgb: false,
    profile: false,
  };
  expect(toSrgb(data, 3, tags)).toBe(true);
  const matrix = [
    [1.6605, -0.5876, -0.0728],
    [-0.1246, 1.1329, -0.0083],
    [-0.0182, -0.1006, 1.1187],
  ];
  matrix.forEach((row, k) => expect(data[k] / 65535).toBeCloseTo(linearToSrgb(row.reduce((s, w, c) => s + w * linear[c], 0)), 3));
  expect(toSrgb(Uint16Array.of(1, 2, 3), 3, { ...tags, srgb: true })).toBe(false);
});

describe('turns of large pictures', () => {
  test('the next begins once the one before has been handed over, or nobody takes it', async () => {
    const turn = openTurns(1);
    const begun: number[] = [];
    const next = (n: number) => turn().then((end) => (begun.push(n), end));
    const first = await next(1);
    const second = next(2);
    const third = next(3);
    const data = Uint16Array.from({ length: 5_000_000 }, (_, i) => i);
    const taken = new Uint8Array(await new Response(handedOver(data, first)).arrayBuffer());
    expect(new Uint16Array(taken.buffer)[4_999_999]).toBe(data[4_999_999]);
    const end = await second;
    expect(begun).toEqual([1, 2]);
    await handedOver(data, end).cancel();
    const last = await third;
    expect(begun).toEqual([1, 2, 3]);
    // Never taken at all.
    const fourth = next(4);
    const reader = handedOver(data, last, 20).getReader();
    await fourth;
    await expect(
      reader
        .read()
        .then(() => reader.read())
        .then(() => reader.read()),
    ).rejects.toThrow(/nobody/);
  });
});

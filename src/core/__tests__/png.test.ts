/** PNG as others write it: every colour type and depth, interlaced or not, against libpng; and what must be refused. */
import { deflateSync } from 'node:zlib';
import sharp from 'sharp';
import { decodePng, encodePng, PictureError } from '../codec/png';
import { crc32, layoutOf } from '../codec/pngRows';
import { seededRandom } from '../testing/models';

interface Made {
  type: number;
  depth: number;
  interlaced?: boolean;
  /** Chunks between the head and the texels. */
  more?: [string, Uint8Array][];
}

const W = 13;
const H = 11;
const SAMPLES: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };
const PASSES = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2],
];

function chunk(kind: string, body: Uint8Array): Uint8Array {
  const out = new Uint8Array(12 + body.length);
  const view = new DataView(out.buffer);
  view.setUint32(0, body.length);
  for (let i = 0; i < 4; i++) out[4 + i] = kind.charCodeAt(i);
  out.set(body, 8);
  view.setUint32(8 + body.length, crc32(out.subarray(4, 8 + body.length)));
  return out;
}

/** Random samples, every line with another filter; written from the specification alone. */
function make({ type, depth, interlaced = false, more = [] }: Made, seed = 1): Uint8Array {
  const random = seededRandom(seed);
  const samples = SAMPLES[type];
  const values = Array.from({ length: W * H * samples }, () =>
    Math.floor(random() * (type === 3 ? Math.min(8, 1 << depth) : 2 ** depth)),
  );
  const lines: number[] = [];
  const step = Math.max(1, (samples * depth) >> 3);
  for (const [x0, y0, dx, dy] of interlaced ? PASSES : [[0, 0, 1, 1]]) {
    let before: number[] = [];
    if (x0 >= W) continue;
    for (let y = y0, n = 0; y < H; y += dy, n++) {
      let bits = '';
      for (let x = x0; x < W; x += dx)
        for (let c = 0; c < samples; c++) bits += values[(y * W + x) * samples + c].toString(2).padStart(depth, '0');
      const line = bits
        .padEnd(Math.ceil(bits.length / 8) * 8, '0')
        .match(/.{8}/g)!
        .map((b) => parseInt(b, 2));
      const filter = n % 5;
      lines.push(filter);
      line.forEach((v, i) => {
        const [a, b, c] = [line[i - step] ?? 0, before[i] ?? 0, i >= step ? (before[i - step] ?? 0) : 0];
        const p = a + b - c;
        const [pa, pb, pc] = [Math.abs(p - a), Math.abs(p - b), Math.abs(p - c)];
        const guess = [0, a, b, (a + b) >> 1, pa <= pb && pa <= pc ? a : pb <= pc ? b : c][filter];
        lines.push((v - guess) & 255);
      });
      before = line;
    }
  }
  const head = new Uint8Array(13);
  new DataView(head.buffer).setUint32(0, W);
  new DataView(head.buffer).setUint32(4, H);
  head.set([depth, type, 0, 0, interlaced ? 1 : 0], 8);
  const packed = deflateSync(Uint8Array.from(lines));
  const palette: [string, Uint8Array][] = type === 3 ? [['PLTE', Uint8Array.from({ length: 24 }, () => random() * 256)]] : [];
  // The texels in three chunks.
  const parts = [packed.subarray(0, 1), packed.subarray(1, 20), packed.subarray(20)];
  return Buffer.concat([
    Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10),
    chunk('IHDR', head),
    ...[...palette, ...more].map(([k, b]) => chunk(k, b)),
    ...parts.map((p) => chunk('IDAT', p)),
    chunk('IEND', new Uint8Array(0)),
  ]);
}

/** The same through libpng, as RGBA of as many bits. */
async function byLibpng(png: Uint8Array, bits: 8 | 16): Promise<number[]> {
  const image = sharp(png, { ignoreIcc: true })
    .toColourspace(bits === 16 ? 'rgb16' : 'srgb')
    .ensureAlpha();
  const { data } = await image.raw({ depth: bits === 16 ? 'ushort' : 'uchar' }).toBuffer({ resolveWithObject: true });
  return [...(bits === 16 ? new Uint16Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.length)) : data)];
}
function asRgba(png: Uint8Array): { all: number[]; bits: 8 | 16 } {
  const { channels, bits, data, width, height } = decodePng(png);
  const full = bits === 16 ? 65535 : 255;
  const all: number[] = [];
  for (let i = 0; i < width * height; i++) {
    const at = (c: number) => data[i * channels + c];
    all.push(
      ...(channels >= 3 ? [at(0), at(1), at(2)] : [at(0), at(0), at(0)]),
      channels === 2 ? at(1) : channels === 4 ? at(3) : full,
    );
  }
  return { all, bits };
}

const kinds = Object.entries({ 0: [1, 2, 4, 8, 16], 2: [8, 16], 3: [1, 2, 4, 8], 4: [8, 16], 6: [8, 16] }).flatMap(
  ([type, depths]) =>
    depths.flatMap((depth) => [false, true].map((interlaced): [number, number, boolean] => [Number(type), depth, interlaced])),
);
test.each(kinds)('colour type %i of %i bits, interlaced: %s, is what libpng reads', async (type, depth, interlaced) => {
  const png = make({ type, depth, interlaced }, type * 20 + depth);
  const { all, bits } = asRgba(png);
  expect(all).toEqual(await byLibpng(png, bits));
});

test.each([
  [0, 8, [0, 77]],
  [0, 16, [9, 9]],
  [0, 2, [0, 1]],
  [2, 8, [0, 1, 0, 2, 0, 3]],
  [2, 16, [1, 1, 2, 2, 3, 3]],
  [3, 8, [0, 128, 255]],
])('transparency of colour type %i at %i bits is alpha, as libpng has it', async (type, depth, clear) => {
  const png = make({ type, depth, more: [['tRNS', Uint8Array.from(clear)]] }, 3);
  const { all, bits } = asRgba(png);
  expect(all).toEqual(await byLibpng(png, bits));
});

test('a colour profile, text and private chunks do no harm; gAMA and cHRM are told', () => {
  const chrm = new Uint8Array(32);
  [31270, 32900, 64000, 33000, 30000, 60000, 15000, 6000].forEach((v, i) => new DataView(chrm.buffer).setUint32(i * 4, v));
  const gama = Uint8Array.of(0, 1, 0x86, 0xa0);
  const more: [string, Uint8Array][] = [
    ['iCCP', new TextEncoder().encode('damaged, whatever it is')],
    ['gAMA', gama],
    ['cHRM', chrm],
    ['tEXt', new TextEncoder().encode('Title\0x')],
    ['prVt', Uint8Array.of(1)],
  ];
  const png = make({ type: 2, depth: 8, more });
  expect(decodePng(png).channels).toBe(3);
  const { tags } = layoutOf(png, 'It').head;
  expect(tags).toMatchObject({ gamma: 1, profile: true, srgb: false });
  expect(tags.chromaticities![2]).toBeCloseTo(0.64, 6);
});

test('a wrong Adler sum, a wrong CRC, too few or too many texels, unknown critical chunks are refused in a sentence', () => {
  const refused = (png: Uint8Array) => {
    expect(() => decodePng(png, 'It')).toThrow(PictureError);
    expect(() => decodePng(png, 'It')).toThrow(/^It .+: .+\.$/);
  };
  const good = make({ type: 6, depth: 8 });
  const texels = decodePng(good);
  const again = (body: Uint8Array) => {
    const head = good.slice(0, 33);
    return Buffer.concat([head, chunk('IDAT', body), chunk('IEND', new Uint8Array(0))]);
  };
  const raw = Buffer.concat(
    Array.from({ length: H }, (_, y) =>
      Buffer.concat([Buffer.of(0), Uint8Array.from(texels.data.subarray(y * W * 4, (y + 1) * W * 4))]),
    ),
  );
  expect(decodePng(again(deflateSync(raw))).data).toEqual(texels.data);
  const wrong = deflateSync(raw);
  wrong[wrong.length - 1] ^= 1;
  refused(again(wrong));
  refused(again(deflateSync(raw.subarray(0, -1))));
  refused(again(deflateSync(Buffer.concat([raw, Buffer.of(0)]))));
  refused(make({ type: 0, depth: 8, more: [['ABCD', new Uint8Array(1)]] }));
  const crc = good.slice();
  crc[60] ^= 4;
  refused(crc);
  const depth = good.slice(0);
  depth[24] = 3;
  refused(depth);
});

test('what is written is read back at every size of a row', () => {
  const random = seededRandom(8);
  for (const [width, height] of [
    [1, 1],
    [300, 3],
    [7, 200],
  ]) {
    const data = Uint16Array.from({ length: width * height * 4 }, () => random() * 65536);
    expect(decodePng(encodePng({ width, height, channels: 4, bits: 16, data })).data).toEqual(data);
  }
});

/** DDS (Programming Guide for DDS, Microsoft): BC1 to BC7 and plain texels, the largest level of a single picture. */
import { decodeBc6h } from './bc6h';
import { decodeBc7 } from './bc7';
import { decodeBc1, decodeBc2, decodeBc3, decodeBc4 } from './bc1to5';
import {
  bytesPicture,
  byMasks,
  OPAQUE_BLACK,
  PictureDamaged,
  PictureRefused,
  startsWith,
  viewOf,
  withoutOpaqueAlpha,
  type PictureFormat,
} from './format';

type Blocks = 'BC1' | 'BC2' | 'BC3' | 'BC4' | 'BC4S' | 'BC5' | 'BC5S' | 'BC6H' | 'BC6HS' | 'BC7';

const FOUR_CC: Readonly<Record<string, Blocks>> = {
  DXT1: 'BC1',
  DXT2: 'BC2',
  DXT3: 'BC2',
  DXT4: 'BC3',
  DXT5: 'BC3',
  ATI1: 'BC4',
  BC4U: 'BC4',
  BC4S: 'BC4S',
  ATI2: 'BC5',
  BC5U: 'BC5',
  BC5S: 'BC5S',
};
/** DXGI_FORMAT of blocks: typeless, linear and sRGB are read alike. */
const DXGI = (code: number): Blocks | null =>
  code >= 70 && code <= 78
    ? (['BC1', 'BC2', 'BC3'] as const)[Math.floor((code - 70) / 3)]
    : ((
        {
          79: 'BC4',
          80: 'BC4',
          81: 'BC4S',
          82: 'BC5',
          83: 'BC5',
          84: 'BC5S',
          94: 'BC6H',
          95: 'BC6H',
          96: 'BC6HS',
          97: 'BC7',
          98: 'BC7',
          99: 'BC7',
        } as Record<number, Blocks>
      )[code] ?? null);
/** Plain ones: masks of red, green, blue, alpha. */
const DXGI_PLAIN: Readonly<Record<number, [bits: number, masks: number[]]>> = {
  27: [32, [0xff, 0xff00, 0xff0000, 0xff000000]],
  28: [32, [0xff, 0xff00, 0xff0000, 0xff000000]],
  29: [32, [0xff, 0xff00, 0xff0000, 0xff000000]],
  61: [8, [0xff, 0, 0, 0]],
  87: [32, [0xff0000, 0xff00, 0xff, 0xff000000]],
  88: [32, [0xff0000, 0xff00, 0xff, 0]],
  91: [32, [0xff0000, 0xff00, 0xff, 0xff000000]],
};
const AS_PLAIN = 'save it as one of BC1 to BC7, or as PNG';

interface Head {
  width: number;
  height: number;
  blocks: Blocks | null;
  bits: number;
  masks: number[];
  grey: boolean;
  start: number;
  /** Colours are multiplied by alpha (DXT2 and DXT4). */
  multiplied: boolean;
}

function headOf(bytes: Uint8Array): Head {
  if (bytes.length < 128) throw new PictureDamaged();
  const view = viewOf(bytes);
  const u32 = (at: number) => view.getUint32(at, true);
  const [height, width] = [u32(12), u32(16)];
  const [flags, cc, bits] = [u32(80), Buffer.from(bytes.subarray(84, 88)).toString('latin1'), u32(88)];
  const masks = [92, 96, 100, 104].map(u32);
  const refuseKind = (kind: string): never => {
    throw new PictureRefused(`is a DDS that holds ${kind}, which is not read: export its picture alone.`);
  };
  if (u32(112) & 0x200) refuseKind('the sides of a cube');
  if (u32(112) & 0x200000) refuseKind('a volume');
  const head = { width, height, blocks: null, bits, masks, grey: false, start: 128, multiplied: false };
  const fourCC = (flags & 4) !== 0;
  if (fourCC && cc === 'DX10') {
    if (bytes.length < 148) throw new PictureDamaged();
    const [format, dimension, misc, count] = [u32(128), u32(132), u32(136), u32(140)];
    if (dimension !== 3) refuseKind('a volume or a single row');
    if (misc & 4) refuseKind('the sides of a cube');
    if (count > 1) refuseKind('several pictures');
    const [blocks, plain] = [DXGI(format), DXGI_PLAIN[format]];
    if (!blocks && !plain) throw new PictureRefused(`is a DDS of DXGI format ${format}, which is not read: ${AS_PLAIN}.`);
    return { ...head, blocks, start: 148, ...(plain && { bits: plain[0], masks: plain[1], grey: plain[0] === 8 }) };
  }
  if (fourCC) {
    const blocks = FOUR_CC[cc];
    if (!blocks)
      throw new PictureRefused(`is a DDS of the kind "${cc.replace(/[^ -~]/g, '?')}", which is not read: ${AS_PLAIN}.`);
    return { ...head, blocks, multiplied: cc === 'DXT2' || cc === 'DXT4' };
  }
  const plain = (flags & 0x40) !== 0 || (flags & 0x20000) !== 0 || (flags & 2) !== 0;
  if (!plain || ![8, 16, 24, 32].includes(bits)) throw new PictureRefused(`is a DDS of a kind that is not read: ${AS_PLAIN}.`);
  if (!(flags & 1)) masks[3] = 0;
  return { ...head, grey: (flags & 0x20000) !== 0 };
}

/** Red and green of two planes of values as a normal map has them: blue is what is left of length 1. */
const blueOf = (r: number, g: number): number => {
  const [x, y] = [(r / 255) * 2 - 1, (g / 255) * 2 - 1];
  return Math.round((Math.sqrt(Math.max(0, 1 - x * x - y * y)) * 0.5 + 0.5) * 255);
};

const BLOCK_BYTES: Readonly<Record<Blocks, 8 | 16>> = {
  BC1: 8,
  BC2: 16,
  BC3: 16,
  BC4: 8,
  BC4S: 8,
  BC5: 16,
  BC5S: 16,
  BC6H: 16,
  BC6HS: 16,
  BC7: 16,
};

export const dds: PictureFormat = {
  is: (head) => startsWith(head, 'DDS '),
  size: headOf,
  read(bytes) {
    const head = headOf(bytes);
    return head.blocks ? readBlocks(bytes, head, head.blocks) : readPlain(bytes, head);
  },
};

function readBlocks(bytes: Uint8Array, head: Head, blocks: Blocks): ReturnType<PictureFormat['read']> {
  const { width, height, start } = head;
  const [across, down] = [Math.ceil(width / 4), Math.ceil(height / 4)];
  const size = BLOCK_BYTES[blocks];
  if (start + across * down * size > bytes.length) throw new PictureDamaged();
  const high = blocks === 'BC6H' || blocks === 'BC6HS';
  const [one, two] = [blocks.startsWith('BC4'), blocks.startsWith('BC5')];
  const channels = high || two ? 3 : one ? 1 : 4;
  const values = high ? new Float32Array(width * height * 3) : new Uint8Array(width * height * channels);
  const texels = high ? new Float32Array(48) : new Uint8Array(64);
  const decode = decoderOf(blocks);
  for (let by = 0, at = start; by < down; by++)
    for (let bx = 0; bx < across; bx++, at += size) {
      decode(bytes, at, texels);
      const step = high ? 3 : 4;
      for (let y = 0; y < Math.min(4, height - by * 4); y++)
        for (let x = 0; x < Math.min(4, width - bx * 4); x++) {
          const [from, to] = [(y * 4 + x) * step, ((by * 4 + y) * width + bx * 4 + x) * channels];
          for (let c = 0; c < channels; c++) values[to + c] = texels[from + c];
          if (two) values[to + 2] = blueOf(texels[from], texels[from + 1]);
        }
    }
  if (high) return { width, height, channels, values, whole: null, alpha: false };
  if (two)
    return {
      ...bytesPicture(head, 3, values as Uint8Array),
      left: 'has two channels, as normal maps have: blue is worked out from them',
    };
  if (one) return bytesPicture(head, 1, values as Uint8Array);
  if (head.multiplied) straighten(values as Uint8Array);
  return withoutOpaqueAlpha(head, values as Uint8Array);
}

function decoderOf(blocks: Blocks): (bytes: Uint8Array, at: number, out: Uint8Array | Float32Array) => void {
  const bytes = (decode: (bytes: Uint8Array, at: number, out: Uint8Array) => void) => decode as ReturnType<typeof decoderOf>;
  switch (blocks) {
    case 'BC1':
      return bytes(decodeBc1);
    case 'BC2':
      return bytes(decodeBc2);
    case 'BC3':
      return bytes(decodeBc3);
    case 'BC7':
      return bytes(decodeBc7);
    case 'BC4':
    case 'BC4S':
      return bytes((from, at, out) => decodeBc4(from, at, out, 0, blocks === 'BC4S'));
    case 'BC5':
    case 'BC5S':
      return bytes((from, at, out) => {
        decodeBc4(from, at, out, 0, blocks === 'BC5S');
        decodeBc4(from, at + 8, out, 1, blocks === 'BC5S');
      });
    case 'BC6H':
    case 'BC6HS':
      return (from, at, out) => decodeBc6h(from, at, blocks === 'BC6HS', out as Float32Array);
  }
}

function straighten(rgba: Uint8Array): void {
  for (let i = 0; i < rgba.length; i += 4) {
    const alpha = rgba[i + 3];
    if (alpha > 0) for (let c = 0; c < 3; c++) rgba[i + c] = Math.min(255, Math.round((rgba[i + c] * 255) / alpha));
  }
}

function readPlain(bytes: Uint8Array, head: Head): ReturnType<PictureFormat['read']> {
  const { width, height, bits, masks, grey, start } = head;
  const step = bits / 8;
  if (start + width * height * step > bytes.length) throw new PictureDamaged();
  const take = byMasks(masks, OPAQUE_BLACK);
  const rgba = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    let texel = 0;
    for (let b = 0; b < step; b++) texel |= bytes[start + i * step + b] << (8 * b);
    take(texel, rgba, i * 4);
    if (grey) rgba[i * 4 + 1] = rgba[i * 4 + 2] = rgba[i * 4];
  }
  return withoutOpaqueAlpha(head, rgba);
}

/** BC6H blocks (Khronos Data Format Specification 1.3, "BPTC"): halves of red, green and blue, with or without a sign. */
import { DataUtils } from 'three';
import { ANCHORS_2, Bits, PARTITIONS_2, WEIGHTS } from './blocks';

interface Mode {
  /** Bits of the first end, and of the others by channel. */
  base: number;
  deltas: readonly [number, number, number];
  /** The other ends are differences from the first. */
  differences: boolean;
  subsets: 1 | 2;
  /** Where each bit goes after those of the mode: channel, end (w, x, y, z), the lowest and, after a colon, the last bit. */
  layout: string;
}

const TAIL_5 = 'by0:3 ry0:4 bz2 rz0:4 bz3';
const MODES: Readonly<Record<number, Mode>> = {
  0b00: {
    base: 10,
    deltas: [5, 5, 5],
    differences: true,
    subsets: 2,
    layout: `gy4 by4 bz4 rw0:9 gw0:9 bw0:9 rx0:4 gz4 gy0:3 gx0:4 bz0 gz0:3 bx0:4 bz1 ${TAIL_5}`,
  },
  0b01: {
    base: 7,
    deltas: [6, 6, 6],
    differences: true,
    subsets: 2,
    layout: 'gy5 gz4 gz5 rw0:6 bz0 bz1 by4 gw0:6 by5 bz2 gy4 bw0:6 bz3 bz5 bz4 rx0:5 gy0:3 gx0:5 gz0:3 bx0:5 by0:3 ry0:5 rz0:5',
  },
  0b00010: {
    base: 11,
    deltas: [5, 4, 4],
    differences: true,
    subsets: 2,
    layout: `rw0:9 gw0:9 bw0:9 rx0:4 rw10 gy0:3 gx0:3 gw10 bz0 gz0:3 bx0:3 bw10 bz1 ${TAIL_5}`,
  },
  0b00110: {
    base: 11,
    deltas: [4, 5, 4],
    differences: true,
    subsets: 2,
    layout: 'rw0:9 gw0:9 bw0:9 rx0:3 rw10 gz4 gy0:3 gx0:4 gw10 gz0:3 bx0:3 bw10 bz1 by0:3 ry0:3 bz0 bz2 rz0:3 gy4 bz3',
  },
  0b01010: {
    base: 11,
    deltas: [4, 4, 5],
    differences: true,
    subsets: 2,
    layout: 'rw0:9 gw0:9 bw0:9 rx0:3 rw10 by4 gy0:3 gx0:3 gw10 bz0 gz0:3 bx0:4 bw10 by0:3 ry0:3 bz1 bz2 rz0:3 bz4 bz3',
  },
  0b01110: {
    base: 9,
    deltas: [5, 5, 5],
    differences: true,
    subsets: 2,
    layout: `rw0:8 by4 gw0:8 gy4 bw0:8 bz4 rx0:4 gz4 gy0:3 gx0:4 bz0 gz0:3 bx0:4 bz1 ${TAIL_5}`,
  },
  0b10010: {
    base: 8,
    deltas: [6, 5, 5],
    differences: true,
    subsets: 2,
    layout: 'rw0:7 gz4 by4 gw0:7 bz2 gy4 bw0:7 bz3 bz4 rx0:5 gy0:3 gx0:4 bz0 gz0:3 bx0:4 bz1 by0:3 ry0:5 rz0:5',
  },
  0b10110: {
    base: 8,
    deltas: [5, 6, 5],
    differences: true,
    subsets: 2,
    layout: `rw0:7 bz0 by4 gw0:7 gy5 gy4 bw0:7 gz5 bz4 rx0:4 gz4 gy0:3 gx0:5 gz0:3 bx0:4 bz1 ${TAIL_5}`,
  },
  0b11010: {
    base: 8,
    deltas: [5, 5, 6],
    differences: true,
    subsets: 2,
    layout: `rw0:7 bz1 by4 gw0:7 by5 gy4 bw0:7 bz5 bz4 rx0:4 gz4 gy0:3 gx0:4 bz0 gz0:3 bx0:5 ${TAIL_5}`,
  },
  0b11110: {
    base: 6,
    deltas: [6, 6, 6],
    differences: false,
    subsets: 2,
    layout: 'rw0:5 gz4 bz0 bz1 by4 gw0:5 gy5 by5 bz2 gy4 bw0:5 gz5 bz3 bz5 bz4 rx0:5 gy0:3 gx0:5 gz0:3 bx0:5 by0:3 ry0:5 rz0:5',
  },
  0b00011: {
    base: 10,
    deltas: [10, 10, 10],
    differences: false,
    subsets: 1,
    layout: 'rw0:9 gw0:9 bw0:9 rx0:9 gx0:9 bx0:9',
  },
  0b00111: {
    base: 11,
    deltas: [9, 9, 9],
    differences: true,
    subsets: 1,
    layout: 'rw0:9 gw0:9 bw0:9 rx0:8 rw10 gx0:8 gw10 bx0:8 bw10',
  },
  0b01011: {
    base: 12,
    deltas: [8, 8, 8],
    differences: true,
    subsets: 1,
    layout: 'rw0:9 gw0:9 bw0:9 rx0:7 rw11 rw10 gx0:7 gw11 gw10 bx0:7 bw11 bw10',
  },
  0b01111: {
    base: 16,
    deltas: [4, 4, 4],
    differences: true,
    subsets: 1,
    layout:
      'rw0:9 gw0:9 bw0:9 rx0:3 rw15 rw14 rw13 rw12 rw11 rw10 gx0:3 gw15 gw14 gw13 gw12 gw11 gw10 bx0:3 bw15 bw14 bw13 bw12 bw11 bw10',
  },
};

/** Channel, end, bit of each bit of a layout. */
const LAYOUTS = new Map(
  Object.entries(MODES).map(([number, { layout }]) => [
    Number(number),
    layout.split(' ').flatMap((field) => {
      const [, channel, end, from, to = from] = /^([rgb])([wxyz])(\d+)(?::(\d+))?$/.exec(field)!;
      const [c, e] = ['rgb'.indexOf(channel), 'wxyz'.indexOf(end)];
      return Array.from({ length: Number(to) - Number(from) + 1 }, (_, i) => [c, e, Number(from) + i] as const);
    }),
  ]),
);

const withSign = (value: number, bits: number): number => (value << (32 - bits)) >> (32 - bits);

/** An end as 16 or 17 bits. */
function unquantised(value: number, bits: number, signed: boolean): number {
  if (!signed) {
    if (bits >= 15 || value === 0) return value;
    return value === (1 << bits) - 1 ? 0xffff : ((value << 15) + 0x4000) >> (bits - 1);
  }
  if (bits >= 16 || value === 0) return value;
  const size = Math.abs(value);
  const wide = size >= (1 << (bits - 1)) - 1 ? 0x7fff : ((size << 15) + 0x4000) >> (bits - 1);
  return value < 0 ? -wide : wide;
}

/** What lies between two ends as the bits of a half, as a number. */
function half(value: number, signed: boolean): number {
  if (!signed) return DataUtils.fromHalfFloat((value * 31) >> 6);
  const size = (Math.abs(value) * 31) >> 5;
  return DataUtils.fromHalfFloat(value < 0 ? size | 0x8000 : size);
}

/** `out`: 16 texels of red, green and blue. */
export function decodeBc6h(bytes: Uint8Array, start: number, signed: boolean, out: Float32Array): void {
  const bits = new Bits(bytes, start);
  let number = bits.read(2);
  if (number > 1) number |= bits.read(3) << 2;
  const mode = MODES[number];
  // Modes that are reserved are black.
  if (!mode) return void out.fill(0);
  const { base, deltas, differences, subsets } = mode;
  const ends = [0, 1, 2].map(() => [0, 0, 0, 0]);
  for (const [channel, end, bit] of LAYOUTS.get(number)!) ends[channel][end] |= bits.read(1) << bit;
  const partition = subsets === 2 ? bits.read(5) : 0;
  for (let c = 0; c < 3; c++) {
    const of = ends[c];
    if (signed) of[0] = withSign(of[0], base);
    for (let e = 1; e < subsets * 2; e++) {
      if (differences || signed) of[e] = withSign(of[e], deltas[c]);
      if (differences) {
        of[e] = (of[e] + of[0]) & ((1 << base) - 1);
        if (signed) of[e] = withSign(of[e], base);
      }
    }
    for (let e = 0; e < subsets * 2; e++) of[e] = unquantised(of[e], base, signed);
  }
  const width = subsets === 2 ? 3 : 4;
  for (let texel = 0; texel < 16; texel++) {
    const second = subsets === 2 ? (PARTITIONS_2[partition] >> texel) & 1 : 0;
    const anchor = texel === 0 || (subsets === 2 && texel === ANCHORS_2[partition]);
    const weight = WEIGHTS[width][bits.read(anchor ? width - 1 : width)];
    for (let c = 0; c < 3; c++) {
      const [from, to] = [ends[c][second * 2], ends[c][second * 2 + 1]];
      out[texel * 3 + c] = half(((64 - weight) * from + weight * to + 32) >> 6, signed);
    }
  }
}

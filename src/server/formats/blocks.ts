/**
 * How the 4 × 4 texels of a block are shared out among its subsets, in BC6H and BC7 (Khronos Data Format Specification 1.3, "BPTC",
 * tables of partitions and anchors).
 */

const words = (text: string): string[] => text.trim().split(/\s+/);

/** Two subsets: a bit a texel, the first texel lowest. */
export const PARTITIONS_2: readonly number[] = words(`
  cccc 8888 eeee ecc8 c880 feec fec8 ec80 c800 ffec fe80 e800 ffe8 ff00 fff0 f000
  f710 008e 7100 08ce 008c 7310 3100 8cce 088c 3110 6666 366c 17e8 0ff0 718e 399c
  aaaa f0f0 5a5a 33cc 3c3c 55aa 9696 a55a 73ce 13c8 324c 3bdc 6996 c33c 9966 0660
  0272 04e4 4e40 2720 c936 936c 39c6 639c 9336 9cc6 817e e718 ccf0 0fcc 7744 ee22
`).map((word) => parseInt(word, 16));

/** Three subsets: two bits a texel, the first texel lowest. */
export const PARTITIONS_3: readonly number[] = words(`
  aa685050 6a5a5040 5a5a4200 5450a0a8 a5a50000 a0a05050 5555a0a0 5a5a5050
  aa550000 aa555500 aaaa5500 90909090 94949494 a4a4a4a4 a9a59450 2a0a4250
  a5945040 0a425054 a5a5a500 55a0a0a0 a8a85454 6a6a4040 a4a45000 1a1a0500
  0050a4a4 aaa59090 14696914 69691400 a08585a0 aa821414 50a4a450 6a5a0200
  a9a58000 5090a0a8 a8a09050 24242424 00aa5500 24924924 24499224 50a50a50
  500aa550 aaaa4444 66660000 a5a0a5a0 50a050a0 69286928 44aaaa44 66666600
  aa444444 54a854a8 95809580 96969600 a85454a8 80959580 aa141414 96960000
  aaaa1414 a05050a0 a0a5a5a0 96000000 40804080 a9a8a9a8 aaaaaa44 2a4a5254
`).map((word) => parseInt(word, 16));

/** The texel of the second subset whose index lacks its highest bit, which is 0; in the first it is texel 0. */
export const ANCHORS_2: readonly number[] = words(`
  15 15 15 15 15 15 15 15 15 15 15 15 15 15 15 15 15 2 8 2 2 8 8 15 2 8 2 2 8 8 2 2
  15 15 6 8 2 8 15 15 2 8 2 2 2 15 15 6 6 2 6 8 15 15 2 2 15 15 15 15 15 2 2 15
`).map(Number);

/** The same of the second and the third of three subsets. */
export const ANCHORS_3: readonly (readonly number[])[] = words(`
  3,15 3,8 15,8 15,3 8,15 3,15 15,3 15,8 8,15 8,15 6,15 6,15 6,15 5,15 3,15 3,8
  3,15 3,8 8,15 15,3 3,15 3,8 6,15 10,8 5,3 8,15 8,6 6,10 8,15 5,15 15,10 15,8
  8,15 15,3 3,15 5,10 6,10 10,8 8,9 15,10 15,6 3,15 15,8 5,15 15,3 15,6 15,6 15,8
  3,15 15,3 5,15 5,15 5,15 8,15 5,15 10,15 5,15 10,15 8,15 13,15 15,3 12,15 3,15 3,8
`).map((pair) => pair.split(',').map(Number));

/** Shares of 64 that the second end has, by the bits of an index. */
export const WEIGHTS: Readonly<Record<number, readonly number[]>> = {
  2: [0, 21, 43, 64],
  3: [0, 9, 18, 27, 37, 46, 55, 64],
  4: [0, 4, 9, 13, 17, 21, 26, 30, 34, 38, 43, 47, 51, 55, 60, 64],
};

/** Reads the bits of a block, the lowest first. */
export class Bits {
  private at = 0;
  constructor(
    private readonly bytes: Uint8Array,
    private readonly start: number,
  ) {}

  read(count: number): number {
    let value = 0;
    for (let i = 0; i < count; i++, this.at++) value |= ((this.bytes[this.start + (this.at >> 3)] >> (this.at & 7)) & 1) << i;
    return value;
  }
}

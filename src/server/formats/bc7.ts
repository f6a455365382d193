/** BC7 blocks (Khronos Data Format Specification 1.3, "BPTC"): eight bits of red, green, blue and alpha. */
import { ANCHORS_2, ANCHORS_3, Bits, PARTITIONS_2, PARTITIONS_3, WEIGHTS } from './blocks';

interface Mode {
  subsets: number;
  partitionBits: number;
  rotationBits: number;
  selectorBits: number;
  colourBits: number;
  alphaBits: number;
  /** A lowest bit for each end, or one for both ends of a subset. */
  lowest: 'none' | 'each' | 'shared';
  indexBits: number;
  /** Of a second index, for alpha; 0: there is none. */
  secondBits: number;
}

const mode = (
  subsets: number,
  partitionBits: number,
  rotationBits: number,
  selectorBits: number,
  colourBits: number,
  alphaBits: number,
  lowest: Mode['lowest'],
  indexBits: number,
  secondBits: number,
): Mode => ({ subsets, partitionBits, rotationBits, selectorBits, colourBits, alphaBits, lowest, indexBits, secondBits });

const MODES: readonly Mode[] = [
  mode(3, 4, 0, 0, 4, 0, 'each', 3, 0),
  mode(2, 6, 0, 0, 6, 0, 'shared', 3, 0),
  mode(3, 6, 0, 0, 5, 0, 'none', 2, 0),
  mode(2, 6, 0, 0, 7, 0, 'each', 2, 0),
  mode(1, 0, 2, 1, 5, 6, 'none', 2, 3),
  mode(1, 0, 2, 0, 7, 8, 'none', 2, 2),
  mode(1, 0, 0, 0, 7, 7, 'each', 4, 0),
  mode(2, 6, 0, 0, 5, 5, 'each', 2, 0),
];

/** `out`: 16 texels of four bytes. */
export function decodeBc7(bytes: Uint8Array, start: number, out: Uint8Array): void {
  let number = 0;
  while (number < 8 && !((bytes[start] >> number) & 1)) number++;
  // A block without a mode is black and see-through.
  if (number === 8) return void out.fill(0);
  const { subsets, partitionBits, rotationBits, selectorBits, colourBits, alphaBits, lowest, indexBits, secondBits } =
    MODES[number];
  const bits = new Bits(bytes, start);
  bits.read(number + 1);
  const partition = bits.read(partitionBits);
  const rotation = bits.read(rotationBits);
  const selector = bits.read(selectorBits);
  const ends = readEnds(bits, subsets, colourBits, alphaBits, lowest);
  const subsetOf = (texel: number) =>
    subsets === 1 ? 0 : subsets === 2 ? (PARTITIONS_2[partition] >> texel) & 1 : (PARTITIONS_3[partition] >>> (texel * 2)) & 3;
  const anchors = subsets === 1 ? [0] : subsets === 2 ? [0, ANCHORS_2[partition]] : [0, ...ANCHORS_3[partition]];
  const readIndices = (width: number) =>
    Array.from({ length: 16 }, (_, texel) => bits.read(anchors.includes(texel) ? width - 1 : width));
  const first = readIndices(indexBits);
  const second = secondBits ? readIndices(secondBits) : first;
  const [colour, colourWidth] = selector ? [second, secondBits] : [first, indexBits];
  const [alpha, alphaWidth] = selector || !secondBits ? [first, indexBits] : [second, secondBits];
  for (let texel = 0; texel < 16; texel++) {
    const subset = subsetOf(texel);
    const [from, to] = [ends[subset * 2], ends[subset * 2 + 1]];
    for (let c = 0; c < 4; c++) {
      const weight = c < 3 ? WEIGHTS[colourWidth][colour[texel]] : WEIGHTS[alphaWidth][alpha[texel]];
      out[texel * 4 + c] = ((64 - weight) * from[c] + weight * to[c] + 32) >> 6;
    }
    if (rotation > 0) {
      const at = texel * 4 + rotation - 1;
      [out[at], out[texel * 4 + 3]] = [out[texel * 4 + 3], out[at]];
    }
  }
}

/** Both ends of each subset, eight bits of red, green, blue and alpha. */
function readEnds(bits: Bits, subsets: number, colourBits: number, alphaBits: number, lowest: Mode['lowest']): number[][] {
  const ends = Array.from({ length: subsets * 2 }, () => [0, 0, 0, 255]);
  for (let c = 0; c < 3; c++) for (const end of ends) end[c] = bits.read(colourBits);
  if (alphaBits) for (const end of ends) end[3] = bits.read(alphaBits);
  const extra = lowest === 'none' ? 0 : 1;
  if (extra) {
    const given = Array.from({ length: lowest === 'each' ? ends.length : subsets }, () => bits.read(1));
    ends.forEach((end, n) => {
      const bit = given[lowest === 'each' ? n : n >> 1];
      for (let c = 0; c < (alphaBits ? 4 : 3); c++) end[c] = (end[c] << 1) | bit;
    });
  }
  // Widened to eight bits by their own highest bits.
  const widened = (value: number, width: number) => (value << (8 - width)) | (value >> (2 * width - 8));
  for (const end of ends) {
    for (let c = 0; c < 3; c++) end[c] = widened(end[c], colourBits + extra);
    if (alphaBits) end[3] = widened(end[3], alphaBits + extra);
  }
  return ends;
}

/** BC1 to BC5 blocks (Khronos Data Format Specification 1.3, "S3TC" and "RGTC"). `out`: 16 texels of four bytes. */

const five = (v: number): number => (v << 3) | (v >> 2);
const six = (v: number): number => (v << 2) | (v >> 4);
const rgb = (bytes: Uint8Array, at: number): number[] => {
  const v = bytes[at] | (bytes[at + 1] << 8);
  return [five(v >> 11), six((v >> 5) & 63), five(v & 31)];
};
const between = (a: number[], b: number[], n: number, of: number): number[] =>
  a.map((v, c) => Math.round((v * (of - n) + b[c] * n) / of));

/** Red, green and blue. `punch`: where the first end is not the larger number, there are three colours, and see-through. */
function colours(bytes: Uint8Array, at: number, out: Uint8Array, punch: boolean): void {
  const [a, b] = [rgb(bytes, at), rgb(bytes, at + 2)];
  const four = !punch || (bytes[at] | (bytes[at + 1] << 8)) > (bytes[at + 2] | (bytes[at + 3] << 8));
  const table = four ? [a, b, between(a, b, 1, 3), between(a, b, 2, 3)] : [a, b, between(a, b, 1, 2), [0, 0, 0]];
  for (let texel = 0; texel < 16; texel++) {
    const index = (bytes[at + 4 + (texel >> 2)] >> ((texel & 3) * 2)) & 3;
    for (let c = 0; c < 3; c++) out[texel * 4 + c] = table[index][c];
    if (punch) out[texel * 4 + 3] = !four && index === 3 ? 0 : 255;
  }
}

export const decodeBc1 = (bytes: Uint8Array, at: number, out: Uint8Array): void => colours(bytes, at, out, true);

export function decodeBc2(bytes: Uint8Array, at: number, out: Uint8Array): void {
  colours(bytes, at + 8, out, false);
  for (let texel = 0; texel < 16; texel++) out[texel * 4 + 3] = ((bytes[at + (texel >> 1)] >> ((texel & 1) * 4)) & 15) * 17;
}

export function decodeBc3(bytes: Uint8Array, at: number, out: Uint8Array): void {
  colours(bytes, at + 8, out, false);
  decodeBc4(bytes, at, out, 3, false);
}

/** One channel, into channel `c`. `signed`: −127 … 127 come as 0 … 255. */
export function decodeBc4(bytes: Uint8Array, at: number, out: Uint8Array, c: number, signed: boolean): void {
  const end = (v: number) => (signed ? Math.max(-127, (v << 24) >> 24) : v);
  const [a, b] = [end(bytes[at]), end(bytes[at + 1])];
  const [low, high] = signed ? [-127, 127] : [0, 255];
  const table =
    a > b
      ? [a, b, ...[1, 2, 3, 4, 5, 6].map((n) => (a * (7 - n) + b * n) / 7)]
      : [a, b, ...[1, 2, 3, 4].map((n) => (a * (5 - n) + b * n) / 5), low, high];
  for (let texel = 0; texel < 16; texel++) {
    const bit = texel * 3;
    const byte = at + 2 + (bit >> 3);
    const index = ((bytes[byte] | (bit >> 3 < 5 ? bytes[byte + 1] << 8 : 0)) >> (bit & 7)) & 7;
    out[texel * 4 + c] = Math.round(signed ? ((table[index] + 127) / 254) * 255 : table[index]);
  }
}

/** TIFF files for tests, written after TIFF 6.0 alone. */
export interface Tiff {
  bits: number;
  /** 1 whole, 2 with a sign, 3 with fractions. */
  format?: number;
  data: ArrayBufferView;
  width: number;
  height: number;
  samples?: number;
  planar?: 1 | 2;
  compression?: number;
}

/** A little-endian TIFF of one strip a plane, written after TIFF 6.0. */
export function tiff({ bits, format = 1, data, width, height, samples = 1, planar = 1, compression = 1 }: Tiff): Uint8Array {
  const n = data.byteLength;
  const strips = planar === 2 ? samples : 1;
  const entries: [tag: number, type: 3 | 4, values: number[]][] = [
    [256, 4, [width]],
    [257, 4, [height]],
    [258, 3, new Array<number>(samples).fill(bits)],
    [259, 3, [compression]],
    [262, 3, [samples >= 3 ? 2 : 1]],
    [273, 4, Array.from({ length: strips }, (_, i) => 8 + (i * n) / strips)],
    [277, 3, [samples]],
    [278, 4, [height]],
    [279, 4, new Array<number>(strips).fill(n / strips)],
    [284, 3, [planar]],
    [339, 3, new Array<number>(samples).fill(format)],
  ];
  const out = Buffer.alloc(8 + n + 6 + entries.length * 12 + 200);
  out.write('II*\0', 0, 'latin1');
  out.writeUInt32LE(8 + n, 4);
  Buffer.from(data.buffer, data.byteOffset, n).copy(out, 8);
  let o = 8 + n;
  let far = o + 6 + entries.length * 12;
  out.writeUInt16LE(entries.length, o);
  o += 2;
  for (const [tag, type, values] of entries) {
    out.writeUInt16LE(tag, o);
    out.writeUInt16LE(type, o + 2);
    out.writeUInt32LE(values.length, o + 4);
    const size = (type === 3 ? 2 : 4) * values.length;
    const at = size <= 4 ? o + 8 : far;
    if (size > 4) {
      out.writeUInt32LE(far, o + 8);
      far += size;
    }
    values.forEach((v, i) => (type === 3 ? out.writeUInt16LE(v, at + i * 2) : out.writeUInt32LE(v, at + i * 4)));
    o += 12;
  }
  return out;
}

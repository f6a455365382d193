/** Pixels in memory, as they come out of a picture file or go into one. */
/** Interleaved samples. Channels: 1 grey, 2 grey + alpha, 3 RGB, 4 RGBA. */
export interface Bitmap {
  width: number;
  height: number;
  channels: 1 | 2 | 3 | 4;
  bits: 8 | 16;
  data: Uint8Array | Uint16Array;
}

/** Any picture as 16-bit RGBA or value + coverage, for painted tiles. 8 → 16 bit is ×257, exact both ways. */
export function toStored(picture: Bitmap, channels: 2 | 4): Uint16Array {
  const { width, height, data } = picture;
  const from = picture.channels;
  const scale = picture.bits === 8 ? 257 : 1;
  const out = new Uint16Array(width * height * channels);
  const alpha = from === 2 ? 1 : from === 4 ? 3 : -1;
  for (let i = 0; i < width * height; i++) {
    const s = i * from;
    const o = i * channels;
    for (let c = 0; c < channels - 1; c++) out[o + c] = data[s + (from >= 3 ? c : 0)] * scale;
    out[o + channels - 1] = alpha < 0 ? 65535 : data[s + alpha] * scale;
  }
  return out;
}

/** The same picture in 8 bits where each sample is a whole step of 8 bits (a multiple of 257), else as it is. */
export function fewestBits(picture: Bitmap): Bitmap {
  const { data } = picture;
  if (picture.bits === 8) return picture;
  const out = new Uint8Array(data.length);
  for (let i = 0; i < data.length; i++) {
    if (data[i] % 257 !== 0) return picture;
    out[i] = data[i] / 257;
  }
  return { ...picture, bits: 8, data: out };
}

/** Truevision TGA (TGA File Format Specification 2.0) through three's loader, which reads what is cut short as black: that is checked before. */
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js';
import { bytesPicture, PictureDamaged, PictureRefused, viewOf, withoutOpaqueAlpha, type PictureFormat } from './format';

const HEADER = 18;
/** Colour map, true colour, grey; the same packed. */
const TYPES: readonly number[] = [1, 2, 3, 9, 10, 11];

interface Head {
  type: number;
  width: number;
  height: number;
  bits: number;
  alphaBits: number;
  /** Where the texels begin. */
  start: number;
}

function headOf(bytes: Uint8Array): Head {
  if (bytes.length < HEADER) throw new PictureDamaged();
  const view = viewOf(bytes);
  const [mapLength, mapBits] = [view.getUint16(5, true), bytes[7]];
  const [type, bits] = [bytes[2], bytes[16]];
  const mapped = type === 1 || type === 9;
  if (mapped && (mapBits !== 24 || mapLength > 256 || bits !== 8))
    throw new PictureRefused('is a TGA with a palette of another kind than 256 colours of 24 bits: save it without a palette.');
  const grey = type === 3 || type === 11;
  if (!(grey ? [8, 16] : mapped ? [8] : [15, 16, 24, 32]).includes(bits))
    throw new PictureRefused(`is a TGA of ${bits} bits a texel, which is not read: save it with 24 or 32.`);
  const start = HEADER + bytes[0] + (bytes[1] ? mapLength * Math.ceil(mapBits / 8) : 0);
  return { type, width: view.getUint16(12, true), height: view.getUint16(14, true), bits, alphaBits: bytes[17] & 15, start };
}

/** Bytes that the texels take in the file. Throws where the file ends before. */
function checkWhole(bytes: Uint8Array, { type, width, height, bits, start }: Head): void {
  const texel = Math.ceil(bits / 8);
  if (type < 8) {
    if (start + width * height * texel > bytes.length) throw new PictureDamaged();
    return;
  }
  let [at, left] = [start, width * height];
  while (left > 0) {
    if (at >= bytes.length) throw new PictureDamaged();
    const count = (bytes[at] & 127) + 1;
    at += 1 + (bytes[at] & 128 ? texel : count * texel);
    left -= count;
  }
  // A packet may not go beyond the picture, and the last one has to be whole.
  if (left < 0 || at > bytes.length) throw new PictureDamaged();
}

export const tga: PictureFormat = {
  // No signature: the extension, and a header that makes sense.
  is: (head, name) => /\.(tga|icb|vda|vst)$/i.test(name) && head.length >= HEADER && head[1] <= 1 && TYPES.includes(head[2]),
  size: headOf,
  read(bytes) {
    const head = headOf(bytes);
    checkWhole(bytes, head);
    const file = Uint8Array.from(bytes);
    // The loader knows 16 bits only; 15 are the same without the last bit.
    if (head.bits === 15) file[16] = 16;
    const rgba = new TGALoader(undefined).parse(file.buffer).data as unknown as Uint8Array;
    const deep = head.bits === 15 || head.bits === 16;
    const texels = head.width * head.height;
    if (head.type === 3 || head.type === 11) {
      const channels = deep ? 2 : 1;
      const grey = new Uint8Array(texels * channels);
      for (let i = 0; i < texels; i++) {
        grey[i * channels] = rgba[i * 4];
        if (deep) grey[i * 2 + 1] = rgba[i * 4 + 3];
      }
      return bytesPicture(head, channels, grey);
    }
    for (let i = 0; i < rgba.length; i++) {
      const alpha = i % 4 === 3;
      // The loader leaves five bits where they are, and takes the attribute bit the other way round.
      if (deep) rgba[i] = alpha ? 255 - rgba[i] : Math.round(((rgba[i] >> 3) * 255) / 31);
      // The header says how many bits of alpha there are: what is beside that is padding.
      if (alpha && head.alphaBits === 0) rgba[i] = 255;
    }
    return withoutOpaqueAlpha(head, rgba);
  },
};

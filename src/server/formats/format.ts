/** What a reader of one picture format is (pictures.ts goes through the list of them). */
import type { RangedPicture } from '../rangedPictures';

/** The file is at fault, or is of a kind that is not read: the rest of a sentence that begins with the file's name. */
export class PictureRefused extends Error {}

/** The file does not hold what it says that it holds. */
export class PictureDamaged extends Error {}

export interface PictureSize {
  width: number;
  height: number;
}

export interface PictureFormat {
  /** `head`: the beginning of the file; `name`: as it was given, for formats that have no signature. */
  is(head: Uint8Array, name: string): boolean;
  /** As the file declares it, before anything is unpacked. Throws PictureRefused, or another error where it is damaged. */
  size(head: Uint8Array): PictureSize;
  /** Throws as `size` does. `left`: what is not read of it, the rest of a sentence. */
  read(bytes: Uint8Array): RangedPicture & { left?: string | null };
}

export const startsWith = (bytes: Uint8Array, signature: string): boolean =>
  [...signature].every((c, i) => bytes[i] === c.charCodeAt(0));

export const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** 8-bit numbers as a picture. */
export const bytesPicture = (
  { width, height }: PictureSize,
  channels: number,
  values: Uint8Array,
  alpha = channels === 4 || channels === 2,
): RangedPicture => ({ width, height, channels, values, whole: [0, 255], alpha });

/** Without the fourth channel where it says nothing: 255 all over. */
export function withoutOpaqueAlpha(size: PictureSize, rgba: Uint8Array): RangedPicture {
  for (let i = 3; i < rgba.length; i += 4) if (rgba[i] !== 255) return bytesPicture(size, 4, rgba);
  const rgb = new Uint8Array((rgba.length / 4) * 3);
  for (let i = 0, o = 0; i < rgba.length; i += 4) {
    rgb[o++] = rgba[i];
    rgb[o++] = rgba[i + 1];
    rgb[o++] = rgba[i + 2];
  }
  return bytesPicture(size, 3, rgb);
}

/** What channels are that a file does not have. */
export const OPAQUE_BLACK: readonly number[] = [0, 0, 0, 255];

/** Reads channels out of whole texels by their masks, 0..255; a mask of 0 gives `absent`. */
export function byMasks(
  masks: readonly number[],
  absent: readonly number[],
): (texel: number, out: Uint8Array, at: number) => void {
  const parts = masks.map((mask, c) => {
    const lowest = (mask & -mask) >>> 0;
    return { mask, lowest, most: lowest ? (mask >>> 0) / lowest : 0, absent: absent[c] };
  });
  return (texel, out, at) =>
    parts.forEach((part, c) => {
      out[at + c] = part.most ? Math.round((((texel & part.mask) >>> 0) / part.lowest / part.most) * 255) : part.absent;
    });
}

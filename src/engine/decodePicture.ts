/** Pictures in the browser: PNG through the core's reader (16 bit stays 16 bit), anything else by the browser. */
import { decodePng, isPng } from '../core/codec/png';
import type { Bitmap } from '../core/tile/bitmap';
import type { EncodedPicture } from '../core/mesh/model';

export async function decodePicture({ mime, bytes }: EncodedPicture): Promise<Bitmap | null> {
  if (isPng(bytes)) return decodePng(bytes);
  const bitmap = await createImageBitmap(new Blob([bytes as Uint8Array<ArrayBuffer>], { type: mime }), {
    colorSpaceConversion: 'none',
    premultiplyAlpha: 'none',
  });
  const context = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d', { willReadFrequently: true })!;
  context.drawImage(bitmap, 0, 0);
  const { data, width, height } = context.getImageData(0, 0, bitmap.width, bitmap.height);
  return { width, height, channels: 4, bits: 8, data: new Uint8Array(data.buffer) };
}

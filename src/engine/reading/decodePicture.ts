/** A model's pictures, read by the server as all foreign pictures are; their profiles are left aside, as glTF 2.0 (3.9.2) asks. */
import type { Bitmap } from '../../core/tile/bitmap';
import type { EncodedPicture } from '../../core/mesh/model';

export async function decodePicture({ bytes, mime }: EncodedPicture): Promise<Bitmap | null> {
  // TGA is known by its name alone.
  const name = mime === 'image/x-tga' ? 'It.tga' : 'It';
  const response = await fetch(`/api/pictures?as=data&name=${name}`, { method: 'POST', body: bytes as Uint8Array<ArrayBuffer> });
  return response.ok ? answeredPicture(response) : null;
}

/** The texels that /api/pictures answers. */
export async function answeredPicture(response: Response): Promise<Bitmap> {
  const number = (key: string) => Number(response.headers.get(key));
  return {
    width: number('x-width'),
    height: number('x-height'),
    channels: number('x-channels') as Bitmap['channels'],
    bits: 16,
    data: new Uint16Array(await response.arrayBuffer()),
  };
}

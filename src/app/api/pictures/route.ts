import { guarded, refuse, UPLOAD_LIMITS, withUploadedFile } from '@/server/access';
import { handedOver, pictureTurn } from '@/server/pictureTurns';
import { readPictureApart } from '@/server/readers';

/** Body: a picture file. Answers its texels, uint16 little-endian, interleaved; size, channels and a note in headers. */
export const POST = guarded(async (request) => {
  const query = new URL(request.url).searchParams;
  const name = (query.get('name') ?? 'The picture').slice(0, 200);
  const as = query.get('as') === 'data' ? 'data' : 'colour';
  return withUploadedFile(request, UPLOAD_LIMITS.pictureBytes, async (path) => {
    const end = await pictureTurn();
    try {
      const result = await readPictureApart(path, name, as);
      if (!result.ok) {
        end();
        return refuse(422, result.message);
      }
      const { width, height, channels, data, note } = result.picture;
      return new Response(handedOver(data, end), {
        headers: {
          'content-type': 'application/octet-stream',
          'content-length': `${data.byteLength}`,
          'x-width': `${width}`,
          'x-height': `${height}`,
          'x-channels': `${channels}`,
          ...(note ? { 'x-note': encodeURIComponent(note) } : {}),
        },
      });
    } catch (error) {
      end();
      throw error;
    }
  });
});

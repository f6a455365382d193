import { guarded, refuse, UPLOAD_LIMITS, withUploadedFile } from '@/server/access';
import { readPicture } from '@/server/pictures';

/** Body: a picture file. Answers its texels, uint16 little-endian, interleaved; size and channels in headers. */
export const POST = guarded(async (request) => {
  const query = new URL(request.url).searchParams;
  const name = (query.get('name') ?? 'The picture').slice(0, 200);
  const as = query.get('as') === 'data' ? 'data' : 'colour';
  const result = await withUploadedFile(request, UPLOAD_LIMITS.pictureBytes, (path) => readPicture(path, name, as));
  if (!result.ok) return refuse(422, result.message);
  const { width, height, channels, data } = result.picture;
  return new Response(data, {
    headers: {
      'content-type': 'application/octet-stream',
      'x-width': `${width}`,
      'x-height': `${height}`,
      'x-channels': `${channels}`,
    },
  });
});

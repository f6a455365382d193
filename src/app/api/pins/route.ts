import { guarded, refuse, UPLOAD_LIMITS, withUploadedFile } from '@/server/access';
import { takePinned } from '@/server/pinned';

/** Body: a picture file. Answers its address and its size. */
export const POST = guarded(async (request) => {
  const name = (new URL(request.url).searchParams.get('name') ?? 'The picture').slice(0, 200);
  const result = await withUploadedFile(request, UPLOAD_LIMITS.pictureBytes, (path) => takePinned(path, name));
  if (!result.ok) return refuse(422, result.message);
  const { picture, width, height } = result;
  return Response.json({ picture, width, height }, { status: 201 });
});

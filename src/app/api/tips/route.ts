import { guarded, refuse, withUploadedFile } from '@/server/access';
import { takeTip } from '@/server/tips';

const LIMIT = 64 * 1024 * 1024;

/** Body: a picture file. Answers the id that tips call it by. */
export const POST = guarded(async (request) => {
  const name = (new URL(request.url).searchParams.get('name') ?? 'The picture').slice(0, 200);
  const result = await withUploadedFile(request, LIMIT, (path) => takeTip(path, name));
  return result.ok ? Response.json({ id: result.id }, { status: 201 }) : refuse(422, result.message);
});

import { guarded, refuse, UPLOAD_LIMITS, withUploadedFile } from '@/server/access';
import { importPieceFile } from '@/server/readers';

/** Body: the bytes of a piece file. New pieces come in the same way. */
export const POST = guarded(async (request) => {
  const result = await withUploadedFile(request, UPLOAD_LIMITS.importBytes, importPieceFile);
  return result.ok ? Response.json({ id: result.id }, { status: 201 }) : refuse(422, result.message);
});

import { unpackOperation } from '@/core/keeping/operation';
import { guardedPiece, readBody, refuse, UPLOAD_LIMITS } from '@/server/access';
import { commitOperation } from '@/server/commit';

export const POST = guardedPiece(async (request, id) => {
  const unpacked = unpackOperation(await readBody(request, UPLOAD_LIMITS.commitBytes));
  if (!unpacked.ok) return refuse(400, unpacked.message);
  const result = await commitOperation(id, unpacked.value);
  if (!result.ok) {
    const { server, revision, last, missing } = result;
    return refuse(result.status, result.message, { server, revision, last, missing });
  }
  const { server, operation, revision, position, name } = result;
  return Response.json({ server, operation, revision, position, name });
});

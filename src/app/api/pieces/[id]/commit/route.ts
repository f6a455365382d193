import { unpackOperation } from '@/core/document/commit';
import { guarded, readBody, refuse, UPLOAD_LIMITS } from '@/server/access';
import { commitOperation } from '@/server/commit';

interface Context {
  params: Promise<{ id: string }>;
}

export const POST = guarded<Context>(async (request, { params }) => {
  const unpacked = unpackOperation(await readBody(request, UPLOAD_LIMITS.commitBytes));
  if (!unpacked.ok) return refuse(400, unpacked.message);
  const result = await commitOperation((await params).id, unpacked.value);
  if (result.ok) return Response.json({ revision: result.revision, position: result.position });
  return refuse(result.status, result.message, { revision: result.revision });
});

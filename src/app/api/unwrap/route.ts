import { guarded, refuse, UPLOAD_LIMITS, withUploadedFile } from '@/server/access';
import { unwrapFile } from '@/server/readers';

/** Body: a GLB, `?size=` the side of the sheets that it is meant for. Answer: the same model with UVs. */
export const POST = guarded(async (request) => {
  const size = Number(new URL(request.url).searchParams.get('size') ?? 1024);
  if (!Number.isInteger(size) || size < 16 || size > 8192) return refuse(400, 'A sheet has a side of 16 to 8192 texels.');
  const result = await withUploadedFile(request, UPLOAD_LIMITS.modelBytes, (path) => unwrapFile(path, size));
  if (!result.ok) return refuse(422, result.message);
  return new Response(result.glb as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'model/gltf-binary' } });
});

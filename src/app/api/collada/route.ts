import { writeZip } from '@/core/codec/zip';
import { guarded, refuse, UPLOAD_LIMITS, withUploadedFile } from '@/server/access';
import { readColladaApart } from '@/server/readers';

/** Body: a COLLADA file. Answers a zip of `model.glb` and `pictures.json`, the names of the pictures of each material. */
export const POST = guarded(async (request) => {
  const result = await withUploadedFile(request, UPLOAD_LIMITS.modelBytes, readColladaApart);
  if (!result.ok) return refuse(422, result.message);
  const zip = writeZip([
    ['model.glb', result.glb],
    ['pictures.json', new TextEncoder().encode(JSON.stringify(result.pictures))],
  ]);
  return new Response(zip as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'application/zip' } });
});

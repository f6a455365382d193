import { guarded, refuse, UPLOAD_LIMITS, withUploadedFile } from '@/server/access';
import { takeTwin } from '@/server/bakes/twins';

/** Body: the file of a dense model, or a mask of its reach as PNG, `?name=` its name. Answer: its address and size. */
export const POST = guarded(async (request) => {
  const name = (new URL(request.url).searchParams.get('name') ?? '').slice(0, 200);
  if (!/\.(glb|obj|ply|stl|png)$/i.test(name))
    return refuse(422, 'A dense model comes as GLB, OBJ, PLY or STL: export it as one of these.');
  return Response.json(await withUploadedFile(request, UPLOAD_LIMITS.twinBytes, (path) => takeTwin(path, name)), { status: 201 });
});

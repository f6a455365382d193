import { BRUSH_FILE_LIMITS } from '@/core/hand/rack/file';
import { guarded, refuse, withUploadedFile } from '@/server/access';
import { exportBrushes, importBrushes } from '@/server/brushes';

export const dynamic = 'force-dynamic';

/** `ids`: brushes by comma; left out: all of the server's own. */
export const GET = guarded(async (request) => {
  const ids = (new URL(request.url).searchParams.get('ids') ?? '').split(',').filter(Boolean);
  const bytes = await exportBrushes(ids);
  if (!bytes) return refuse(404, 'There are no brushes of your own to export yet: choose one, or change one first.');
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': 'application/zip', 'content-disposition': 'attachment; filename="brushes.zip"' },
  });
});

/** Body: a brush file. */
export const POST = guarded(async (request) => {
  const name = (new URL(request.url).searchParams.get('name') ?? 'The file').slice(0, 200);
  const result = await withUploadedFile(request, BRUSH_FILE_LIMITS.bytes, (path) => importBrushes(path, `"${name}"`));
  return result.ok ? Response.json({ added: result.added }, { status: 201 }) : refuse(422, result.message);
});

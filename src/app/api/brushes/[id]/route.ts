import { z } from 'zod';
import { rackBrushSchema } from '@/core/hand/rack/brushes';
import { guarded, readJson, refuse } from '@/server/access';
import { dropBrush, markBrush, saveBrush } from '@/server/brushes';

type Context = { params: Promise<{ id: string }> };
const LIMIT = 256 * 1024;

/** Body: name, group, brush. */
export const PUT = guarded(async (request, { params }: Context) => {
  const body = await readJson(request, LIMIT);
  const brush = rackBrushSchema.safeParse({ ...(body as object | null), id: decodeURIComponent((await params).id) });
  if (!brush.success) return refuse(422, `The brush could not be kept: ${brush.error.issues[0].message}.`);
  const result = await saveBrush(brush.data);
  return result.ok ? Response.json({}) : refuse(422, result.message);
});

const mark = z.object({ favourite: z.boolean().optional(), used: z.literal(true).optional() });

export const PATCH = guarded(async (request, { params }: Context) => {
  const change = mark.safeParse(await readJson(request));
  if (!change.success) return refuse(400, 'The change could not be read.');
  await markBrush(decodeURIComponent((await params).id), change.data);
  return Response.json({});
});

export const DELETE = guarded(async (_request, { params }: Context) => {
  await dropBrush(decodeURIComponent((await params).id));
  return Response.json({});
});

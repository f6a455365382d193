import { z } from 'zod';
import { bakeSpecSchema } from '@/core/kinds/bakes/spec';
import { guarded, readJson, refuse } from '@/server/access';
import { listBakes, listWorkers, requestBake, statusOf } from '@/server/bakes/requests';

const asked = z.object({
  pieceId: z.string().regex(/^[A-Za-z0-9_-]{1,60}$/),
  label: z.string().trim().min(1).max(300),
  spec: bakeSpecSchema,
});

/** Body: what is to be baked, of which piece. Answer: how far it is; it may be done already. */
export const POST = guarded(async (request) => {
  const parsed = asked.safeParse(await readJson(request, 262_144));
  if (!parsed.success) return refuse(422, `That cannot be baked: ${parsed.error.issues[0].message}.`);
  const { spec, pieceId, label } = parsed.data;
  const answer = await requestBake(spec, pieceId, label);
  return answer.ok ? Response.json(answer.status) : refuse(422, answer.message);
});

const keyList = z.array(z.string().regex(/^[0-9a-f]{64}$/)).max(500);

/** `?keys=a,b`: how far these are. Without: the queue and its workers. */
export const GET = guarded(async (request) => {
  const keys = new URL(request.url).searchParams.get('keys');
  if (keys === null) return Response.json({ bakes: await listBakes(), workers: await listWorkers() });
  const parsed = keyList.safeParse(keys.split(',').filter(Boolean));
  return parsed.success ? Response.json(await statusOf(parsed.data)) : refuse(400, 'A list of keys was expected.');
});

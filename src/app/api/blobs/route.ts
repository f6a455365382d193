import { z } from 'zod';
import { joinBlobs, splitBlobs } from '@/core/keeping/parts';
import { guarded, readBody, readJson, refuse, UPLOAD_LIMITS } from '@/server/access';
import { readBlobs, takeBlobs } from '@/server/pieces';

const wanted = z
  .array(z.string().regex(/^[0-9a-f]{64}$/))
  .min(1)
  .max(256);

/**
 * Body: JSON array of hashes. Answer: for each hash in order a little-endian uint32 length and the bytes;
 * length 0 where the blob is missing.
 */
export const POST = guarded(async (request) => {
  const parsed = wanted.safeParse(await readJson(request));
  if (!parsed.success) return refuse(400, 'A list of 1 to 256 addresses was expected.');
  const found = await readBlobs(parsed.data);
  const bytes = joinBlobs(parsed.data.map((hash) => found.get(hash) ?? new Uint8Array(0)));
  return new Response(bytes, { headers: { 'content-type': 'application/octet-stream' } });
});

/** Body: tiles ahead of their operation, each with its length before it. Answer: the addresses of those that were taken. */
export const PUT = guarded(async (request) => {
  const blobs = splitBlobs(await readBody(request, UPLOAD_LIMITS.partBytes));
  if (!blobs) return refuse(400, 'The tiles could not be read: they are cut short.');
  return Response.json(await takeBlobs(blobs));
});

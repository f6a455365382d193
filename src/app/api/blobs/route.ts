import { z } from 'zod';
import { guarded, readJson, refuse } from '@/server/access';
import { readBlobs } from '@/server/pieces';

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
  const parts = parsed.data.flatMap((hash) => {
    const bytes = found.get(hash) ?? new Uint8Array(0);
    const head = Buffer.alloc(4);
    head.writeUInt32LE(bytes.length);
    return [head, bytes];
  });
  return new Response(Buffer.concat(parts), { headers: { 'content-type': 'application/octet-stream' } });
});

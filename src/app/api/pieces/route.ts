import { guarded } from '@/server/access';
import { listPieces } from '@/server/pieces';

export const dynamic = 'force-dynamic';

export const GET = guarded(async () => Response.json(await listPieces()));

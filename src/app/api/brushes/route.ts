import { guarded } from '@/server/access';
import { listBrushes } from '@/server/brushes';

export const dynamic = 'force-dynamic';

export const GET = guarded(async () => Response.json(await listBrushes()));

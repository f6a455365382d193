import { guarded } from '@/server/access';
import { arrivingPieces } from '@/server/arriving';

export const dynamic = 'force-dynamic';

/** Demo pieces that are being imported. */
export const GET = guarded(async () => Response.json(await arrivingPieces()));

import { guarded, refuse } from '@/server/access';
import { trailEntry } from '@/server/pieces';

interface Context {
  params: Promise<{ id: string; seq: string }>;
}

/** One step of the trail with its tiles: what undo needs after a reload. */
export const GET = guarded<Context>(async (_request, { params }) => {
  const { id, seq } = await params;
  const entry = /^\d{1,9}$/.test(seq) ? await trailEntry(id, Number(seq)) : null;
  return entry
    ? Response.json({ edit: entry.edit, label: entry.label, tiles: entry.tiles })
    : refuse(404, 'There is no such step in the trail.');
});

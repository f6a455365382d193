import { guardedPiece, refuse } from '@/server/access';
import { trailEntry } from '@/server/pieces';

/** One step of the trail with its tiles: what undo needs after a reload. */
export const GET = guardedPiece(async (_request, id, { seq }) => {
  if (!/^\d{1,9}$/.test(seq)) return refuse(400, 'A step of the trail goes by a number.');
  const entry = await trailEntry(id, Number(seq));
  return entry
    ? Response.json({ edit: entry.edit, label: entry.label, tiles: entry.tiles })
    : refuse(404, 'There is no such step in the trail.');
});

/** Brushes of the rack: a brush with a name in a group. What it writes is in hand, not in the brush. */
import { z } from 'zod';
import { brushSchema, type Brush } from '../brush';

/** What of a brush the rack keeps: everything but where it writes and takes from. */
export type RackedBrush = Omit<Brush, 'writes' | 'source' | 'second' | 'mirror'>;

/** The part of a brush that the rack keeps. */
export function racked(brush: Brush): RackedBrush {
  const { writes: _w, source: _s, second: _b, mirror: _m, ...rest } = brush;
  return rest;
}

export const rackBrushSchema = z.object({
  id: z.string().regex(/^[a-z0-9:-]{1,60}$/, 'no id of a brush'),
  name: z.string().trim().min(1, 'a brush needs a name').max(60, 'the name is longer than 60 letters'),
  group: z.string().trim().min(1, 'a brush needs a group').max(40, 'the group’s name is longer than 40 letters'),
  brush: brushSchema.transform(racked),
});
export type RackBrush = z.infer<typeof rackBrushSchema>;

/** A brush as the server has it. */
export interface RackEntry extends RackBrush {
  favourite: boolean;
  /** Milliseconds since 1970; null: never. */
  usedAt: number | null;
  /** Brindle comes with it; `changed`: it was edited since. */
  shipped: boolean;
  changed: boolean;
}

/** What the artist asks for: what goes out, of which sheets, how large, how deep. */
import { z } from 'zod';
import type { Piece, Sheet } from '../document/schema';
import type { MapId } from '../kinds/maps';

export const PATTERN_FIELDS = ['piece', 'sheet', 'map', 'width', 'height'] as const;

/** What a dispatch begins with: what engines most often ask for. */
export const OUTPUTS_AT_START: readonly string[] = ['base-colour', 'normal', 'roughness', 'metallic'] satisfies MapId[];

export const dispatchSchema = z.object({
  /** Sheet ids; empty means all. */
  sheets: z.array(z.string()).default([]),
  /** Ids of outputs (outputs/): maps, packed maps, the model with its maps. */
  maps: z.array(z.string().max(80)).default([...OUTPUTS_AT_START]),
  /** Full size divided by this. */
  divide: z.union([z.literal(1), z.literal(2), z.literal(4), z.literal(8)]).default(1),
  bits: z.union([z.literal(8), z.literal(16)]).default(8),
  /** 8 bit only: what lies between two codes becomes a fine pattern of both instead of a step. */
  dither: z.boolean().default(false),
  normalY: z.enum(['up', 'down']).default('up'),
  /** Texels of the delivered size around each island that repeat the island's border. */
  margin: z.number().int().min(0).max(64).default(16),
  pattern: z.string().min(1).max(120).default('{piece}_{sheet}_{map}'),
});
export type DispatchOptions = z.infer<typeof dispatchSchema>;

export function chosenSheets(piece: Piece, options: DispatchOptions): Sheet[] {
  return options.sheets.length ? piece.sheets.filter((s) => options.sheets.includes(s.id)) : piece.sheets;
}

/** How the bench was left: what stood where, beside the picture that it made. Shown while a piece opens, and taken up again then. */
import { z } from 'zod';

const finite = z.number();
/** CSS pixels from the window's sides to the panes. */
const inset = z.number().min(0).max(20_000);

export const lookSchema = z.object({
  insets: z.object({ left: inset, top: inset, right: inset, bottom: inset }),
  sheetId: z.string().max(60),
  view: z.string().max(60),
  filled: z.enum(['both', 'model', 'flat']),
  /** Degrees. */
  light: finite,
  /** Radians and model units. */
  model: z.object({ yaw: finite, pitch: finite, distance: z.number().positive(), target: z.tuple([finite, finite, finite]) }),
  /** Pixels a texel, radians, texels. `fitted`: the sheet fills its pane, whatever its size. */
  flat: z.object({
    zoom: z.number().positive(),
    angle: finite,
    flipped: z.boolean(),
    centreX: finite,
    centreY: finite,
    fitted: z.boolean(),
  }),
});
export type LookLeft = z.infer<typeof lookSchema>;

/** What a page is given before anything else. */
export interface LastLook {
  left: LookLeft | null;
  /** When it was taken, milliseconds since 1970; part of the picture's address. */
  at: number;
  hasThumbnail: boolean;
}

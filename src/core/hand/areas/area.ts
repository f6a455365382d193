/**
 * Paint that is not a path of dabs: shapes, fills and frames. Each kind is a file beside this one with a line in `index.ts`. It
 * gives the coverage of a stroke, which then goes the way of all strokes: fence, tool, blend, undo, recording.
 */
import type { z } from 'zod';
import type { Image } from '../mirror';
import type { Dither } from '../dither';
import type { Coverage } from '../coverage';
import type { StrokeContext } from '../context';
import type { Sample } from '../sample';
import type { View } from '../view';
import type { VisibleTiles } from '../visible';
import type { PlaneMap } from '../../kinds/maps';

/** What an area finds around it. */
export interface AreaContext extends Omit<StrokeContext, 'limit' | 'pictures'> {
  /** The eye, where the samples are those of the model pane. */
  view: View | null;
  /** No texel gets more. */
  opacity: number;
  /** The other well, RGB in the sRGB curve. */
  second: readonly number[] | null;
  /** Where it was put, in the order in which it was. */
  samples: readonly Sample[];
  coverage: Coverage;
  /** In which pattern steps between two colours become whole texels; null: they do not. */
  dither: Dither | null;
  /** What is seen of the sheet. */
  visible: VisibleTiles;
  /** Maps that are written with colours, and the colour. */
  colours: readonly { map: PlaneMap; value: readonly number[] }[];
  /** Images that a mirror makes of it, and where its planes meet. */
  images: readonly Image[];
  middle: readonly number[];
}

export interface AreaDef<P extends { type: string } = { type: string }> {
  type: P['type'];
  schema: z.ZodType<P>;
  /** Raises the coverage, to the brush's opacity at most. */
  cover(area: P, context: AreaContext): void;
}

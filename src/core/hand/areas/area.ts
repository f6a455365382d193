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
import type { MapId, PlaneMap } from '../../kinds/maps';

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

export interface Point {
  x: number;
  y: number;
}

/** `box`, `line`: dragged from corner to corner. `lasso`: drawn around. `corners`: clicked one by one. `click`: at once. */
export type AreaGesture = 'box' | 'line' | 'lasso' | 'corners' | 'click';

type Value = number | string | boolean;

/** A setting in the row above the work; `where`: only while other settings have these values. */
export type AreaControl = {
  key: string;
  label: string;
  hint?: string;
  /** Only where there is a model. */
  onModel?: boolean;
  where?: Readonly<Record<string, Value>>;
} & (
  | { kind: 'number'; min: number; max: number; unit?: string }
  | { kind: 'choice'; options: readonly { value: string; label: string; onModel?: boolean }[] }
  /** A choice of two or three that is shown open. */
  | { kind: 'segments'; options: readonly { value: string; label: string }[] }
  | { kind: 'switch' }
);

/** One way to lay such an area: what the pointer does, what is drawn meanwhile, what there is to set. */
export interface AreaWay<P, S> {
  id: string;
  label: string;
  hint: string;
  gesture: AreaGesture;
  /** What is drawn over the pane, as SVG path data; left out: what its gesture draws (areas/outline.ts). */
  outline?: (points: readonly Point[]) => string;
  controls: readonly AreaControl[];
  /** The area as it is painted. `map`: the one that is looked at; `angle`: degrees by which the pane is turned. */
  area: (settings: S, at: { map: MapId; angle: number }) => P;
}

export interface AreaDef<P extends { type: string } = { type: string }, S extends object = Record<string, Value>> {
  type: P['type'];
  schema: z.ZodType<P>;
  /** What its settings begin with; areas that have a setting of the same name share it. */
  settings: S;
  ways: readonly AreaWay<P, S>[];
  /** It goes from the active well to the other one. */
  graded?: boolean;
  /** Raises the coverage, to the brush's opacity at most. */
  cover(area: P, context: AreaContext): void;
}

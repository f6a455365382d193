/**
 * A meter: one thing that can be wrong with a sheet, as a figure with a limit, a picture and the places. Each is a file beside this one
 * with a line in `index.ts`; `./brindle prove` runs them all.
 */
import type { Sheet } from '../../document/schema';
import type { MapId } from '../../kinds/maps';
import type { Model } from '../../mesh/model';
import type { Evaluator, StrataSource } from '../../strata/evaluator';
import type { SheetSurface } from '../../strata/pieceSurfaces';
import type { Bitmap } from '../../tile/bitmap';

export interface ModelUnder {
  model: Model;
  surface: SheetSurface;
}

/** A sheet as it is measured. */
export interface Subject {
  source: StrataSource;
  evaluator: Evaluator;
  /** The model under it; null on a canvas. */
  under: ModelUnder | null;
}

/** Where something is wrong, in texels of the sheet; x1 and y1 exclusive. */
export interface Place {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
  texels: number;
  /** Part of the model; null on a canvas. */
  part: string | null;
}

export interface Measured {
  /** In the meter's unit; the larger, the worse. */
  figure: number;
  /** Grey, 8 bit, the sheet's size: 255 where something is wrong. */
  picture: Bitmap;
  /** The largest first, at most `MOST_PLACES`. */
  places: Place[];
}

export const MOST_PLACES = 20;

export interface Meter {
  id: string;
  label: string;
  /** What is measured, in one sentence. */
  hint: string;
  unit: string;
  /** Figures above it are worth a look. */
  limit: number;
  /** Maps that it measures, one by one. */
  maps: (sheet: Sheet) => MapId[];
  measure: (subject: Subject, map: MapId) => Measured;
  /** What mends it, in one sentence; left out: nothing does by itself. */
  remedy?: string;
}

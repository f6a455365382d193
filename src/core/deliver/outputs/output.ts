/**
 * What can go out of a piece. Each kind is a file beside this one with a line in `index.ts`; it may offer several
 * outputs (a single map: each map that the piece has), told apart by an id, which is what the artist chooses. What
 * renders is loaded when it is asked for: pages that offer outputs need not have it.
 */
import type { Piece, Sheet } from '../../document/schema';
import type { Bitmap } from '../../tile/bitmap';
import type { DispatchOptions } from '../options';
import type { RenderContext, RenderSettings } from '../render';

export interface Offer {
  id: string;
  label: string;
  hint?: string;
  /** A dispatch begins with it. */
  atStart?: boolean;
}

interface Output {
  type: string;
  label: string;
  offers: (piece: Piece) => Offer[];
  /** Whether there could be such an output of some piece. */
  knows: (id: string) => boolean;
}

/** A PNG for each sheet, named by the pattern. */
export interface SheetOutput extends Output {
  per: 'sheet';
  /** Whether this sheet has it; left out: it has. */
  sheetHas?: (id: string, sheet: Sheet) => boolean;
  /** What stands for {map} in the file's name; left out: the id. */
  word?: (id: string, sheet: Sheet) => string;
  /** What its numbers mean; left out: data. */
  encoding?: (id: string) => 'srgb' | 'data';
  picture: (context: RenderContext, sheet: Sheet, id: string, settings: RenderSettings) => Promise<Bitmap>;
}

/** One file for the whole piece, named after it. */
export interface PieceOutput extends Output {
  per: 'piece';
  /** Ending of its file. */
  ending: string;
  file: (context: RenderContext, options: DispatchOptions) => Promise<Uint8Array>;
}

export type OutputDef = SheetOutput | PieceOutput;

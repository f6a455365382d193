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

export interface OutputDef {
  type: string;
  label: string;
  /** Ending of its files. */
  ending: string;
  /** A file for each sheet, or one for the piece, named after it. */
  per: 'sheet' | 'piece';
  offers: (piece: Piece) => Offer[];
  /** Whether there could be such an output of some piece. */
  knows: (id: string) => boolean;
  /** Of `per: 'sheet'`: whether this sheet has it, and what stands for {map} in the file's name. Left out: it has, by its id. */
  sheetHas?: (id: string, sheet: Sheet) => boolean;
  word?: (id: string, sheet: Sheet) => string;
  /** Outputs that are pictures, and how their colours are encoded; left out: data. */
  encoding?: (id: string) => 'srgb' | 'data';
  picture?: (context: RenderContext, sheet: Sheet, id: string, settings: RenderSettings) => Promise<Bitmap>;
  /** The file's bytes. `sheet`: null where there is one file for the piece. */
  file: (context: RenderContext, target: { id: string; sheet: Sheet | null }, options: DispatchOptions) => Promise<Uint8Array>;
}

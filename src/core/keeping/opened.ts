/** A piece as the house hands it out: everything that a bench needs to open it, but the pixels; one consistent moment. */
import type { Piece } from '../document/schema';

export interface OpenedPiece {
  document: Piece;
  revision: number;
  /** How many steps of the trail are applied; counted from its very first, though the oldest may be squashed. */
  position: number;
  /** `step`: what undo and redo call it. */
  trail: { seq: number; label: string; step: string }[];
  tiles: [plane: string, tile: number, hash: string][];
}

/** A piece as the server hands it out: everything that a bench needs to open it, but the pixels; one consistent moment. */
import type { Piece } from '../document/schema';

export interface OpenedPiece {
  /** Which server it is (protocol.ts). */
  server: string;
  document: Piece;
  revision: number;
  /** Which operation made each of the last revisions, as far as that is known: rising, at most `KEEPING.recentRevisions`. */
  recent: [revision: number, operation: string][];
  /** How many steps of the trail are applied; counted from its very first, though the oldest may be squashed. */
  position: number;
  /** `step`: what undo and redo call it. */
  trail: { seq: number; label: string; step: string }[];
  tiles: [plane: string, tile: number, hash: string][];
}

/** An open piece: the document, its texels, its surfaces, its trail. Plain state; what is done to it is done elsewhere. */
import { applyEdit, type Edit } from '../core/document/edits';
import type { Piece } from '../core/document/schema';
import type { PieceSurfaces } from '../core/strata/pieceSurfaces';
import { TileStore } from '../core/tile/tiles';
import type { History } from './changes/history';

export class OpenPiece {
  pieceId = '';
  /** The tab that has it open. */
  client = '';
  /** Set by opening, as is `history`. */
  piece!: Piece;
  history!: History;
  readonly store = new TileStore();
  surfaces: PieceSurfaces | null = null;
  modelGlb: Uint8Array | null = null;
  /** A passing edit, such as that of a slider on its way: it is shown, and not part of the document. */
  previewed: Edit | null = null;
  /** Goes up with everything that is done to the piece but undo and redo. */
  changeCount = 0;
  /** `shown`: the page knows the document. `ready`: its texels are here too. */
  stage: 'closed' | 'shown' | 'ready' = 'closed';

  /** The document with the passing edit on it. */
  get current(): Piece {
    return this.previewed ? applyEdit(this.piece, this.previewed) : this.piece;
  }
}

/** Tiles that were rendered before, cached by lasting signature: of an earlier visit, or fetched from the server. */
import { planeSignature } from '../../../core/strata/depends';
import { planesFor, renderPlane } from '../../../core/strata/displayPlanes';
import { Evaluator } from '../../../core/strata/evaluator';
import { evenTexel } from '../../../core/tile/mips';
import { TILE, tileIndex, tilesOf, WHOLE_TILE, type TileIndex } from '../../../core/tile/tiles';
import type { PixelPatch } from '../../protocol';
import { readRun, type Drawn, type Shelf } from '../../cache/shelf';
import { send, type Planes } from '../planes';
import { runsOf } from '../tilePictures';
import type { Slice, Source } from './source';

export class CachedTiles implements Source {
  /** By sheet. */
  readonly shelves = new Map<string, Shelf>();
  private unread = false;

  constructor(private planes: Planes) {}

  get isEmpty(): boolean {
    return [...this.shelves.values()].every((shelf) => shelf.empty);
  }

  /** Everything is due to be looked up: the document has changed, or more has been cached. */
  lookAgain(): void {
    this.unread = !this.isEmpty;
  }

  /** Tiles side by side go as one patch. What is not cached stays due. */
  work({ until }: Slice): PixelPatch[] {
    const patches: PixelPatch[] = [];
    if (!this.unread) return patches;
    const { planes } = this;
    for (const sheet of planes.inOrder) {
      const shelf = this.shelves.get(sheet.id);
      if (!shelf) continue;
      for (const [id, plane] of planes.of(sheet.id)?.planes ?? []) {
        if (id === 'view') continue;
        const wanted = planes.wanted(sheet, id, plane);
        const signatureOf = (tile: TileIndex) => wanted.get(tile)!;
        const there = [...plane.whole]
          .filter(([tile, why]) => why === 'wanted' && shelf.signatureOf(id, tile) === signatureOf(tile))
          .map(([tile]) => tile);
        for (const rect of runsOf(there, sheet)) {
          const texels = readRun(shelf, id, rect, signatureOf);
          // It cannot be read: another source has to serve it.
          if (!texels) continue;
          for (let x = rect.x; x < rect.x + rect.width; x += TILE) {
            const tile = tileIndex(x / TILE, rect.y / TILE);
            plane.whole.delete(tile);
            plane.drawn.set(tile, signatureOf(tile));
          }
          send(patches, sheet.id, id, plane.pyramid.lay(rect, texels));
          if (until()) return patches;
        }
      }
    }
    this.unread = false;
    return patches;
  }

  /** Caches a whole tile that was rendered, unless its signature depends on what has no address yet. */
  offer(sheetId: string, { plane, tile, signature, texels }: Drawn): void {
    if (!this.planes.changedHere && plane !== 'view') this.shelves.get(sheetId)?.put(plane, tile, signature, texels);
  }

  /**
   * Caches every tile of the document that looks different from what is cached; pauses after each one that has to be rendered. Ends early
   * where a tile has no address yet.
   */
  *store(): Generator<void> {
    const { planes, shelves } = this;
    for (const sheet of planes.inOrder) {
      const shelf = shelves.get(sheet.id);
      if (!shelf) continue;
      let unkept = false;
      const lasting = new Evaluator({ sheet, store: planes.store, lasting: { unkept: () => (unkept = true) } });
      for (const id of planesFor(sheet, null))
        for (const tile of tilesOf(sheet.width, sheet.height)) {
          const signature = planeSignature(lasting, sheet, id, tile, null);
          if (unkept) return;
          if (shelf.signatureOf(id, tile) === signature) continue;
          const drawn = renderPlane(planes.evaluator(sheet), sheet, id, tile, WHOLE_TILE);
          shelf.put(id, tile, signature, evenTexel(drawn, TILE * TILE) ?? drawn);
          yield;
        }
      shelf.flush();
    }
  }
}

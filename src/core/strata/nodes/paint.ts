/** What is stored on a plane: paint. */
import type { Rect } from '../../tile/mips';
import type { TileIndex } from '../../tile/tiles';
import { storedRect, toPlanes, type State } from '../planes';
import type { At, Moment, Node, Scope } from '../scope';

export class PlaneNode implements Node {
  readonly text = 'paint';
  readonly planes: readonly string[];
  readonly scopes = [];

  constructor(readonly plane: string) {
    this.planes = [plane];
  }

  part(at: Moment, tile: TileIndex) {
    return at.stamp(this.plane, tile);
  }

  absent({ store }: At, tile: TileIndex): boolean {
    return !store.get(this.plane, tile)?.data;
  }

  stored({ store }: At, tile: TileIndex): Uint16Array {
    return store.get(this.plane, tile)!.data!;
  }

  evaluate(at: At, tile: TileIndex, rect: Rect, { channels }: Pick<Scope, 'channels'>): State {
    return { even: null, acc: toPlanes(storedRect(this.stored(at, tile), rect), channels) };
  }
}

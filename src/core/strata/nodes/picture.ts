/** A picture where its placement puts it. */
import { planeKey } from '../../document/planes';
import type { Picture } from '../../document/schema';
import type { PictureUse } from '../../kinds/fields';
import { PLAIN, type Placement } from '../../kinds/placement';
import type { Rect } from '../../tile/mips';
import { TILE_TEXELS, type TileIndex } from '../../tile/tiles';
import { kernels } from '../../kernels';
import { liesTexelOnTexel, pictureData, pictureTexels, pictureTile } from '../picture';
import type { State } from '../planes';
import { decalShare } from '../projections';
import type { At, Moment, Node, Scope } from '../scope';
import { mixSignature, textSignature, type Signature } from '../signature';
import type { TileValue } from '../tileCache';

const KIND = { value: 1, colour: 2, normal: 3 };

export class PictureNode implements Node {
  readonly text: string;
  readonly planes: readonly string[];
  readonly scopes = [];
  private readonly placement: Placement;
  private readonly key: Signature;

  constructor(
    private picture: Picture,
    private use: PictureUse,
    placement: Placement | null,
  ) {
    this.placement = placement ?? PLAIN;
    this.planes = [planeKey(picture.id, 'picture')];
    this.text = `picture ${JSON.stringify(use)} ${JSON.stringify(this.placement)} ${picture.encoding}`;
    this.key = textSignature(`${picture.id} ${this.text}`);
  }

  /** Its tiles are the sheet's own. */
  private direct({ sheet, onModel }: Moment): boolean {
    return liesTexelOnTexel(this.picture, this.use, this.placement, sheet, onModel);
  }

  part(at: Moment, tile: TileIndex): Signature {
    if (this.direct(at)) return at.stamp(this.planes[0], tile);
    return mixSignature(at.place(tile), at.pictureStamp(this.picture.id));
  }

  evaluate(at: At, tile: TileIndex, rect: Rect, into: Pick<Scope, 'kind' | 'channels'>): State {
    if (this.direct(at)) {
      // A tile that is lost on the server counts as empty.
      const texels = at.store.get(this.planes[0], tile)?.data;
      if (!texels) return { even: into.kind === 'value' ? [0, 0] : [0, 0, 0, 0], acc: null };
      const acc = kernels().floats(rect.width * rect.height * (into.channels + 1));
      pictureTexels(texels, rect, this.use.take, into.kind, acc);
      return { even: null, acc };
    }
    const key = mixSignature(mixSignature(this.key, KIND[into.kind]), this.part(at, tile));
    return at.cut(
      into.channels + 1,
      at.cached(key, () => this.tile(at, tile, into.kind)),
      rect,
    );
  }

  private tile(at: At, tile: TileIndex, kind: Scope['kind']): TileValue {
    const { sheet, surface } = at;
    const nothing = { uniform: new Array<number>(kind === 'value' ? 2 : 4).fill(0), data: null };
    const share = surface && this.placement.by === 'decal' ? decalShare(this.placement, surface, tile) : null;
    // Nothing of a decal on this tile: the picture need not be read.
    if (share?.every((v) => v === 0)) return nothing;
    const data = pictureData(at.store, this.picture, at.pictureStamp(this.picture.id));
    const found = pictureTile(data, this.use, this.placement, kind, { sheet, surface, tile });
    if (!found) return nothing;
    if (share) limit(found, share);
    return { uniform: null, data: found };
  }
}

/** Its last plane, alpha, times a share a texel. */
function limit(planes: Float32Array, share: Float32Array): void {
  const alpha = planes.length - TILE_TEXELS;
  for (let i = 0; i < TILE_TEXELS; i++) planes[alpha + i] *= share[i];
}

/** Tiles all of whose texels are equal, by plane and signature: large sheets are ground nearly everywhere, and all of that has a few. */
import type { PlaneId } from '../../../core/kinds/shown';
import type { Signature } from '../../../core/strata/signature';

/** Some hundred bytes each. */
const MOST = 4096;

export class EvenTiles {
  private texels = new Map<string, number>();

  /** The texel, RGBA as one little-endian number; undefined: not known to be even. */
  get(plane: PlaneId, signature: Signature): number | undefined {
    return this.texels.get(plane + signature);
  }

  set(plane: PlaneId, signature: Signature, texel: number): void {
    if (this.texels.size >= MOST) this.texels.clear();
    this.texels.set(plane + signature, texel);
  }
}

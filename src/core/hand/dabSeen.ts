/** A dab on what an eye sees: the tip's outline stands in the pane, and covers the texels that show there. */
import { tipShare } from '../../kernels/dabShares';
import { BLOCK, BLOCKS_PER_SIDE } from '../mesh/surfaceMap/surfaceMap';
import { TILE, tileX, tileY } from '../tile/tiles';
import { frameOf } from './dabFlat';
import type { Imprint } from './imprint';
import type { Sight } from './sight';
import { prepareTip, reachInPlane, type DabTip } from './tip';

export interface SeenDab {
  /** Pixels of the pane. */
  x: number;
  y: number;
  radius: number;
  tip: DabTip;
}

export function dabSeen(imprint: Imprint, sight: Sight, { x, y, radius, tip }: SeenDab, falloff: Float32Array): void {
  const shape = prepareTip(tip, radius, falloff);
  const { a, b, c, d } = frameOf(tip, radius);
  const reach = radius * reachInPlane(tip);
  for (const { index, blocks } of sight.near({ x0: x - reach, y0: y - reach, x1: x + reach, y1: y + reach })) {
    const seen = sight.tile(index);
    if (!seen) continue;
    const tile = imprint.tile(tileX(index), tileY(index));
    for (const block of blocks) {
      const [left, top] = [(block % BLOCKS_PER_SIDE) * BLOCK, Math.floor(block / BLOCKS_PER_SIDE) * BLOCK];
      let gives = false;
      for (let row = top; row < top + BLOCK; row++)
        for (let i = row * TILE + left, end = i + BLOCK; i < end; i++) {
          const share = seen.share[i];
          if (share === 0) continue;
          const [dx, dy] = [seen.x[i] - x, seen.y[i] - y];
          const value = share * tipShare(shape, dx * a + dy * b, dx * c + dy * d, 0);
          if (value > 0) gives = true;
          if (value > tile.values[i]) tile.values[i] = value;
        }
      if (gives) imprint.touch(tile, left, top, left + BLOCK, top + BLOCK);
    }
    imprint.forget(tile);
  }
}

/** A mask as a grey picture, smaller than its sheet. */
import type { Sheet } from '../document/schema';
import type { Bitmap } from '../tile/bitmap';
import { TILE, tilesOf, tileX, tileY, type TileStore } from '../tile/tiles';
import { Evaluator } from './evaluator';
import { programOfMask } from './program';

/**
 * A mask of a sheet, `side` texels on its longer side at most, 8 bit: each texel is the mean of those it stands for. null: there is
 * no such mask, or `goOn`, asked from tile to tile, says no.
 */
export async function maskPicture(
  sheet: Sheet,
  store: TileStore,
  maskId: string,
  side: number,
  goOn: () => Promise<boolean>,
): Promise<Bitmap | null> {
  const use = programOfMask(sheet, maskId, null);
  if (!use) return null;
  let by = 1;
  while (Math.max(sheet.width, sheet.height) / by > side) by *= 2;
  const [width, height] = [Math.ceil(sheet.width / by), Math.ceil(sheet.height / by)];
  const sums = new Float64Array(width * height);
  const counts = new Uint32Array(width * height);
  const evaluator = new Evaluator({ sheet, store });
  for (const tile of tilesOf(sheet.width, sheet.height)) {
    if (!(await goOn())) return null;
    const value = evaluator.tile(use.scope, tile);
    const [x0, y0] = [tileX(tile) * TILE, tileY(tile) * TILE];
    for (let y = 0; y < Math.min(TILE, sheet.height - y0); y++)
      for (let x = 0; x < Math.min(TILE, sheet.width - x0); x++) {
        const o = Math.floor((y0 + y) / by) * width + Math.floor((x0 + x) / by);
        sums[o] += value.data ? value.data[y * TILE + x] : value.uniform[0];
        counts[o]++;
      }
  }
  const data = Uint8Array.from(sums, (v, i) => Math.round(Math.min(1, Math.max(0, v / counts[i])) * 255));
  return { width, height, channels: 1, bits: 8, data };
}

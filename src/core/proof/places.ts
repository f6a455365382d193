/** Patches of marked texels. */
import { TILE, tileIndex } from '../tile/tiles';
import { MOST_PLACES, type ModelUnder, type Place } from './meters/meter';

export interface Marked {
  width: number;
  height: number;
  /** 0, or 255 where a texel is marked. */
  marks: Uint8Array;
  wrapU: boolean;
  wrapV: boolean;
}

/**
 * The largest patches of marked texels that touch each other at a side, also across the borders of a sheet that wraps. The box of a patch
 * that crosses a border reaches from border to border.
 */
export function largestPatches({ width, height, marks, wrapU, wrapV }: Marked, under: ModelUnder | null): Place[] {
  const seen = new Uint8Array(marks.length);
  const stack: number[] = [];
  const found: (Place & { first: number })[] = [];
  const visit = (i: number) => {
    if (!marks[i] || seen[i]) return;
    seen[i] = 1;
    stack.push(i);
  };
  for (let first = 0; first < marks.length; first++) {
    visit(first);
    if (stack.length === 0) continue;
    const place = { x0: width, y0: height, x1: 0, y1: 0, texels: 0, part: null, first };
    while (stack.length) {
      const i = stack.pop()!;
      const [x, y] = [i % width, (i / width) | 0];
      place.texels++;
      place.x0 = Math.min(place.x0, x);
      place.y0 = Math.min(place.y0, y);
      place.x1 = Math.max(place.x1, x + 1);
      place.y1 = Math.max(place.y1, y + 1);
      if (x > 0 || wrapU) visit(x > 0 ? i - 1 : i + width - 1);
      if (x < width - 1 || wrapU) visit(x < width - 1 ? i + 1 : i - width + 1);
      if (y > 0 || wrapV) visit(y > 0 ? i - width : i + width * (height - 1));
      if (y < height - 1 || wrapV) visit(y < height - 1 ? i + width : x);
    }
    found.push(place);
  }
  return found
    .toSorted((a, b) => b.texels - a.texels || a.first - b.first)
    .slice(0, MOST_PLACES)
    .map(({ first, ...place }) => ({ ...place, part: partAt(under, first % width, (first / width) | 0) }));
}

/** The part of the model that lies on a texel; null: none does. */
function partAt(under: ModelUnder | null, x: number, y: number): string | null {
  if (!under) return null;
  const { model, surface } = under;
  const face = surface.map.tiles.get(tileIndex((x / TILE) | 0, (y / TILE) | 0))?.face[(y % TILE) * TILE + (x % TILE)] ?? -1;
  return face < 0 ? null : model.parts[model.facePart[face]];
}

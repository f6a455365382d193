/** Patches of marked texels. */
import { TILE, tileIndex } from '../tile/tiles';
import { MOST_PLACES, type OnModel, type Place } from './meters/meter';

export interface Marked {
  width: number;
  height: number;
  /** 0, or 255 where a texel is marked. */
  marks: Uint8Array;
  wrapU: boolean;
  wrapV: boolean;
}

/**
 * The largest patches of marked texels that touch each other at a side, over the borders of a sheet that wraps as well. A patch that
 * goes over a border is told by the box on its first texel's side.
 */
export function largestPatches({ width, height, marks, wrapU, wrapV }: Marked, onModel: OnModel | null): Place[] {
  const seen = new Uint8Array(marks.length);
  const stack: number[] = [];
  const found: (Place & { first: number })[] = [];
  for (let first = 0; first < marks.length; first++) {
    if (!marks[first] || seen[first]) continue;
    const place = { x0: width, y0: height, x1: 0, y1: 0, texels: 0, part: null, first };
    seen[first] = 1;
    stack.push(first);
    while (stack.length) {
      const i = stack.pop()!;
      const [x, y] = [i % width, (i / width) | 0];
      place.texels++;
      place.x0 = Math.min(place.x0, x);
      place.y0 = Math.min(place.y0, y);
      place.x1 = Math.max(place.x1, x + 1);
      place.y1 = Math.max(place.y1, y + 1);
      for (const [nx, ny] of [
        [x - 1, y],
        [x + 1, y],
        [x, y - 1],
        [x, y + 1],
      ]) {
        if (!wrapU && (nx < 0 || nx >= width)) continue;
        if (!wrapV && (ny < 0 || ny >= height)) continue;
        const n = ((ny + height) % height) * width + ((nx + width) % width);
        if (!marks[n] || seen[n]) continue;
        seen[n] = 1;
        stack.push(n);
      }
    }
    found.push(place);
  }
  return found
    .toSorted((a, b) => b.texels - a.texels || a.first - b.first)
    .slice(0, MOST_PLACES)
    .map(({ first, ...place }) => ({ ...place, part: partAt(onModel, first % width, (first / width) | 0) }));
}

/** The part of the model that lies on a texel; null: none does. */
function partAt(onModel: OnModel | null, x: number, y: number): string | null {
  if (!onModel) return null;
  const { model, surface } = onModel;
  const face = surface.map.tiles.get(tileIndex((x / TILE) | 0, (y / TILE) | 0))?.face[(y % TILE) * TILE + (x % TILE)] ?? -1;
  return face < 0 ? null : model.parts[model.facePart[face]];
}

/** What an eye sees of a block of texels (assembly/seen.ts); the twin works where something lies outside the memory. */
import type { Arena } from '../arena';
import type { EyeBuffer, SeenKernels } from '../seen';
import { seenTwin } from '../seenTwin';
import { placesIn } from './placesIn';

type Counts = (...args: number[]) => number;

export interface SeenExports {
  projectBlock: Counts;
  wholeBlock: Counts;
}

export function seen(k: SeenExports, arena: Arena): SeenKernels {
  const { i32 } = arena;
  const placesOf = placesIn(arena);
  const arrays = (e: EyeBuffer) => [
    ...[e.settings, e.facing, e.edges, e.buffer, e.smooth, e.corner, e.positions, e.indices],
    ...[e.texel, e.x, e.y, e.near, e.seen],
  ];
  /** Where the eye's addresses are written; 0: not all of it lies in the memory. */
  const take = (eye: EyeBuffer): number => {
    const places = placesOf(eye, arrays);
    if (!places) return 0;
    const at = arena.weights >> 2;
    for (let n = 0; n < places.length; n++) i32[at + n] = places[n];
    return arena.weights;
  };
  return {
    projectBlock: (eye, tile, first, backs) => {
      const face = arena.inPlace(tile.face);
      const position = arena.inPlace(tile.position);
      const at = face === null || position === null ? 0 : take(eye);
      if (at === 0) return seenTwin.projectBlock(eye, tile, first, backs);
      return k.projectBlock(at, face!, position!, first, backs ? 1 : 0, eye.buffer.length > 0 ? 1 : 0);
    },
    wholeBlock: (eye, tile, first, x0, y0, x1, y1) => {
      const face = arena.inPlace(tile.face);
      const position = arena.inPlace(tile.position);
      const at = face === null || position === null ? 0 : take(eye);
      if (at === 0) return seenTwin.wholeBlock(eye, tile, first, x0, y0, x1, y1);
      return k.wholeBlock(at, face!, position!, first, x0, y0, x1, y1);
    },
  };
}

/** Texels read along the surface (assembly/steps.ts): it comes back for what is made when it is first needed. */
import type { Arena } from '../arena';
import type { StepKernels, StepTables, WayTables } from '../steps';
import { stepsTwin } from '../stepsTwin';
import { placesIn } from './placesIn';

export interface StepExports {
  readSteps(...args: number[]): number;
  mixIn(...args: number[]): void;
}

const RECORD = 96;
const [EDGE, TILE] = [1, 2];

export function steps(k: StepExports, arena: Arena): StepKernels {
  const { i32 } = arena;
  const wayPlaces = placesIn(arena);
  const tablesOf = (w: WayTables) => [w.into, w.beyond, w.foldings, w.folded, w.hidden, w.corners];
  const stepsOf = ({ weights, inSheet, slots, table }: StepTables) => [weights, inSheet, slots, table];
  const placeOf = (a: Parameters<Arena['inPlace']>[0] | null) => (a === null ? 0 : arena.inPlace(a));
  return {
    mixIn: (own, taken, share, strength, channels, rect) => {
      const [a, b, c] = [own, taken, share].map((numbers) => arena.inPlace(numbers));
      if (a === null || b === null || c === null) return stepsTwin.mixIn(own, taken, share, strength, channels, rect);
      k.mixIn(a, b, c, strength, channels, rect.x0, rect.y0, rect.x1, rect.y1);
    },
    readSteps: (tiles, ways, steps, of, out, want, done, { x0, y0, x1, y1 }) => {
      const ofWays = ways ? wayPlaces(ways, tablesOf) : [0, 0, 0, 0, 0, 0];
      const ofSteps = stepsOf(steps).map((a) => arena.inPlace(a));
      const ofTile = [of.faces, of.own, out, want, done, tiles.addresses].map(placeOf);
      if (!ofWays || ofSteps.some((p) => p === null) || ofTile.some((p) => p === null)) return false;
      const [into, beyond, foldings, folded, hidden, corners] = ofWays;
      const [weights, inSheet, slots, table] = ofSteps as number[];
      const [faces, own, to, wanted, finished, addresses] = ofTile as number[];
      const o = arena.weights >> 2;
      const need = o + RECORD / 4;
      const across = Math.ceil(tiles.width / 128);
      [faces, slots, table, into, beyond, foldings, folded, hidden, corners, addresses, across].forEach(
        (v, n) => (i32[o + n] = v),
      );
      [tiles.width, tiles.height, tiles.wrapU ? 1 : 0, tiles.wrapV ? 1 : 0, tiles.channels].forEach(
        (v, n) => (i32[o + 11 + n] = v),
      );
      [steps.count, weights, inSheet, need * 4].forEach((v, n) => (i32[o + 16 + n] = v));
      arena.put64(arena.weights + 80, of.left);
      arena.put64(arena.weights + 88, of.top);
      for (let next = 0; ;) {
        next = k.readSteps(arena.weights, to, own, wanted, finished, x0, y0, x1, y1, next);
        if (next < 0) return true;
        const [kind, id] = [i32[need], i32[need + 1]];
        if (kind === EDGE) ways!.foldEdge(id);
        else if (kind === TILE) {
          const at = placeOf(tiles.tileAt(id));
          if (at === null) return false;
          tiles.addresses[id] = at;
        }
      }
    },
  };
}

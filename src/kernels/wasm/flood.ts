/** Which faces and blocks a dab may touch (assembly/flood.ts); the twin works where something lies outside the memory. */
import type { Arena } from '../arena';
import type { FaceBlocks, FloodKernels, FloodMesh } from '../flood';
import { floodTwin } from '../floodTwin';
import { placesIn } from './placesIn';

type Counts = (...args: number[]) => number;

export interface FloodExports {
  flood: Counts;
  nearBlocks: Counts;
}

export function flood(k: FloodExports, arena: Arena): FloodKernels {
  const { i32 } = arena;
  const placesOf = placesIn(arena);
  const meshOf = (m: FloodMesh) => [m.positions, m.indices, m.start, m.neighbours, m.hidden, m.stamp, m.reached];
  const blocksOf = (b: FaceBlocks) => [b.faceBlockStart, b.faceBlocks, b.blockBounds, b.seen, b.near];
  return {
    flood: (mesh, from, x, y, z, radius, beyond, included) => {
      const places = placesOf(mesh, meshOf);
      if (!places) return floodTwin.flood(mesh, from, x, y, z, radius, beyond, included);
      places.forEach((place, n) => (i32[(arena.weights >> 2) + n] = place));
      return k.flood(arena.weights, from, x, y, z, radius, beyond, included);
    },
    nearBlocks: (blocks, faces, count, turn, x, y, z, reach) => {
      const places = placesOf(blocks, blocksOf);
      const at = arena.inPlace(faces);
      if (!places || at === null) return floodTwin.nearBlocks(blocks, faces, count, turn, x, y, z, reach);
      const [starts, list, bounds, seen, near] = places;
      return k.nearBlocks(starts, list, bounds, seen, near, at, count, turn, x, y, z, reach);
    },
  };
}

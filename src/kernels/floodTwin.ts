/** Which faces and blocks a dab may touch (assembly/flood.ts), in float64. */
import { boxDistance2, distanceToFace2 } from './distances';
import type { FloodKernels } from './flood';

export const floodTwin: FloodKernels = {
  flood: (mesh, from, x, y, z, radius, beyond, included) => {
    const { start, neighbours, stamp, reached, hidden } = mesh;
    const radius2 = radius * radius;
    stamp[from] = included;
    reached[0] = from;
    let count = 1;
    for (let next = 0; next < count; next++) {
      const f = reached[next];
      for (let i = start[f]; i < start[f + 1]; i++) {
        const g = neighbours[i];
        if (stamp[g] >= included - 1) continue;
        if (hidden[g] || distanceToFace2(mesh, g, x, y, z) > radius2) stamp[g] = included - 1;
        else {
          stamp[g] = included;
          reached[count++] = g;
        }
      }
    }
    if (beyond === 0) return count;
    // Of these only gutters can lie in the ball. One that reaches into it by itself is another part, and ends the way.
    const far2 = (radius + beyond) * (radius + beyond);
    for (let next = 0; next < count; next++) {
      const f = reached[next];
      for (let i = start[f]; i < start[f + 1]; i++) {
        const g = neighbours[i];
        if (stamp[g] === included || hidden[g]) continue;
        const d2 = distanceToFace2(mesh, g, x, y, z);
        if (d2 <= radius2 || d2 > far2) continue;
        stamp[g] = included;
        reached[count++] = g;
      }
    }
    return count;
  },
  nearBlocks: ({ faceBlockStart, faceBlocks, blockBounds, seen, near }, faces, count, turn, x, y, z, reach) => {
    const reach2 = reach * reach;
    let found = 0;
    for (let n = 0; n < count; n++)
      for (let i = faceBlockStart[faces[n]]; i < faceBlockStart[faces[n] + 1]; i++) {
        const id = faceBlocks[i];
        if (seen[id] === turn) continue;
        seen[id] = turn;
        if (boxDistance2(blockBounds, id * 6, x, y, z) < reach2) near[found++] = id;
      }
    return found;
  },
};

/** Our tangents beside those of the npm package mikktspace. */
import { generateTangents } from 'mikktspace';
import type { Model } from '../mesh/model';
import { cornerTangents } from '../mesh/tangents';

/** The longest way between the two at a corner, at which share of corners it is over 0.002, and at how many they lie on different sides. */
export function againstReference({ positions, normals, uvs, indices }: Model): { worst: number; apart: number; turned: number } {
  const each = (from: Float32Array, size: number) =>
    Float32Array.from([...indices].flatMap((v) => [...from.subarray(v * size, v * size + size)]));
  const ours = cornerTangents({ positions, normals, uv: uvs[0], indices });
  const theirs = generateTangents(each(positions, 3), each(normals, 3), each(uvs[0], 2));
  let [worst, apart, turned] = [0, 0, 0];
  for (let o = 0; o < ours.length; o += 4) {
    const way = Math.hypot(ours[o] - theirs[o], ours[o + 1] - theirs[o + 1], ours[o + 2] - theirs[o + 2]);
    worst = Math.max(worst, way);
    if (way > 0.002) apart++;
    // glTF's V runs down: the bitangent lies on the other side.
    if (ours[o + 3] !== -theirs[o + 3]) turned++;
  }
  return { worst, apart: apart / indices.length, turned };
}

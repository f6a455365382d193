/** A mesh with each triangle cut into smaller ones of its own plane: it looks the same, and has more places to put values at. */

export interface Surface {
  positions: Float32Array;
  normals: Float32Array;
  uv: Float32Array;
  indices: Uint32Array;
}

/** Triangles are cut until most of their longest sides are shorter than this share of the diagonal. */
const SIDE = 1 / 18;
/** Of so many triangles the longest side of one is longer than what is gone by. */
const MOST_OF = 0.8;
const MOST_CUTS = 6;
const MOST_FACES = 80_000;

/** Into how many pieces the sides of a mesh's triangles are to be cut; 1: they are small already. */
export function cutsFor({ positions: p, indices }: Pick<Surface, 'positions' | 'indices'>, diagonal: number): number {
  const faces = indices.length / 3;
  const longest = Float64Array.from({ length: faces }, (_, f) => {
    const corners = [0, 1, 2].map((k) => indices[f * 3 + k] * 3);
    return Math.max(
      ...corners.map((a, k) => {
        const b = corners[(k + 1) % 3];
        return Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]);
      }),
    );
  }).sort();
  const side = longest[Math.floor((faces - 1) * MOST_OF)] ?? 0;
  const wanted = Math.min(MOST_CUTS, Math.ceil(side / (diagonal * SIDE)));
  return Math.max(1, Math.min(wanted, Math.floor(Math.sqrt(MOST_FACES / Math.max(1, faces)))));
}

/** Each triangle becomes cuts² ones, which follow each other; vertices are no longer shared. 1: the mesh itself. */
export function finer<S extends Surface>(surface: S, cuts: number): Surface {
  if (cuts <= 1) return surface;
  const { indices } = surface;
  const faces = indices.length / 3;
  const each = ((cuts + 1) * (cuts + 2)) / 2;
  const out: Surface = {
    positions: new Float32Array(faces * each * 3),
    normals: new Float32Array(faces * each * 3),
    uv: new Float32Array(faces * each * 2),
    indices: new Uint32Array(indices.length * cuts * cuts),
  };
  let [vertex, corner] = [0, 0];
  for (let f = 0; f < faces; f++) {
    const first = vertex;
    for (let row = 0; row <= cuts; row++)
      for (let k = 0; k <= cuts - row; k++, vertex++)
        for (const [name, size] of [
          ['positions', 3],
          ['normals', 3],
          ['uv', 2],
        ] as const)
          for (let c = 0; c < size; c++) {
            const of = (n: number) => surface[name][indices[f * 3 + n] * size + c];
            out[name][vertex * size + c] = (of(0) * (cuts - row - k) + of(1) * k + of(2) * row) / cuts;
          }
    // A row of the grid has one vertex less than the row before it.
    let start = first;
    for (let row = 0; row < cuts; row++) {
      const next = start + cuts - row + 1;
      for (let k = 0; k < cuts - row; k++) {
        out.indices.set([start + k, start + k + 1, next + k], corner);
        corner += 3;
        if (k === cuts - row - 1) continue;
        out.indices.set([start + k + 1, next + k + 1, next + k], corner);
        corner += 3;
      }
      start = next;
    }
  }
  return out;
}

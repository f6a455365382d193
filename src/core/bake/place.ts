/** A model moved by a matrix: a twin that lies elsewhere, or at another scale. */
import { normalise, type Model } from '../mesh/model';

/** `m`: 16 numbers, column by column, as glTF has them. Normals by the cofactors; a mirroring one turns the corners round. */
export function placed(model: Model, m: readonly number[]): Model {
  const { positions: p, normals: n } = model;
  const positions = new Float32Array(p.length);
  const normals = new Float32Array(n.length);
  const at = (r: number, c: number) => m[c * 4 + r];
  const cofactor = (r: number, c: number) => {
    const [r1, r2, c1, c2] = [(r + 1) % 3, (r + 2) % 3, (c + 1) % 3, (c + 2) % 3];
    return at(r1, c1) * at(r2, c2) - at(r2, c1) * at(r1, c2);
  };
  const turned = [0, 1, 2].map((r) => [0, 1, 2].map((c) => cofactor(r, c)));
  const determinant = at(0, 0) * turned[0][0] + at(0, 1) * turned[0][1] + at(0, 2) * turned[0][2];
  const side = determinant < 0 ? -1 : 1;
  for (let i = 0; i < p.length; i += 3)
    for (let r = 0; r < 3; r++) {
      positions[i + r] = at(r, 0) * p[i] + at(r, 1) * p[i + 1] + at(r, 2) * p[i + 2] + at(r, 3);
      normals[i + r] = side * (turned[r][0] * n[i] + turned[r][1] * n[i + 1] + turned[r][2] * n[i + 2]);
    }
  normalise(normals);
  if (side > 0) return { ...model, positions, normals };
  const indices = model.indices.slice();
  for (let i = 0; i < indices.length; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2], indices[i + 1]];
  return { ...model, positions, normals, indices };
}

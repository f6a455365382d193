/** Matrices of 4 × 4, column-major as glTF has them. */

export const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** Column-major 4 × 4 product. */
export function multiply(a: ArrayLike<number>, b: ArrayLike<number>): Float64Array {
  const out = new Float64Array(16);
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++) for (let k = 0; k < 4; k++) out[c * 4 + r] += a[k * 4 + r] * b[c * 4 + k];
  return out;
}

export function determinant3(m: ArrayLike<number>): number {
  return m[0] * (m[5] * m[10] - m[9] * m[6]) - m[4] * (m[1] * m[10] - m[9] * m[2]) + m[8] * (m[1] * m[6] - m[5] * m[2]);
}

/** Moves vertex v; normals by the cofactor matrix, which is right for any scale (lengths are fixed later). */
export function transform(positions: Float32Array, normals: Float32Array | null, v: number, m: ArrayLike<number>): void {
  const o = v * 3;
  const [x, y, z] = [positions[o], positions[o + 1], positions[o + 2]];
  for (let r = 0; r < 3; r++) positions[o + r] = m[r] * x + m[4 + r] * y + m[8 + r] * z + m[12 + r];
  if (!normals) return;
  const [nx, ny, nz] = [normals[o], normals[o + 1], normals[o + 2]];
  const sign = determinant3(m) < 0 ? -1 : 1;
  for (let r = 0; r < 3; r++) {
    const s = (r + 1) % 3;
    const t = (r + 2) % 3;
    const cofactor = (c: number) => {
      const d = (c + 1) % 3;
      const e = (c + 2) % 3;
      return m[d * 4 + s] * m[e * 4 + t] - m[e * 4 + s] * m[d * 4 + t];
    };
    normals[o + r] = sign * (cofactor(0) * nx + cofactor(1) * ny + cofactor(2) * nz);
  }
}

/** Column-major, of translation, unit quaternion and scale (glTF 2.0, 3.5.3). */
export function composed(t: number[], [x, y, z, w]: number[], s: number[]): number[] {
  return [
    (1 - 2 * (y * y + z * z)) * s[0],
    2 * (x * y + z * w) * s[0],
    2 * (x * z - y * w) * s[0],
    0,
    2 * (x * y - z * w) * s[1],
    (1 - 2 * (x * x + z * z)) * s[1],
    2 * (y * z + x * w) * s[1],
    0,
    2 * (x * z + y * w) * s[2],
    2 * (y * z - x * w) * s[2],
    (1 - 2 * (x * x + y * y)) * s[2],
    0,
    t[0],
    t[1],
    t[2],
    1,
  ];
}

/** Null: it flattens space, and there is no way back. Affine matrices only: the last row is 0 0 0 1. */
export function inverse(m: ArrayLike<number>): number[] | null {
  const det = determinant3(m);
  if (!Number.isFinite(1 / det)) return null;
  const out = new Array<number>(16).fill(0);
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 3; c++) {
      const [a, b] = [(c + 1) % 3, (c + 2) % 3];
      const [d, e] = [(r + 1) % 3, (r + 2) % 3];
      // The cofactor of the place across.
      out[c * 4 + r] = (m[d * 4 + a] * m[e * 4 + b] - m[e * 4 + a] * m[d * 4 + b]) / det;
    }
  for (let r = 0; r < 3; r++) out[12 + r] = -(out[r] * m[12] + out[4 + r] * m[13] + out[8 + r] * m[14]);
  out[15] = 1;
  return out;
}

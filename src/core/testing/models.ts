/** Small models with known geometry, and a seeded stream of numbers, for tests and benchmarks. */
import type { Model } from '../mesh/model';
import { plainMaterial } from '../mesh/modelBuilder';
import type { PieceSurfaces } from '../strata/pieceSurfaces';

export interface Quad {
  /** Corners counter-clockwise as seen from the front. */
  corners: [number, number, number][];
  /** UV rectangle: left, top, right, bottom. */
  uv: [number, number, number, number];
  part?: number;
}

/** A model of quads with flat normals, each its own UV island. */
export function quadModel(quads: Quad[], parts = ['Part']): Model {
  const positions: number[] = [];
  const normals: number[] = [];
  const uvs: number[] = [];
  const indices: number[] = [];
  const facePart: number[] = [];
  for (const { corners, uv, part = 0 } of quads) {
    const base = positions.length / 3;
    const [a, b, , d] = corners;
    const u = b.map((v, k) => v - a[k]);
    const v = d.map((w, k) => w - a[k]);
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const l = Math.hypot(...n);
    for (const c of corners) {
      positions.push(...c);
      normals.push(...n.map((x) => x / l));
    }
    // V points down: the first corner is bottom left.
    uvs.push(uv[0], uv[3], uv[2], uv[3], uv[2], uv[1], uv[0], uv[1]);
    indices.push(base, base + 1, base + 2, base, base + 2, base + 3);
    facePart.push(part, part);
  }
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: [Float32Array.from(uvs)],
    indices: Uint32Array.from(indices),
    facePart: Uint16Array.from(facePart),
    faceMaterial: new Uint16Array(facePart.length),
    parts,
    materials: [plainMaterial('Surface')],
    fileVertices: positions.length / 3,
    notes: [],
  };
}

/** A box around the origin, sides in metres; six islands in a 3 × 2 grid with gutters. Quads: +z −z +x −x +y −y. */
export function boxModel(width: number, height: number, depth: number, part = 'Box'): Model {
  const [x, y, z] = [width / 2, height / 2, depth / 2];
  // Corners as signs, counter-clockwise as seen from outside.
  const sides = [
    '--+ +-+ +++ -++',
    '+-- --- -+- ++-',
    '+-+ +-- ++- +++',
    '--- --+ -++ -+-',
    '-++ +++ ++- -+-',
    '--- +-- +-+ --+',
  ];
  const sign = (c: string, v: number) => (c === '+' ? v : -v);
  const quads = sides.map((side, i): Quad => {
    const [u, v] = [(i % 3) / 3, Math.floor(i / 3) / 2];
    const corners = side.split(' ').map((c): [number, number, number] => [sign(c[0], x), sign(c[1], y), sign(c[2], z)]);
    return { corners, uv: [u + 0.03, v + 0.03, u + 0.3, v + 0.3] };
  });
  return quadModel(quads, [part]);
}

export const cubeModel = (): Model => boxModel(1, 1, 1, 'Cube');

/** The same shaded smoothly: vertices at one place share the mean of their normals. */
export function smoothed(model: Model): Model {
  const normals = new Float32Array(model.normals.length);
  const sums = new Map<string, number[]>();
  const keyOf = (v: number) => model.positions.subarray(v * 3, v * 3 + 3).join();
  const count = normals.length / 3;
  for (let v = 0; v < count; v++) {
    const sum = sums.get(keyOf(v)) ?? [0, 0, 0];
    sums.set(
      keyOf(v),
      sum.map((s, k) => s + model.normals[v * 3 + k]),
    );
  }
  for (let v = 0; v < count; v++) {
    const sum = sums.get(keyOf(v))!;
    normals.set(
      sum.map((s) => s / (Math.hypot(...sum) || 1)),
      v * 3,
    );
  }
  return { ...model, normals };
}

/** The texel of a sheet at the place of the model nearest to a point on face `quad` (two triangles a quad). */
export function texelNear(
  surfaces: PieceSurfaces,
  sheet: Parameters<PieceSurfaces['forSheet']>[0],
  quad: number,
  point: number[],
): [number, number] {
  const { map } = surfaces.forSheet(sheet)!;
  let best = Infinity;
  let at: [number, number] = [0, 0];
  for (const tile of map.tiles.values())
    for (let i = 0; i < tile.face.length; i++) {
      if (tile.face[i] >> 1 !== quad) continue;
      const d = Math.hypot(...point.map((v, k) => v - tile.position[i * 3 + k]));
      if (d < best) {
        best = d;
        at = [tile.x * 128 + (i % 128), tile.y * 128 + Math.floor(i / 128)];
      }
    }
  return at;
}

/** mulberry32: a stream of numbers 0..1 from a seed. */
export function seededRandom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Triangles that hang together nowhere, somewhere in space, with these UVs. */
export function looseModel(uv: Float32Array, random: () => number): Model {
  const n = uv.length / 6;
  const positions = new Float32Array(n * 9).map(() => random());
  return {
    positions,
    normals: positions,
    uvs: [uv],
    indices: Uint32Array.from({ length: n * 3 }, (_, i) => i),
    facePart: new Uint16Array(n),
    faceMaterial: new Uint16Array(n),
    parts: ['P'],
    materials: [plainMaterial('M')],
    fileVertices: n * 3,
    notes: [],
  };
}

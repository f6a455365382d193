/**
 * Tangents as MikkTSpace gives them (Mikkelsen, Simulation of wrinkled surfaces revisited, 2008), which glTF 2.0 asks for:
 * one for each corner, mean over the faces around a vertex of equal place, normal and UV whose UVs are laid out the same way
 * round, weighed by their angle there. Written from the description; tests hold it against the npm package mikktspace, which computes in
 * 32 bits (three quarters of its numbers differ in their last bits, by 4e-7 at most) and loads a binary that browsers have to fetch.
 */

export interface TangentMesh {
  positions: Float32Array;
  normals: Float32Array;
  /** 2 × float32 a vertex, V down. */
  uv: Float32Array;
  indices: Uint32Array;
}

/** 4 × float32 a corner: unit, square to the normal; then the side on which the bitangent lies, as glTF has it (V down in the file). */
export function cornerTangents({ positions: p, normals: n, uv, indices }: TangentMesh): Float32Array {
  const corners = indices.length;
  const faces = corners / 3;
  const vertex = sameVertices({ positions: p, normals: n, uv, indices });
  const { direction, keeps, usable } = faceTangents(p, uv, indices);
  const group = groupsOf(vertex, keeps, usable, faces);
  const sums = new Map<number, [number, number, number]>();
  const unit = [0, 0, 0];
  for (let c = 0; c < corners; c++) {
    if (!usable[Math.floor(c / 3)]) continue;
    const sum = sums.get(group[c]) ?? [0, 0, 0];
    // The face's direction, laid into the plane square to the normal, counts by the face's angle there.
    const v = indices[c] * 3;
    const f = Math.floor(c / 3) * 3;
    flatten(direction, f, n, v, unit);
    const angle = angleAt(p, n, indices, c);
    for (let k = 0; k < 3; k++) sum[k] += unit[k] * angle;
    sums.set(group[c], sum);
  }
  const out = new Float32Array(corners * 4);
  // A face that says nothing itself takes what another one has at the vertex.
  const others = new Map<number, number>();
  for (let c = corners - 1; c >= 0; c--) if (usable[Math.floor(c / 3)]) others.set(vertex[c], group[c]);
  for (let c = 0; c < corners; c++) {
    const f = Math.floor(c / 3);
    const sum = sums.get(usable[f] ? group[c] : (others.get(vertex[c]) ?? -1));
    const l = sum ? Math.hypot(...sum) : 0;
    const t = sum && l > 0 ? sum.map((x) => x / l) : anyTangent(n, indices[c] * 3);
    out.set(t, c * 4);
    // The bitangent points up the picture, and V down it.
    out[c * 4 + 3] = keeps[f] ? -1 : 1;
  }
  return out;
}

/** The first corner of equal place, normal and UV, for each. */
function sameVertices({ positions: p, normals: n, uv, indices }: TangentMesh): Uint32Array {
  const first = new Map<string, number>();
  return indices.map((v, c) => {
    const key = [p[v * 3], p[v * 3 + 1], p[v * 3 + 2], n[v * 3], n[v * 3 + 1], n[v * 3 + 2], uv[v * 2], uv[v * 2 + 1]].join();
    const known = first.get(key);
    if (known !== undefined) return known;
    first.set(key, c);
    return c;
  });
}

/** Per face the direction in which U rises, whether its UVs keep the way round, and whether they say anything. */
function faceTangents(p: Float32Array, uv: Float32Array, indices: Uint32Array) {
  const faces = indices.length / 3;
  const direction = new Float64Array(faces * 3);
  const keeps = new Uint8Array(faces);
  const usable = new Uint8Array(faces);
  for (let f = 0; f < faces; f++) {
    const [a, b, c] = [indices[f * 3], indices[f * 3 + 1], indices[f * 3 + 2]];
    const [s1, t1] = [uv[b * 2] - uv[a * 2], uv[b * 2 + 1] - uv[a * 2 + 1]];
    const [s2, t2] = [uv[c * 2] - uv[a * 2], uv[c * 2 + 1] - uv[a * 2 + 1]];
    const area = s1 * t2 - t1 * s2;
    keeps[f] = area > 0 ? 1 : 0;
    let l = 0;
    for (let k = 0; k < 3; k++) {
      const v = (t2 * (p[b * 3 + k] - p[a * 3 + k]) - t1 * (p[c * 3 + k] - p[a * 3 + k])) * (area < 0 ? -1 : 1);
      direction[f * 3 + k] = v;
      l += v * v;
    }
    l = Math.sqrt(l);
    const same = (x: number, y: number) => [0, 1, 2].every((k) => p[x * 3 + k] === p[y * 3 + k]);
    usable[f] = Math.abs(area) > 1e-30 && l > 0 && !same(a, b) && !same(b, c) && !same(a, c) ? 1 : 0;
    if (l > 0) for (let k = 0; k < 3; k++) direction[f * 3 + k] /= l;
  }
  return { direction, keeps, usable };
}

/** Corners of one vertex whose faces hang together over edges there and keep the same way round: one number each. */
function groupsOf(vertex: Uint32Array, keeps: Uint8Array, usable: Uint8Array, faces: number): Uint32Array {
  const group = Uint32Array.from(vertex, (_, c) => c);
  const find = (c: number): number => {
    while (group[c] !== c) c = group[c] = group[group[c]];
    return c;
  };
  const open = new Map<number, number>();
  const follows = (c: number) => (c % 3 === 2 ? c - 2 : c + 1);
  for (let c = 0; c < faces * 3; c++) {
    const f = Math.floor(c / 3);
    if (!usable[f]) continue;
    const next = follows(c);
    const [s, t] = [vertex[c], vertex[next]];
    // Neighbours run along their edge against each other.
    const there = open.get(t * 67108864 + s);
    if (there === undefined) {
      if (!open.has(s * 67108864 + t)) open.set(s * 67108864 + t, c);
      continue;
    }
    open.delete(t * 67108864 + s);
    if (keeps[Math.floor(there / 3)] !== keeps[f]) continue;
    const join = (x: number, y: number) => {
      const [i, j] = [find(x), find(y)];
      if (i !== j) group[Math.max(i, j)] = Math.min(i, j);
    };
    join(c, follows(there));
    join(next, there);
  }
  return group.map((_, c) => find(c));
}

function flatten(direction: Float64Array, f: number, n: Float32Array, v: number, out: number[]): void {
  const dot = direction[f] * n[v] + direction[f + 1] * n[v + 1] + direction[f + 2] * n[v + 2];
  let l = 0;
  for (let k = 0; k < 3; k++) {
    out[k] = direction[f + k] - dot * n[v + k];
    l += out[k] * out[k];
  }
  l = Math.sqrt(l);
  if (l > 0) for (let k = 0; k < 3; k++) out[k] /= l;
}

/** Of a face at a corner, seen along the normal there. */
function angleAt(p: Float32Array, n: Float32Array, indices: Uint32Array, c: number): number {
  const base = Math.floor(c / 3) * 3;
  const v = indices[c] * 3;
  const sides = [1, 2].map((step) => {
    const o = indices[base + ((c - base + step) % 3)] * 3;
    const d = [0, 1, 2].map((k) => p[o + k] - p[v + k]);
    const dot = d.reduce((s, x, k) => s + x * n[v + k], 0);
    const flat = d.map((x, k) => x - dot * n[v + k]);
    const l = Math.hypot(...flat);
    return l > 0 ? flat.map((x) => x / l) : flat;
  });
  const cos = sides[0].reduce((s, x, k) => s + x * sides[1][k], 0);
  return Math.acos(Math.max(-1, Math.min(1, cos)));
}

function anyTangent(n: Float32Array, v: number): number[] {
  // Duff et al., Building an orthonormal basis, revisited, 2017.
  const [x, y, z] = [n[v], n[v + 1], n[v + 2]];
  const sign = z < 0 ? -1 : 1;
  const a = -1 / (sign + z);
  return [1 + sign * x * x * a, sign * x * y * a, -sign * x];
}

/** Rays without SIMD: the same numbers, bit for bit, since all that decides is rounded to float32 where the kernel does. */
import { LEAF, NO_FACE, NODE_BYTES, PACKET_BYTES, POINT_NUMBERS, RAY_NUMBERS, RAY_TURNS, type Rays, type Tree } from './rays';

const f = Math.fround;
const EDGE = f(1e-6);
const BEYOND = f(1 + EDGE);

export function raysTwin({ nodes, packets }: Tree): Rays {
  const nodeFloats = new Float32Array(nodes.buffer, nodes.byteOffset, nodes.length >> 2);
  const nodeWords = new Uint32Array(nodes.buffer, nodes.byteOffset, nodes.length >> 2);
  const p = new Float32Array(packets.buffer, packets.byteOffset, packets.length >> 2);
  const faces = new Uint32Array(packets.buffer, packets.byteOffset, packets.length >> 2);
  const stack = new Uint32Array(1024);
  let [ox, oy, oz, dx, dy, dz] = [0, 0, 0, 0, 0, 0];
  const hit = { t: 0, u: 0, v: 0, face: NO_FACE };

  /** A box is met a little more readily than in the kernel: what is hit in it decides. */
  function meets(node: number, lane: number, near: number, far: number): boolean {
    const word = node * (NODE_BYTES >> 2);
    let [from, to] = [near, far];
    for (let axis = 0; axis < 3; axis++) {
      const [o, d] = axis === 0 ? [ox, dx] : axis === 1 ? [oy, dy] : [oz, dz];
      const at = node * NODE_BYTES + 24 + axis * 4 + lane;
      if (nodes[at] > nodes[at + 12]) return false;
      const step = nodeFloats[word + 3 + axis];
      const low = nodeFloats[word + axis] + nodes[at] * step;
      const high = nodeFloats[word + axis] + nodes[at + 12] * step;
      const wide = (Math.abs(low) + Math.abs(high) + Math.abs(o)) * 1e-6;
      if (d === 0) {
        if (o < low - wide || o > high + wide) return false;
        continue;
      }
      const a = (low - wide - o) / d;
      const b = (high + wide - o) / d;
      from = Math.max(from, Math.min(a, b));
      to = Math.min(to, Math.max(a, b));
    }
    return from <= to * 1.00001;
  }

  /** One triangle; its distance, weights and face where it is hit nearer than what is known. */
  function triangle(o: number, near: number, far: number, cull: boolean): boolean {
    const [e1x, e1y, e1z, e2x, e2y, e2z] = [p[o + 12], p[o + 16], p[o + 20], p[o + 24], p[o + 28], p[o + 32]];
    const px = f(f(dy * e2z) - f(dz * e2y));
    const py = f(f(dz * e2x) - f(dx * e2z));
    const pz = f(f(dx * e2y) - f(dy * e2x));
    const det = f(f(f(e1x * px) + f(e1y * py)) + f(e1z * pz));
    const inv = f(1 / det);
    const [sx, sy, sz] = [f(ox - p[o]), f(oy - p[o + 4]), f(oz - p[o + 8])];
    const u = f(f(f(f(sx * px) + f(sy * py)) + f(sz * pz)) * inv);
    const qx = f(f(sy * e1z) - f(sz * e1y));
    const qy = f(f(sz * e1x) - f(sx * e1z));
    const qz = f(f(sx * e1y) - f(sy * e1x));
    const v = f(f(f(f(dx * qx) + f(dy * qy)) + f(dz * qz)) * inv);
    const t = f(f(f(f(e2x * qx) + f(e2y * qy)) + f(e2z * qz)) * inv);
    if (!(u >= -EDGE && v >= -EDGE && f(u + v) <= BEYOND && t > near && t <= far)) return false;
    if (cull && !(det > 0)) return false;
    const face = faces[o + 36];
    if (t < hit.t || (t === hit.t && face < hit.face)) Object.assign(hit, { t, u, v, face });
    return true;
  }

  /** The nearest hit, or any. */
  function cast(near: number, far: number, cull: boolean, any: boolean): boolean {
    Object.assign(hit, { t: far, face: NO_FACE });
    let top = 0;
    let node = 0;
    for (;;) {
      for (let lane = 0; lane < 4; lane++) {
        if (!meets(node, lane, near, hit.t)) continue;
        const child = nodeWords[node * (NODE_BYTES >> 2) + 12 + lane];
        if (child < LEAF) stack[top++] = child;
        else
          for (let k = 0; k < 4; k++)
            if (triangle((child - LEAF) * (PACKET_BYTES >> 2) + k, near, hit.t, cull) && any) return true;
      }
      if (top === 0) return hit.face !== NO_FACE;
      node = stack[--top];
    }
  }

  const frame = new Float32Array(6);
  function around(x: number, y: number, z: number): void {
    const sign = z < 0 ? -1 : 1;
    const a = f(-1 / f(sign + z));
    const b = f(f(x * y) * a);
    frame[0] = 1 + f(f(f(sign * x) * x) * a);
    frame[1] = sign * b;
    frame[2] = f(-sign * x);
    frame[3] = b;
    frame[4] = sign + f(f(y * y) * a);
    frame[5] = -y;
  }

  /** Calls for each direction of a point that does not go under its face; `side`: −1 for inwards. */
  function look(
    points: Float32Array,
    n: number,
    side: 1 | -1,
    { data, sets, samples }: { data: Float32Array; sets: number; samples: number },
    bias: number,
    each: () => void,
  ): number {
    const o = n * POINT_NUMBERS;
    const [nx, ny, nz, gx, gy, gz] = [0, 1, 2, 3, 4, 5].map((k) => side * points[o + 3 + k]);
    const seed = new Uint32Array(points.buffer, points.byteOffset + o * 4 + 36, 1)[0];
    const off = f(bias);
    ox = f(points[o] + f(gx * off));
    oy = f(points[o + 1] + f(gy * off));
    oz = f(points[o + 2] + f(gz * off));
    around(nx, ny, nz);
    const turn = (seed >> 8) & 255;
    const [cos, sin] = [RAY_TURNS[turn * 2], RAY_TURNS[turn * 2 + 1]];
    let all = 0;
    for (let k = 0, at = ((seed & 255) % sets) * samples * 3; k < samples; k++, at += 3) {
      const [lx, ly, z] = [data[at], data[at + 1], data[at + 2]];
      const x = f(f(lx * cos) - f(ly * sin));
      const y = f(f(lx * sin) + f(ly * cos));
      dx = f(f(f(frame[0] * x) + f(frame[3] * y)) + f(nx * z));
      dy = f(f(f(frame[1] * x) + f(frame[4] * y)) + f(ny * z));
      dz = f(f(f(frame[2] * x) + f(frame[5] * y)) + f(nz * z));
      if (f(f(f(dx * gx) + f(dy * gy)) + f(dz * gz)) <= 0) continue;
      all++;
      each();
    }
    return all;
  }

  return {
    occlusion: (points, count, to, { reach, bias, cull }, out) => {
      for (let n = 0; n < count; n++) {
        let [open, x, y, z] = [0, 0, 0, 0];
        const all = look(points, n, 1, to, bias, () => {
          if (cast(0, f(reach), cull, true)) return;
          open++;
          x = f(x + dx);
          y = f(y + dy);
          z = f(z + dz);
        });
        const one = open > 0 ? f(1 / open) : 0;
        out[n * 4] = all > 0 ? open / all : 1;
        out[n * 4 + 1] = x * one;
        out[n * 4 + 2] = y * one;
        out[n * 4 + 3] = z * one;
      }
    },
    depth: (points, count, to, { reach, bias }, out) => {
      for (let n = 0; n < count; n++) {
        let sum = 0;
        const all = look(points, n, -1, to, bias, () => {
          cast(0, f(reach), false, false);
          sum = f(sum + hit.t);
        });
        out[n] = all > 0 ? sum / all : reach;
      }
    },
    hits: (rays, count, cull, out) => {
      const faceOut = new Uint32Array(out.buffer, out.byteOffset, out.length);
      for (let n = 0; n < count; n++) {
        [ox, oy, oz, dx, dy, dz] = rays.subarray(n * RAY_NUMBERS, n * RAY_NUMBERS + 6);
        const found = cast(rays[n * RAY_NUMBERS + 6], rays[n * RAY_NUMBERS + 7], cull, false);
        out[n * 4] = found ? hit.t : -1;
        out[n * 4 + 1] = found ? hit.u : 0;
        out[n * 4 + 2] = found ? hit.v : 0;
        faceOut[n * 4 + 3] = hit.face;
      }
    },
  };
}

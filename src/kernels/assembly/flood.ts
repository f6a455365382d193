/** Which faces and blocks a dab may touch (kernels/flood.ts), in float64 as in TypeScript. */

// @ts-ignore: decorator
@inline
function word(at: usize, n: i32): i32 {
  return load<i32>(at + (<usize>n << 2));
}

/** `mesh`: addresses of positions, indices, start, neighbours, hidden, stamp, reached. */
export function flood(mesh: usize, from: i32, x: f64, y: f64, z: f64, radius: f64, beyond: f64, included: i32): i32 {
  const start = load<usize>(mesh, 8);
  const neighbours = load<usize>(mesh, 12);
  const hidden = load<usize>(mesh, 16);
  const stamp = load<usize>(mesh, 20);
  const reached = load<usize>(mesh, 24);
  const radius2 = radius * radius;
  store<i32>(stamp + (<usize>from << 2), included);
  store<i32>(reached, from);
  let count = 1;
  for (let next = 0; next < count; next++) {
    const f = word(reached, next);
    for (let i = word(start, f), end = word(start, f + 1); i < end; i++) {
      const g = word(neighbours, i);
      const mark = stamp + (<usize>g << 2);
      if (load<i32>(mark) >= included - 1) continue;
      if (load<u8>(hidden + <usize>g) || distanceToFace2(mesh, g, x, y, z) > radius2) {
        store<i32>(mark, included - 1);
        continue;
      }
      store<i32>(mark, included);
      store<i32>(reached + (<usize>count << 2), g);
      count++;
    }
  }
  if (beyond == 0) return count;
  const far2 = (radius + beyond) * (radius + beyond);
  for (let next = 0; next < count; next++) {
    const f = word(reached, next);
    for (let i = word(start, f), end = word(start, f + 1); i < end; i++) {
      const g = word(neighbours, i);
      const mark = stamp + (<usize>g << 2);
      if (load<i32>(mark) == included || load<u8>(hidden + <usize>g)) continue;
      const d2 = distanceToFace2(mesh, g, x, y, z);
      if (d2 <= radius2 || d2 > far2) continue;
      store<i32>(mark, included);
      store<i32>(reached + (<usize>count << 2), g);
      count++;
    }
  }
  return count;
}

// @ts-ignore: decorator
@inline
function beyond(v: f64, box: usize): f64 {
  const low = <f64>load<f32>(box);
  const high = <f64>load<f32>(box, 12);
  return v < low ? low - v : v > high ? v - high : 0;
}

export function nearBlocks(
  starts: usize,
  blocks: usize,
  bounds: usize,
  seen: usize,
  near: usize,
  faces: usize,
  count: i32,
  turn: i32,
  x: f64,
  y: f64,
  z: f64,
  reach: f64,
): i32 {
  const reach2 = reach * reach;
  let found = 0;
  for (let n = 0; n < count; n++) {
    const f = word(faces, n);
    for (let i = word(starts, f), end = word(starts, f + 1); i < end; i++) {
      const id = word(blocks, i);
      const mark = seen + (<usize>id << 2);
      if (load<i32>(mark) == turn) continue;
      store<i32>(mark, turn);
      const box = bounds + <usize>id * 24;
      const dx = beyond(x, box);
      const dy = beyond(y, box + 4);
      const dz = beyond(z, box + 8);
      if (dx * dx + dy * dy + dz * dz < reach2) {
        store<i32>(near + (<usize>found << 2), id);
        found++;
      }
    }
  }
  return found;
}

// @ts-ignore: decorator
@inline
function square(x: f64, y: f64, z: f64): f64 {
  return x * x + y * y + z * z;
}

/**
 * Squared distance from a point to a triangle. C. Ericson, "Real-Time Collision Detection", 2005, 5.1.5,
 * by the regions of the closest feature.
 */
function distanceToFace2(mesh: usize, face: i32, x: f64, y: f64, z: f64): f64 {
  const p = load<usize>(mesh);
  const corners = load<usize>(mesh, 4) + <usize>face * 12;
  const a = p + <usize>load<i32>(corners) * 12;
  const b = p + <usize>load<i32>(corners, 4) * 12;
  const c = p + <usize>load<i32>(corners, 8) * 12;
  const ax = <f64>load<f32>(a);
  const ay = <f64>load<f32>(a, 4);
  const az = <f64>load<f32>(a, 8);
  const abx = <f64>load<f32>(b) - ax;
  const aby = <f64>load<f32>(b, 4) - ay;
  const abz = <f64>load<f32>(b, 8) - az;
  const acx = <f64>load<f32>(c) - ax;
  const acy = <f64>load<f32>(c, 4) - ay;
  const acz = <f64>load<f32>(c, 8) - az;
  const apx = x - ax;
  const apy = y - ay;
  const apz = z - az;
  const d1 = abx * apx + aby * apy + abz * apz;
  const d2 = acx * apx + acy * apy + acz * apz;
  if (d1 <= 0 && d2 <= 0) return apx * apx + apy * apy + apz * apz;
  const bpx = x - <f64>load<f32>(b);
  const bpy = y - <f64>load<f32>(b, 4);
  const bpz = z - <f64>load<f32>(b, 8);
  const d3 = abx * bpx + aby * bpy + abz * bpz;
  const d4 = acx * bpx + acy * bpy + acz * bpz;
  if (d3 >= 0 && d4 <= d3) return bpx * bpx + bpy * bpy + bpz * bpz;
  const vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) {
    const v = d1 / (d1 - d3);
    return square(apx - abx * v, apy - aby * v, apz - abz * v);
  }
  const cpx = x - <f64>load<f32>(c);
  const cpy = y - <f64>load<f32>(c, 4);
  const cpz = z - <f64>load<f32>(c, 8);
  const d5 = abx * cpx + aby * cpy + abz * cpz;
  const d6 = acx * cpx + acy * cpy + acz * cpz;
  if (d6 >= 0 && d5 <= d6) return cpx * cpx + cpy * cpy + cpz * cpz;
  const vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) {
    const w = d2 / (d2 - d6);
    return square(apx - acx * w, apy - acy * w, apz - acz * w);
  }
  const va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const w = (d4 - d3) / (d4 - d3 + (d5 - d6));
    const v = 1 - w;
    return square(apx - abx * v - acx * w, apy - aby * v - acy * w, apz - abz * v - acz * w);
  }
  const denominator = va + vb + vc;
  if (denominator == 0) return apx * apx + apy * apy + apz * apz;
  const v = vb / denominator;
  const w = vc / denominator;
  return square(apx - abx * v - acx * w, apy - aby * v - acy * w, apz - abz * v - acz * w);
}

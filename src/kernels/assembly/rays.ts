/**
 * Rays through a tree of boxes, four at a time (kernels/rays.ts says how nodes, packets and points lie). A module of its own,
 * with a memory of its own for each scene. The TypeScript twin of every export is in src/kernels/raysTwin.ts. Triangles:
 * Möller and Trumbore, Fast, minimum storage ray/triangle intersection, 1997. Boxes: slabs, widened as in Ize, Robust BVH ray
 * traversal, 2013, so that rounding never loses a hit.
 */

const NODE: usize = 64;
const PACKET: usize = 160;
const LEAF: u32 = 0x80000000;
/** How far a hit may lie outside of a triangle, in shares of it: or rays would slip through where two meet. */
const EDGE: f32 = 1e-6;
/** 1 + 3 steps of float32. */
const WIDER: f32 = 1.0000004;
/** Where the stack lies: nodes to be gone into, 4 bytes each, and how far away they are, 4 each. 64 levels × 3 are 1.5 KiB. */
const STACK: usize = 4096;
const LANES: usize = 8064;
const POINT: usize = 48;

let nodes: usize = 0;
let packets: usize = 0;

export function scene(atNodes: usize, atPackets: usize): void {
  nodes = atNodes;
  packets = atPackets;
  blocker = 0;
  struck = 0;
}

// What the nearest of several found last.
let entries: v128 = i32x4.splat(0);
let u4: v128 = i32x4.splat(0);
let v4: v128 = i32x4.splat(0);
let t4: v128 = i32x4.splat(0);
let hitT: f32 = 0;
let hitU: f32 = 0;
let hitV: f32 = 0;
let hitFace: u32 = 0;

// @ts-ignore: decorator
@inline
function quanta(at: usize): v128 {
  return f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(at))));
}

// @ts-ignore: decorator
@inline
function inverse(d: f32): f32 {
  return <f32>1 / (abs(d) < <f32>1e-20 ? (d < 0 ? <f32>-1e-20 : <f32>1e-20) : d);
}

/** Where a node's low sides stand, as a ray comes to them: those of an axis that it runs down are the high ones. */
// @ts-ignore: decorator
@inline
function nearSide(inverse: f32, low: usize): usize {
  return inverse < 0 ? low + 12 : low;
}

/**
 * Which of a node's four boxes a ray meets between two distances; with `keep`, `entries` says where it enters them. i: one over
 * its direction; s: the sides that it comes to first.
 */
// @ts-ignore: decorator
@inline
function boxesOf(
  at: usize,
  ox: f32,
  oy: f32,
  oz: f32,
  ix: f32,
  iy: f32,
  iz: f32,
  xs: usize,
  ys: usize,
  zs: usize,
  near: v128,
  far: v128,
  keep: bool,
): i32 {
  const sx = f32x4.splat(load<f32>(at, 12) * ix);
  const sy = f32x4.splat(load<f32>(at, 16) * iy);
  const sz = f32x4.splat(load<f32>(at, 20) * iz);
  const bx = f32x4.splat((load<f32>(at) - ox) * ix);
  const by = f32x4.splat((load<f32>(at, 4) - oy) * iy);
  const bz = f32x4.splat((load<f32>(at, 8) - oz) * iz);
  const nx = f32x4.add(f32x4.mul(quanta(at + xs), sx), bx);
  const ny = f32x4.add(f32x4.mul(quanta(at + ys), sy), by);
  const nz = f32x4.add(f32x4.mul(quanta(at + zs), sz), bz);
  const fx = f32x4.add(f32x4.mul(quanta(at + 60 - xs), sx), bx);
  const fy = f32x4.add(f32x4.mul(quanta(at + 68 - ys), sy), by);
  const fz = f32x4.add(f32x4.mul(quanta(at + 76 - zs), sz), bz);
  const enter = f32x4.pmax(f32x4.pmax(nx, ny), f32x4.pmax(nz, near));
  const leave = f32x4.mul(f32x4.pmin(f32x4.pmin(fx, fy), fz), f32x4.splat(WIDER));
  if (keep) entries = enter;
  return i32x4.bitmask(f32x4.le(enter, f32x4.pmin(leave, far)));
}

/**
 * Which of a packet's four triangles a ray hits between two distances; with `keep`, u4, v4 and t4 say where. `cull`: only from
 * their front.
 */
// @ts-ignore: decorator
@inline
function hitsOf(
  at: usize,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  near: v128,
  far: v128,
  cull: i32,
  keep: bool,
): i32 {
  const e1x = v128.load(at, 48);
  const e1y = v128.load(at, 64);
  const e1z = v128.load(at, 80);
  const e2x = v128.load(at, 96);
  const e2y = v128.load(at, 112);
  const e2z = v128.load(at, 128);
  const px = f32x4.sub(f32x4.mul(dy, e2z), f32x4.mul(dz, e2y));
  const py = f32x4.sub(f32x4.mul(dz, e2x), f32x4.mul(dx, e2z));
  const pz = f32x4.sub(f32x4.mul(dx, e2y), f32x4.mul(dy, e2x));
  const det = f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz));
  const inv = f32x4.div(f32x4.splat(1), det);
  const sx = f32x4.sub(ox, v128.load(at));
  const sy = f32x4.sub(oy, v128.load(at, 16));
  const sz = f32x4.sub(oz, v128.load(at, 32));
  const u = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(sx, px), f32x4.mul(sy, py)), f32x4.mul(sz, pz)), inv);
  const qx = f32x4.sub(f32x4.mul(sy, e1z), f32x4.mul(sz, e1y));
  const qy = f32x4.sub(f32x4.mul(sz, e1x), f32x4.mul(sx, e1z));
  const qz = f32x4.sub(f32x4.mul(sx, e1y), f32x4.mul(sy, e1x));
  const v = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(dx, qx), f32x4.mul(dy, qy)), f32x4.mul(dz, qz)), inv);
  const t = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)), inv);
  const low = f32x4.splat(-EDGE);
  let yes = v128.and(v128.and(f32x4.ge(u, low), f32x4.ge(v, low)), f32x4.le(f32x4.add(u, v), f32x4.splat(<f32>1 + EDGE)));
  yes = v128.and(yes, v128.and(f32x4.gt(t, near), f32x4.le(t, far)));
  if (cull) yes = v128.and(yes, f32x4.gt(det, f32x4.splat(0)));
  if (keep) {
    u4 = u;
    v4 = v;
    t4 = t;
  }
  return i32x4.bitmask(yes);
}

/** The packet that blocked a ray last, 0: none. Rays of one point are often blocked by the same one: it is asked first. */
let blocker: usize = 0;

/** Whether anything lies on the ray up to a distance. */
function blocked(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, reach: f32, cull: i32): bool {
  const near = f32x4.splat(0);
  const far = f32x4.splat(reach);
  const ix = inverse(dx);
  const iy = inverse(dy);
  const iz = inverse(dz);
  const xs = nearSide(ix, 24);
  const ys = nearSide(iy, 28);
  const zs = nearSide(iz, 32);
  const ox4 = f32x4.splat(ox);
  const oy4 = f32x4.splat(oy);
  const oz4 = f32x4.splat(oz);
  const dx4 = f32x4.splat(dx);
  const dy4 = f32x4.splat(dy);
  const dz4 = f32x4.splat(dz);
  if (blocker != 0 && hitsOf(blocker, ox4, oy4, oz4, dx4, dy4, dz4, near, far, cull, false) != 0) return true;
  let top = STACK;
  let node = nodes;
  while (true) {
    let met = boxesOf(node, ox, oy, oz, ix, iy, iz, xs, ys, zs, near, far, false);
    // One of the children is gone into at once, the others wait.
    let next: u32 = 0;
    while (met != 0) {
      const child = load<u32>(node + (<usize>ctz(met) << 2), 48);
      met &= met - 1;
      if ((child & LEAF) == 0) {
        if (next != 0) {
          store<u32>(top, next);
          top += 4;
        }
        next = child;
      } else {
        const packet = packets + <usize>(child ^ LEAF) * PACKET;
        if (hitsOf(packet, ox4, oy4, oz4, dx4, dy4, dz4, near, far, cull, false) == 0) continue;
        blocker = packet;
        return true;
      }
    }
    if (next == 0) {
      if (top == STACK) return false;
      top -= 4;
      next = load<u32>(top);
    }
    node = nodes + <usize>next * NODE;
  }
}

/** The packet that the nearest hit of the last ray lay in, 0: none. The next one often ends there too: then it sees no further. */
let struck: usize = 0;

/** Of a packet's hits (u4, v4, t4) that which is nearer than what was found so far. */
function keepNearest(at: usize, hits: i32): void {
  v128.store(LANES, t4, 16);
  v128.store(LANES, u4, 32);
  v128.store(LANES, v4, 48);
  while (hits != 0) {
    const k = LANES + (<usize>ctz(hits) << 2);
    hits &= hits - 1;
    const t = load<f32>(k, 16);
    const face = load<u32>(at + (k - LANES), 144);
    if (t < hitT || (t == hitT && face < hitFace)) {
      hitT = t;
      hitFace = face;
      hitU = load<f32>(k, 32);
      hitV = load<f32>(k, 48);
      struck = at;
    }
  }
}

/** The nearest hit between two distances: hitT, hitU, hitV, hitFace. Of several at one distance, that of the lowest face. */
function nearest(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, from: f32, to: f32, cull: i32): bool {
  const near = f32x4.splat(from);
  let far = f32x4.splat(to);
  const ix = inverse(dx);
  const iy = inverse(dy);
  const iz = inverse(dz);
  const xs = nearSide(ix, 24);
  const ys = nearSide(iy, 28);
  const zs = nearSide(iz, 32);
  const ox4 = f32x4.splat(ox);
  const oy4 = f32x4.splat(oy);
  const oz4 = f32x4.splat(oz);
  const dx4 = f32x4.splat(dx);
  const dy4 = f32x4.splat(dy);
  const dz4 = f32x4.splat(dz);
  hitT = to;
  hitFace = 0xffffffff;
  if (struck != 0) {
    const hits = hitsOf(struck, ox4, oy4, oz4, dx4, dy4, dz4, near, far, cull, true);
    if (hits != 0) {
      keepNearest(struck, hits);
      far = f32x4.splat(hitT);
    }
  }
  let top = STACK;
  let node = nodes;
  while (true) {
    let met = boxesOf(node, ox, oy, oz, ix, iy, iz, xs, ys, zs, near, far, true);
    v128.store(LANES, entries);
    const first = top;
    while (met != 0) {
      const lane = <usize>ctz(met) << 2;
      met &= met - 1;
      const child = load<u32>(node + lane, 48);
      if ((child & LEAF) != 0) {
        const at = packets + <usize>(child ^ LEAF) * PACKET;
        const hits = hitsOf(at, ox4, oy4, oz4, dx4, dy4, dz4, near, far, cull, true);
        if (hits == 0) continue;
        keepNearest(at, hits);
        far = f32x4.splat(hitT);
        continue;
      }
      // Sorted in: the nearest is gone into first.
      const entry = load<f32>(LANES + lane);
      let at = top;
      while (at > first && load<f32>(at - 8, 4) < entry) {
        store<u64>(at, load<u64>(at - 8));
        at -= 8;
      }
      store<u32>(at, child);
      store<f32>(at, entry, 4);
      top += 8;
    }
    do {
      if (top == STACK) return hitFace != 0xffffffff;
      top -= 8;
    } while (load<f32>(top, 4) > hitT);
    node = nodes + <usize>load<u32>(top) * NODE;
  }
}

// Directions square to the one of the point at work (Duff et al., Building an orthonormal basis, revisited, 2017).
let ax: f32 = 0;
let ay: f32 = 0;
let az: f32 = 0;
let bx: f32 = 0;
let by: f32 = 0;
let bz: f32 = 0;

// @ts-ignore: decorator
@inline
function frame(x: f32, y: f32, z: f32): void {
  const sign: f32 = z < 0 ? -1 : 1;
  const a = <f32>-1 / (sign + z);
  const b = x * y * a;
  ax = <f32>1 + sign * x * x * a;
  ay = sign * b;
  az = -sign * x;
  bx = b;
  by = sign + y * y * a;
  bz = -y;
}

/**
 * Of each point the share of the directions around its normal that are open up to `reach`, and the mean of the open ones (4 ×
 * float32). `directions`: `sets` × `samples` × 3, around Z. Those that go under the face's own plane do not count.
 */
export function occlusion(
  points: usize,
  count: i32,
  directions: usize,
  sets: u32,
  samples: i32,
  turns: usize,
  reach: f32,
  bias: f32,
  cull: i32,
  out: usize,
): void {
  for (let n = 0; n < count; n++, points += POINT, out += 16) {
    const nx = load<f32>(points, 12);
    const ny = load<f32>(points, 16);
    const nz = load<f32>(points, 20);
    const gx = load<f32>(points, 24);
    const gy = load<f32>(points, 28);
    const gz = load<f32>(points, 32);
    const seed = load<u32>(points, 36);
    const ox = load<f32>(points) + gx * bias;
    const oy = load<f32>(points, 4) + gy * bias;
    const oz = load<f32>(points, 8) + gz * bias;
    frame(nx, ny, nz);
    blocker = 0;
    const turn = turns + <usize>((seed >> 8) & 255) * 8;
    const cos = load<f32>(turn);
    const sin = load<f32>(turn, 4);
    let at = directions + <usize>((seed & 255) % sets) * <usize>samples * 12;
    let open: i32 = 0;
    let all: i32 = 0;
    let sumX: f32 = 0;
    let sumY: f32 = 0;
    let sumZ: f32 = 0;
    for (let k = 0; k < samples; k++, at += 12) {
      const lx = load<f32>(at);
      const ly = load<f32>(at, 4);
      const z = load<f32>(at, 8);
      const x = lx * cos - ly * sin;
      const y = lx * sin + ly * cos;
      const dx = ax * x + bx * y + nx * z;
      const dy = ay * x + by * y + ny * z;
      const dz = az * x + bz * y + nz * z;
      if (dx * gx + dy * gy + dz * gz <= 0) continue;
      all++;
      if (blocked(ox, oy, oz, dx, dy, dz, reach, cull)) continue;
      open++;
      sumX += dx;
      sumY += dy;
      sumZ += dz;
    }
    const share: f32 = all > 0 ? <f32>open / <f32>all : 1;
    const one: f32 = open > 0 ? <f32>1 / <f32>open : 0;
    store<f32>(out, share);
    store<f32>(out, sumX * one, 4);
    store<f32>(out, sumY * one, 8);
    store<f32>(out, sumZ * one, 12);
  }
}

/** Of each point the mean way that rays go inwards, around its normal turned round, until they come out; `reach` where they do not. */
export function depth(
  points: usize,
  count: i32,
  directions: usize,
  sets: u32,
  samples: i32,
  turns: usize,
  reach: f32,
  bias: f32,
  out: usize,
): void {
  for (let n = 0; n < count; n++, points += POINT, out += 4) {
    const nx = -load<f32>(points, 12);
    const ny = -load<f32>(points, 16);
    const nz = -load<f32>(points, 20);
    const gx = -load<f32>(points, 24);
    const gy = -load<f32>(points, 28);
    const gz = -load<f32>(points, 32);
    const seed = load<u32>(points, 36);
    const ox = load<f32>(points) + gx * bias;
    const oy = load<f32>(points, 4) + gy * bias;
    const oz = load<f32>(points, 8) + gz * bias;
    frame(nx, ny, nz);
    const turn = turns + <usize>((seed >> 8) & 255) * 8;
    const cos = load<f32>(turn);
    const sin = load<f32>(turn, 4);
    let at = directions + <usize>((seed & 255) % sets) * <usize>samples * 12;
    let all: i32 = 0;
    let sum: f32 = 0;
    for (let k = 0; k < samples; k++, at += 12) {
      const lx = load<f32>(at);
      const ly = load<f32>(at, 4);
      const z = load<f32>(at, 8);
      const x = lx * cos - ly * sin;
      const y = lx * sin + ly * cos;
      const dx = ax * x + bx * y + nx * z;
      const dy = ay * x + by * y + ny * z;
      const dz = az * x + bz * y + nz * z;
      if (dx * gx + dy * gy + dz * gz <= 0) continue;
      all++;
      nearest(ox, oy, oz, dx, dy, dz, 0, reach, 0);
      sum += hitT;
    }
    store<f32>(out, all > 0 ? sum / <f32>all : reach);
  }
}

/** Of each ray (8 × float32: from, direction, near, far) its nearest hit: distance, two weights, face; −1 where there is none. */
export function hits(rays: usize, count: i32, cull: i32, out: usize): void {
  for (let n = 0; n < count; n++, rays += 32, out += 16) {
    const ox = load<f32>(rays);
    const oy = load<f32>(rays, 4);
    const oz = load<f32>(rays, 8);
    const dx = load<f32>(rays, 12);
    const dy = load<f32>(rays, 16);
    const dz = load<f32>(rays, 20);
    const hit = nearest(ox, oy, oz, dx, dy, dz, load<f32>(rays, 24), load<f32>(rays, 28), cull);
    store<f32>(out, hit ? hitT : -1);
    store<f32>(out, hit ? hitU : 0, 4);
    store<f32>(out, hit ? hitV : 0, 8);
    store<u32>(out, hitFace, 12);
  }
}

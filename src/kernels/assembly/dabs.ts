/** Dabs in a tile of 128 × 128 float32: each texel raised to what the tip gives there (kernels/dabs.ts). */
import { F0, F1 } from './constants';
import { fallen, FALLOFF_STEPS, tipShares } from './tips';

const LANES_AT = memory.data<f32>([0, 1, 2, 3], 16);

const FACING_FULL: f32 = -0.1;
const FACING_NONE: f32 = -0.5;
const PLANES_FULL: f32 = -0.6;
const PLANES_NONE: f32 = -0.85;

/** 0, 1, 2, 3. */
// @ts-ignore: decorator
@inline
export function LANES(): v128 {
  return v128.load(LANES_AT);
}

/** In the flat sheet: from the tip's middle to that of the tile's first texel, and u = a·x + b·y, v = c·x + d·y. false: nothing. */
export function dabInSheet(
  out: usize,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  tip: usize,
  dx: f32,
  dy: f32,
  a: f32,
  b: f32,
  c: f32,
  d: f32,
): bool {
  let gives = F0();
  const lanes = LANES();
  const va = f32x4.splat(a);
  const vc = f32x4.splat(c);
  const mostU = load<f32>(tip, 60);
  const mostV = load<f32>(tip, 64);
  const falloff = load<usize>(tip, 4);
  const round = load<i32>(tip) == 0 && load<usize>(tip, 24) == 0;
  for (let y = y0; y < y1; y++) {
    const fy = dy + <f32>y;
    const bu = fy * b;
    const bv = fy * d;
    // Columns where the tip can give anything, and some more: what lies outside of |u| and |v| is left out.
    let low = <f32>x0;
    let high = <f32>x1;
    if (a != 0) {
      const s = (-mostU - bu) / a - dx;
      const t = (mostU - bu) / a - dx;
      low = max(low, min(s, t) - 1);
      high = min(high, max(s, t) + 2);
    } else if (abs(bu) > mostU) continue;
    if (c != 0) {
      const s = (-mostV - bv) / c - dx;
      const t = (mostV - bv) / c - dx;
      low = max(low, min(s, t) - 1);
      high = min(high, max(s, t) + 2);
    } else if (abs(bv) > mostV) continue;
    if (!(low < high)) continue;
    const end = <i32>high;
    const row = out + (<usize>(y << 7) << 2);
    if (round) gives = v128.or(gives, roundRow(row, <i32>low & ~3, end, x0, x1, falloff, dx, a, bu, c, bv));
    else {
      const vu = f32x4.splat(bu);
      const vv = f32x4.splat(bv);
      for (let x = <i32>low & ~3; x < end; x += 4) {
        const fx = f32x4.add(f32x4.splat(dx), f32x4.add(f32x4.splat(<f32>x), lanes));
        let share = tipShares(tip, f32x4.add(f32x4.mul(fx, va), vu), f32x4.add(f32x4.mul(fx, vc), vv), F0());
        if (x < x0 || x + 4 > x1) share = v128.and(share, within(x, x0, x1));
        gives = v128.or(gives, share);
        const at = row + (<usize>x << 2);
        v128.store(at, f32x4.pmax(v128.load(at), share));
      }
    }
  }
  return v128.any_true(gives);
}

/** A row of a round tip without a texture, which most are. Bits of what it gives, all together. */
// @ts-ignore: decorator
@inline
function roundRow(
  row: usize,
  first: i32,
  end: i32,
  x0: i32,
  x1: i32,
  falloff: usize,
  dx: f32,
  a: f32,
  bu: f32,
  c: f32,
  bv: f32,
): v128 {
  let gives = F0();
  const one = F1();
  const steps = f32x4.splat(<f32>FALLOFF_STEPS);
  const va = f32x4.splat(a);
  const vc = f32x4.splat(c);
  const vu = f32x4.splat(bu);
  const vv = f32x4.splat(bv);
  const four = f32x4.splat(4);
  let column = f32x4.add(f32x4.splat(<f32>first), LANES());
  const vx = f32x4.splat(dx);
  for (let x = first; x < end; x += 4) {
    const fx = f32x4.add(vx, column);
    column = f32x4.add(column, four);
    const u = f32x4.add(f32x4.mul(fx, va), vu);
    const v = f32x4.add(f32x4.mul(fx, vc), vv);
    const d2 = f32x4.add(f32x4.mul(u, u), f32x4.mul(v, v));
    if (!v128.any_true(f32x4.lt(d2, one))) continue;
    let share = fallen(falloff, f32x4.mul(d2, steps));
    if (x < x0 || x + 4 > x1) share = v128.and(share, within(x, x0, x1));
    gives = v128.or(gives, share);
    const at = row + (<usize>x << 2);
    v128.store(at, f32x4.pmax(v128.load(at), share));
  }
  return gives;
}

/** Which of four columns from x on lie in x0 … x1. */
// @ts-ignore: decorator
@inline
export function within(x: i32, x0: i32, x1: i32): v128 {
  const column = f32x4.add(f32x4.splat(<f32>x), LANES());
  return v128.and(f32x4.ge(column, f32x4.splat(<f32>x0)), f32x4.lt(column, f32x4.splat(<f32>x1)));
}

/**
 * A dab on the model is a record: 0 f32 x y z, 12 reach², 16 steps of the falloff to a square metre, 20 i32 whether it has a
 * frame, 24 f32 u v w, 60 i32 included, 64 stamp, 68 hidden, 72 normals of faces, 76 bent, 80 f32 its plane's normal, 92 its
 * normal as shaded, 104 the same / 127, 116 its tip, 120 what is known of faces, 124 i32 its number.
 */
let lastFace = -1;
let lastShare: f32 = 0;
let lastBent = false;

function fadeOf(cosine: f32, full: f32, none: f32): f32 {
  const t = max<f32>(0, min<f32>(1, (cosine - none) / (full - none)));
  return t * t * (3 - 2 * t);
}

/** Sets what a face gets, and whether its texels need not be asked for their normals. */
function askFace(dab: usize, face: i32): void {
  lastFace = face;
  lastShare = 0;
  lastBent = false;
  if (face < 0) return;
  // What is known of this dab already: its number, and the share, below 0 where it is bent.
  const known = load<usize>(dab, 120) + (<usize>face << 3);
  if (load<i32>(known) == load<i32>(dab, 124)) {
    lastShare = load<f32>(known, 4);
    lastBent = lastShare < 0;
    if (lastBent) lastShare = -lastShare;
    return;
  }
  store<i32>(known, load<i32>(dab, 124));
  store<f32>(known, 0, 4);
  const included = load<i32>(dab, 60);
  if (included == 0) {
    if (load<u8>(load<usize>(dab, 68) + <usize>face)) return;
  } else if (load<i32>(load<usize>(dab, 64) + (<usize>face << 2)) != included) return;
  const n = load<usize>(dab, 72) + <usize>face * 12;
  const x = load<f32>(n);
  const y = load<f32>(n, 4);
  const z = load<f32>(n, 8);
  const planes = x * load<f32>(dab, 80) + y * load<f32>(dab, 84) + z * load<f32>(dab, 88);
  lastShare = fadeOf(planes, PLANES_FULL, PLANES_NONE);
  lastBent = lastShare > 0 && load<u8>(load<usize>(dab, 76) + <usize>face) != 0;
  store<f32>(known, lastShare, 4);
  if (!lastBent) return;
  const shaded = x * load<f32>(dab, 92) + y * load<f32>(dab, 96) + z * load<f32>(dab, 100);
  lastShare = min<f32>(lastShare, fadeOf(shaded, FACING_FULL, FACING_NONE));
  store<f32>(known, -lastShare, 4);
}

/** One of three int8 each of four texels, 3 apart, as f32. */
// @ts-ignore: decorator
@inline
export function signed(top: v128): v128 {
  return f32x4.convert_i32x4_s(i32x4.shr_s(top, 24));
}

/**
 * On the model: blocks of 8 × 8 texels, which are given as numbers in the tile. `touched`: four i32, a rectangle that grows
 * by the blocks where it gives something.
 */
export function dabOnSurface(
  out: usize,
  position: usize,
  normal: usize,
  faces: usize,
  cones: usize,
  blocks: usize,
  count: i32,
  dab: usize,
  touched: usize,
): void {
  lastFace = -1;
  lastShare = 0;
  lastBent = false;
  for (let n = 0; n < count; n++) {
    const b = load<i32>(blocks + (<usize>n << 2));
    const column = (b & 15) << 3;
    const top = (b >> 4) << 3;
    const turned = mayTurn(cones + (<usize>b << 4), dab) ? normal : 0;
    if (!inBlock(out, position, turned, faces, (top << 7) + column, dab)) continue;
    store<i32>(touched, min(load<i32>(touched), column));
    store<i32>(touched, min(load<i32>(touched, 4), top), 4);
    store<i32>(touched, max(load<i32>(touched, 8), column + 8), 8);
    store<i32>(touched, max(load<i32>(touched, 12), top + 8), 12);
  }
}

/** Whether a normal in the cone may be turned so far from the dab's that it gets less than all; rounding left aside. */
function mayTurn(cone: usize, dab: usize): bool {
  const cosine = load<f32>(cone) * load<f32>(dab, 92) + load<f32>(cone, 4) * load<f32>(dab, 96) + load<f32>(cone, 8) * load<f32>(dab, 100);
  const wide = load<f32>(cone, 12);
  const across = sqrt(max<f32>(0, 1 - cosine * cosine) * max<f32>(0, 1 - wide * wide));
  // Of the sum of both angles. Lengths of eight bits are off by a hundredth.
  return !(wide > 0 && cosine * wide - across > FACING_FULL + 0.03);
}

/** `normal`: 0 where none need be asked. */
function inBlock(out: usize, position: usize, normal: usize, faces: usize, first: i32, dab: usize): bool {
  const x = v128.load_splat<f32>(dab);
  const y = v128.load_splat<f32>(dab, 4);
  const z = v128.load_splat<f32>(dab, 8);
  const reach2 = v128.load_splat<f32>(dab, 12);
  const scale = v128.load_splat<f32>(dab, 16);
  const framed = load<i32>(dab, 20);
  const tip = load<usize>(dab, 116);
  const falloff = load<usize>(tip, 4);
  let gives = false;
  for (let n = 0; n < 16; n++) {
    const i = <usize>(first + ((n >> 1) << 7) + ((n & 1) << 2));
    const p = position + i * 12;
    // x0 y0 z0 x1 | y1 z1 x2 y2 | z2 x3 y3 z3
    const p0 = v128.load(p);
    const p1 = v128.load(p, 16);
    const p2 = v128.load(p, 32);
    const dx = f32x4.sub(v128.shuffle<i32>(v128.shuffle<i32>(p0, p1, 0, 3, 6, 6), p2, 0, 1, 2, 5), x);
    const dy = f32x4.sub(v128.shuffle<i32>(v128.shuffle<i32>(p0, p1, 1, 4, 7, 7), p2, 0, 1, 2, 6), y);
    const dz = f32x4.sub(v128.shuffle<i32>(v128.shuffle<i32>(p0, p1, 2, 5, 5, 5), p2, 0, 1, 4, 7), z);
    const d2 = f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz));
    // Also false for NaN, which is where no face is.
    const near = f32x4.lt(d2, reach2);
    if (!v128.any_true(near)) continue;
    const four = v128.load(faces + (i << 2));
    const f0 = i32x4.extract_lane(four, 0);
    let share: v128;
    let bent: v128;
    if (i32x4.all_true(i32x4.eq(four, i32x4.splat(f0)))) {
      if (f0 != lastFace) askFace(dab, f0);
      if (lastShare == 0) continue;
      share = f32x4.splat(lastShare);
      bent = i32x4.splat(lastBent ? -1 : 0);
    } else {
      if (f0 != lastFace) askFace(dab, f0);
      share = f32x4.splat(lastShare);
      bent = i32x4.splat(lastBent ? -1 : 0);
      const f1 = i32x4.extract_lane(four, 1);
      if (f1 != lastFace) askFace(dab, f1);
      share = f32x4.replace_lane(share, 1, lastShare);
      bent = i32x4.replace_lane(bent, 1, lastBent ? -1 : 0);
      const f2 = i32x4.extract_lane(four, 2);
      if (f2 != lastFace) askFace(dab, f2);
      share = f32x4.replace_lane(share, 2, lastShare);
      bent = i32x4.replace_lane(bent, 2, lastBent ? -1 : 0);
      const f3 = i32x4.extract_lane(four, 3);
      if (f3 != lastFace) askFace(dab, f3);
      share = f32x4.replace_lane(share, 3, lastShare);
      bent = i32x4.replace_lane(bent, 3, lastBent ? -1 : 0);
      if (!v128.any_true(share)) continue;
    }
    if (normal) {
      // Twelve bytes, and four more that are let be.
      const bytes = v128.load(normal + i * 3);
      const nx = signed(v128.shuffle<i8>(bytes, bytes, 0, 0, 0, 0, 3, 3, 3, 3, 6, 6, 6, 6, 9, 9, 9, 9));
      const ny = signed(v128.shuffle<i8>(bytes, bytes, 1, 1, 1, 1, 4, 4, 4, 4, 7, 7, 7, 7, 10, 10, 10, 10));
      const nz = signed(v128.shuffle<i8>(bytes, bytes, 2, 2, 2, 2, 5, 5, 5, 5, 8, 8, 8, 8, 11, 11, 11, 11));
      const cosine = f32x4.add(
        f32x4.add(f32x4.mul(nx, v128.load_splat<f32>(dab, 104)), f32x4.mul(ny, v128.load_splat<f32>(dab, 108))),
        f32x4.mul(nz, v128.load_splat<f32>(dab, 112)),
      );
      const turned = v128.andnot(f32x4.lt(cosine, f32x4.splat(FACING_FULL)), bent);
      if (v128.any_true(turned)) {
        const none = f32x4.splat(FACING_NONE);
        const over = f32x4.div(f32x4.sub(cosine, none), f32x4.splat(FACING_FULL - FACING_NONE));
        const t = f32x4.pmax(F0(), f32x4.pmin(F1(), over));
        const round = f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.mul(f32x4.splat(2), t)));
        share = f32x4.pmin(share, v128.bitselect(round, F1(), turned));
      }
    }
    let given: v128;
    if (framed) {
      const u = across(dab + 24, dx, dy, dz);
      const v = across(dab + 36, dx, dy, dz);
      const w = across(dab + 48, dx, dy, dz);
      given = tipShares(tip, u, v, w);
    } else given = fallen(falloff, f32x4.mul(d2, scale));
    given = v128.and(f32x4.mul(share, given), near);
    if (!v128.any_true(f32x4.gt(given, F0()))) continue;
    gives = true;
    const at = out + (i << 2);
    v128.store(at, f32x4.pmax(v128.load(at), given));
  }
  return gives;
}

// @ts-ignore: decorator
@inline
function across(by: usize, x: v128, y: v128, z: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(x, v128.load_splat<f32>(by)), f32x4.mul(y, v128.load_splat<f32>(by, 4))),
    f32x4.mul(z, v128.load_splat<f32>(by, 8)),
  );
}

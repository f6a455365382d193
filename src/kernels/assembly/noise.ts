/**
 * Lattice noise in SIMD, four points at a time. The TypeScript twin of every export is in src/kernels/noiseTwin.ts.
 *
 * Gradient noise: K. Perlin, "Improving Noise", SIGGRAPH 2002 (twelve edge directions, quintic fade), with an integer
 * hash in place of his table, so that every seed has a noise of its own. Cellular noise: S. Worley, "A Cellular
 * Texture Basis Function", SIGGRAPH 1996, one point a cell.
 *
 * Memory: coordinates are three planes of float32, `n` numbers each, a multiple of 4. An octave is a record of
 * 8 words: float32 frequency x, y, z; int32 period x, y, z (0: none); float32 amplitude; int32 seed.
 */

import { cellBits } from './cells';

/**
 * Constants are read from memory (blend.ts says why): each is four times the same number.
 */
const HASH1 = memory.data<i32>([0x7feb352d, 0x7feb352d, 0x7feb352d, 0x7feb352d], 16);
const HASH2 = memory.data<i32>([0x846ca68b, 0x846ca68b, 0x846ca68b, 0x846ca68b], 16);
const STIR = memory.data<i32>([0x2c1b3c6d, 0x2c1b3c6d, 0x2c1b3c6d, 0x2c1b3c6d], 16);
const WHOLE_BITS = memory.data<i32>([0x4b400000, 0x4b400000, 0x4b400000, 0x4b400000], 16);
const SIGN = memory.data<i32>([0x80000000, 0x80000000, 0x80000000, 0x80000000], 16);
const KX = memory.data<i32>([0x9e3779b1, 0x9e3779b1, 0x9e3779b1, 0x9e3779b1], 16);
const KY = memory.data<i32>([0x85ebca77, 0x85ebca77, 0x85ebca77, 0x85ebca77], 16);
const KZ = memory.data<i32>([0xc2b2ae3d, 0xc2b2ae3d, 0xc2b2ae3d, 0xc2b2ae3d], 16);
/** `cellBits` for four coordinates. */
const BELOW_ZERO = memory.data<i32>([0x35a6b8c1, 0x35a6b8c1, 0x35a6b8c1, 0x35a6b8c1], 16);
const WHOLE = memory.data<f32>([12582912.0, 12582912.0, 12582912.0, 12582912.0], 16);
const SIX = memory.data<f32>([6.0, 6.0, 6.0, 6.0], 16);
const FIFTEEN = memory.data<f32>([15.0, 15.0, 15.0, 15.0], 16);
const TEN = memory.data<f32>([10.0, 10.0, 10.0, 10.0], 16);
const ONE = memory.data<f32>([1.0, 1.0, 1.0, 1.0], 16);
const HALF = memory.data<f32>([0.5, 0.5, 0.5, 0.5], 16);
const UNIT = memory.data<f32>([5.9604644775390625e-8, 5.9604644775390625e-8, 5.9604644775390625e-8, 5.9604644775390625e-8], 16);

// @ts-ignore: decorator
@inline
function constant(at: usize): v128 {
  return v128.load(at);
}

// @ts-ignore: decorator
@inline const OCTAVE_BYTES: usize = 32;

// @ts-ignore: decorator
@inline
function one(): v128 {
  return constant(ONE);
}

/** Finaliser "lowbias32" by C. Wellons (public domain): every bit of the input reaches every bit of the output. */
// @ts-ignore: decorator
@inline
function scramble(h: v128): v128 {
  h = v128.xor(h, i32x4.shr_u(h, 16));
  h = i32x4.mul(h, constant(HASH1));
  h = v128.xor(h, i32x4.shr_u(h, 15));
  h = i32x4.mul(h, constant(HASH2));
  return v128.xor(h, i32x4.shr_u(h, 16));
}

/**
 * A lighter hash for the lattices, whose coordinates come multiplied already: only its upper bits are good, and only
 * they are used. Measured: a third quicker than `scramble`, and no pattern seen or found in the spectrum.
 */
// @ts-ignore: decorator
@inline
function stir(h: v128): v128 {
  h = v128.xor(h, i32x4.shr_u(h, 15));
  h = i32x4.mul(h, constant(STIR));
  return v128.xor(h, i32x4.shr_u(h, 14));
}

/** i mod p, 0 ≤ … < p, for floats that hold whole numbers; p = 0: as it is. Exact up to 2²⁴. */
// @ts-ignore: decorator
@inline
function wrapped(i: v128, p: i32): v128 {
  if (p == 0) return i;
  const period = f32x4.splat(<f32>p);
  return f32x4.sub(i, f32x4.mul(f32x4.floor(f32x4.div(f32x4.add(i, constant(HALF)), period)), period));
}

/** Whole numbers of floats below 2²² as integers: the low bits of what is left when 1.5 · 2²³ is added. Measured a quarter quicker than the saturating conversion. */
// @ts-ignore: decorator
@inline
function whole(i: v128): v128 {
  return i32x4.sub(f32x4.add(i, constant(WHOLE)), constant(WHOLE_BITS));
}

// @ts-ignore: decorator
@inline
function product(i: v128, k: usize): v128 {
  const w = whole(i);
  return i32x4.mul(v128.xor(w, v128.and(i32x4.shr_s(w, 31), constant(BELOW_ZERO))), constant(k));
}

/** The directions along x, y and z by the upper four bits of a hash: the highest byte of 0.5, −0.5 or 0. */
const ALONG_X = memory.data<u8>([0x3f, 0xbf, 0x3f, 0xbf, 0x3f, 0xbf, 0x3f, 0xbf, 0, 0, 0, 0, 0x3f, 0, 0xbf, 0], 16);
const ALONG_Y = memory.data<u8>([0x3f, 0x3f, 0xbf, 0xbf, 0, 0, 0, 0, 0x3f, 0xbf, 0x3f, 0xbf, 0x3f, 0xbf, 0x3f, 0xbf], 16);
const ALONG_Z = memory.data<u8>([0, 0, 0, 0, 0x3f, 0x3f, 0xbf, 0xbf, 0x3f, 0x3f, 0xbf, 0xbf, 0, 0x3f, 0, 0xbf], 16);
const TOP4 = memory.data<i32>([0x0f000000, 0x0f000000, 0x0f000000, 0x0f000000], 16);
const OUTSIDE = memory.data<i32>([0x00ffffff, 0x00ffffff, 0x00ffffff, 0x00ffffff], 16);

/**
 * Half of one of twelve edge directions (four of them twice) · (x, y, z). Looked up by the byte, which takes half the instructions of
 * choosing by masks, and gives the same bits: what is added is 0.
 */
// @ts-ignore: decorator
@inline
function slope(h: v128, x: v128, y: v128, z: v128): v128 {
  const at = v128.or(v128.and(i32x4.shr_u(h, 4), constant(TOP4)), constant(OUTSIDE));
  const ax = f32x4.mul(i8x16.swizzle(constant(ALONG_X), at), x);
  const ay = f32x4.mul(i8x16.swizzle(constant(ALONG_Y), at), y);
  const az = f32x4.mul(i8x16.swizzle(constant(ALONG_Z), at), z);
  return f32x4.add(f32x4.add(ax, ay), az);
}

/** `stir` as far as `slope` looks at it: what is left out does not reach the upper bits. */
// @ts-ignore: decorator
@inline
function stirTop(h: v128): v128 {
  return i32x4.mul(v128.xor(h, i32x4.shr_u(h, 15)), constant(STIR));
}

// @ts-ignore: decorator
@inline
function fade(t: v128): v128 {
  const a = f32x4.sub(f32x4.mul(t, constant(SIX)), constant(FIFTEEN));
  const b = f32x4.add(f32x4.mul(t, a), constant(TEN));
  return f32x4.mul(f32x4.mul(f32x4.mul(t, t), t), b);
}

// @ts-ignore: decorator
@inline
function mixed(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(t, f32x4.sub(b, a)));
}

/** Gradient noise, −1 … 1, standard deviation about 0.27. */
// @ts-ignore: decorator
@inline
function gradient(x: v128, y: v128, z: v128, px: i32, py: i32, pz: i32, seed: i32): v128 {
  const ix = f32x4.floor(x);
  const iy = f32x4.floor(y);
  const iz = f32x4.floor(z);
  const fx = f32x4.sub(x, ix);
  const fy = f32x4.sub(y, iy);
  const fz = f32x4.sub(z, iz);
  const gx = f32x4.sub(fx, one());
  const gy = f32x4.sub(fy, one());
  const gz = f32x4.sub(fz, one());
  const s = i32x4.splat(seed);
  const x0 = product(wrapped(ix, px), KX);
  const x1 = product(wrapped(f32x4.add(ix, one()), px), KX);
  const y0 = product(wrapped(iy, py), KY);
  const y1 = product(wrapped(f32x4.add(iy, one()), py), KY);
  const z0 = v128.xor(product(wrapped(iz, pz), KZ), s);
  const z1 = v128.xor(product(wrapped(f32x4.add(iz, one()), pz), KZ), s);
  const u = fade(fx);
  const v = fade(fy);
  const w = fade(fz);
  const y0z0 = v128.xor(y0, z0);
  const y1z0 = v128.xor(y1, z0);
  const y0z1 = v128.xor(y0, z1);
  const y1z1 = v128.xor(y1, z1);
  const a = mixed(slope(stirTop(v128.xor(x0, y0z0)), fx, fy, fz), slope(stirTop(v128.xor(x1, y0z0)), gx, fy, fz), u);
  const b = mixed(slope(stirTop(v128.xor(x0, y1z0)), fx, gy, fz), slope(stirTop(v128.xor(x1, y1z0)), gx, gy, fz), u);
  const c = mixed(slope(stirTop(v128.xor(x0, y0z1)), fx, fy, gz), slope(stirTop(v128.xor(x1, y0z1)), gx, fy, gz), u);
  const d = mixed(slope(stirTop(v128.xor(x0, y1z1)), fx, gy, gz), slope(stirTop(v128.xor(x1, y1z1)), gx, gy, gz), u);
  const half = mixed(mixed(a, b, v), mixed(c, d, v), w);
  return f32x4.add(half, half);
}

/** One of eight directions, (±1, ±2) or (±2, ±1), · (x, y). */
// @ts-ignore: decorator
@inline
function slope2(h: v128, x: v128, y: v128): v128 {
  const first = i32x4.lt_s(h, i32x4.splat(0));
  const u = v128.bitselect(x, y, first);
  const v = v128.bitselect(y, x, first);
  const sign = constant(SIGN);
  const su = v128.and(i32x4.shl(h, 1), sign);
  const sv = v128.and(i32x4.shl(h, 2), sign);
  return f32x4.add(v128.xor(u, su), v128.xor(f32x4.add(v, v), sv));
}

/** Scales plane noise to the standard deviation of noise in space; measured over a million points. */
// @ts-ignore: decorator
@inline const PLANE_SCALE: f32 = 0.563;

/** Gradient noise in a plane: a third of the work. The same range and deviation as in space. */
// @ts-ignore: decorator
@inline
function gradient2(x: v128, y: v128, px: i32, py: i32, seed: i32): v128 {
  const ix = f32x4.floor(x);
  const iy = f32x4.floor(y);
  const fx = f32x4.sub(x, ix);
  const fy = f32x4.sub(y, iy);
  const gx = f32x4.sub(fx, one());
  const gy = f32x4.sub(fy, one());
  const s = i32x4.splat(seed);
  const x0 = product(wrapped(ix, px), KX);
  const x1 = product(wrapped(f32x4.add(ix, one()), px), KX);
  const y0 = v128.xor(product(wrapped(iy, py), KY), s);
  const y1 = v128.xor(product(wrapped(f32x4.add(iy, one()), py), KY), s);
  const u = fade(fx);
  const a = mixed(slope2(stirTop(v128.xor(x0, y0)), fx, fy), slope2(stirTop(v128.xor(x1, y0)), gx, fy), u);
  const b = mixed(slope2(stirTop(v128.xor(x0, y1)), fx, gy), slope2(stirTop(v128.xor(x1, y1)), gx, gy), u);
  return f32x4.mul(mixed(a, b, fade(fy)), f32x4.splat(PLANE_SCALE));
}

// @ts-ignore: decorator
@inline
function shaped(v: v128, mode: i32): v128 {
  if (mode == 1) {
    const w = f32x4.sub(one(), f32x4.abs(v));
    return f32x4.mul(w, w);
  }
  return mode == 2 ? f32x4.abs(v) : v;
}

/** Octaves in the plane of x and y. */
function inPlane(out: usize, px: usize, py: usize, n: i32, octaves: usize, count: i32, mode: i32): void {
  const size = <usize>n << 2;
  for (let i: usize = 0; i < size; i += 16) {
    const x = v128.load(px + i);
    const y = v128.load(py + i);
    let sum = f32x4.splat(0.0);
    let o = octaves;
    for (let k = 0; k < count; k++, o += OCTAVE_BYTES) {
      const ox = f32x4.mul(x, v128.load_splat<f32>(o));
      const oy = f32x4.mul(y, v128.load_splat<f32>(o, 4));
      const v = gradient2(ox, oy, load<i32>(o, 12), load<i32>(o, 16), load<i32>(o, 28));
      sum = f32x4.add(sum, f32x4.mul(shaped(v, mode), v128.load_splat<f32>(o, 24)));
    }
    v128.store(out + i, sum);
  }
}

/** The same directions, whole, by the upper four bits of a hash: x y z, each four times. */
// prettier-ignore
const DIRECTIONS = memory.data<f32>([
  1, 1, 1, 1,  1, 1, 1, 1,  0, 0, 0, 0,
  -1, -1, -1, -1,  1, 1, 1, 1,  0, 0, 0, 0,
  1, 1, 1, 1,  -1, -1, -1, -1,  0, 0, 0, 0,
  -1, -1, -1, -1,  -1, -1, -1, -1,  0, 0, 0, 0,
  1, 1, 1, 1,  0, 0, 0, 0,  1, 1, 1, 1,
  -1, -1, -1, -1,  0, 0, 0, 0,  1, 1, 1, 1,
  1, 1, 1, 1,  0, 0, 0, 0,  -1, -1, -1, -1,
  -1, -1, -1, -1,  0, 0, 0, 0,  -1, -1, -1, -1,
  0, 0, 0, 0,  1, 1, 1, 1,  1, 1, 1, 1,
  0, 0, 0, 0,  -1, -1, -1, -1,  1, 1, 1, 1,
  0, 0, 0, 0,  1, 1, 1, 1,  -1, -1, -1, -1,
  0, 0, 0, 0,  -1, -1, -1, -1,  -1, -1, -1, -1,
  1, 1, 1, 1,  1, 1, 1, 1,  0, 0, 0, 0,
  0, 0, 0, 0,  -1, -1, -1, -1,  1, 1, 1, 1,
  -1, -1, -1, -1,  1, 1, 1, 1,  0, 0, 0, 0,
  0, 0, 0, 0,  -1, -1, -1, -1,  -1, -1, -1, -1,
], 16);

// @ts-ignore: decorator
@inline
function wrapped1(i: f32, p: i32): i32 {
  if (p == 0) return cellBits(<i32>i);
  const period = <f32>p;
  return <i32>(i - floor((i + 0.5) / period) * period);
}

/** Address of the direction at a corner; `stirTop` for one. */
// @ts-ignore: decorator
@inline
function direction(h: i32): usize {
  h ^= h >>> 15;
  h *= 0x2c1b3c6d;
  return DIRECTIONS + <usize>(h >>> 28) * 48;
}

// @ts-ignore: decorator
@inline
function along(at: usize, x: v128, y: v128, z: v128): v128 {
  const flat = f32x4.add(f32x4.mul(x, v128.load(at)), f32x4.mul(y, v128.load(at, 16)));
  return f32x4.add(flat, f32x4.mul(z, v128.load(at, 32)));
}

// @ts-ignore: decorator
@inline
function same(a: v128, b: v128): v128 {
  return f32x4.eq(a, b);
}

/**
 * One octave in space, added to what is there. Four neighbours mostly lie in one cell, and so do the next: then the directions at
 * its corners are at hand, which takes 9 ns a texel where `gradient` takes 21; the bits are the same, since what is added is 0.
 */
function octaveInSpace(out: usize, px: usize, py: usize, pz: usize, n: i32, o: usize, mode: i32, first: bool): void {
  const size = <usize>n << 2;
  const sx = v128.load_splat<f32>(o);
  const sy = v128.load_splat<f32>(o, 4);
  const sz = v128.load_splat<f32>(o, 8);
  const wx = load<i32>(o, 12);
  const wy = load<i32>(o, 16);
  const wz = load<i32>(o, 20);
  const amplitude = v128.load_splat<f32>(o, 24);
  const seed = load<i32>(o, 28);
  let lastX = f32x4.splat(NaN);
  let lastY = lastX;
  let lastZ = lastX;
  let d0: usize = 0;
  let d1: usize = 0;
  let d2: usize = 0;
  let d3: usize = 0;
  let d4: usize = 0;
  let d5: usize = 0;
  let d6: usize = 0;
  let d7: usize = 0;
  for (let i: usize = 0; i < size; i += 16) {
    const x = f32x4.mul(v128.load(px + i), sx);
    const y = f32x4.mul(v128.load(py + i), sy);
    const z = f32x4.mul(v128.load(pz + i), sz);
    const ix = f32x4.floor(x);
    const iy = f32x4.floor(y);
    const iz = f32x4.floor(z);
    let v: v128;
    let known = i32x4.all_true(v128.and(v128.and(same(ix, lastX), same(iy, lastY)), same(iz, lastZ)));
    if (!known) {
      const cx = f32x4.extract_lane(ix, 0);
      const cy = f32x4.extract_lane(iy, 0);
      const cz = f32x4.extract_lane(iz, 0);
      const allX = f32x4.splat(cx);
      const allY = f32x4.splat(cy);
      const allZ = f32x4.splat(cz);
      if (i32x4.all_true(v128.and(v128.and(same(ix, allX), same(iy, allY)), same(iz, allZ)))) {
        known = true;
        lastX = allX;
        lastY = allY;
        lastZ = allZ;
        const x0 = wrapped1(cx, wx) * 0x9e3779b1;
        const x1 = wrapped1(cx + 1, wx) * 0x9e3779b1;
        const y0 = wrapped1(cy, wy) * 0x85ebca77;
        const y1 = wrapped1(cy + 1, wy) * 0x85ebca77;
        const z0 = (wrapped1(cz, wz) * 0xc2b2ae3d) ^ seed;
        const z1 = (wrapped1(cz + 1, wz) * 0xc2b2ae3d) ^ seed;
        d0 = direction(x0 ^ y0 ^ z0);
        d1 = direction(x1 ^ y0 ^ z0);
        d2 = direction(x0 ^ y1 ^ z0);
        d3 = direction(x1 ^ y1 ^ z0);
        d4 = direction(x0 ^ y0 ^ z1);
        d5 = direction(x1 ^ y0 ^ z1);
        d6 = direction(x0 ^ y1 ^ z1);
        d7 = direction(x1 ^ y1 ^ z1);
      }
    }
    if (known) {
      const fx = f32x4.sub(x, ix);
      const fy = f32x4.sub(y, iy);
      const fz = f32x4.sub(z, iz);
      const gx = f32x4.sub(fx, one());
      const gy = f32x4.sub(fy, one());
      const gz = f32x4.sub(fz, one());
      const tx = fade(fx);
      const ty = fade(fy);
      const a = mixed(along(d0, fx, fy, fz), along(d1, gx, fy, fz), tx);
      const b = mixed(along(d2, fx, gy, fz), along(d3, gx, gy, fz), tx);
      const near = mixed(a, b, ty);
      const c = mixed(along(d4, fx, fy, gz), along(d5, gx, fy, gz), tx);
      const d = mixed(along(d6, fx, gy, gz), along(d7, gx, gy, gz), tx);
      v = mixed(near, mixed(c, d, ty), fade(fz));
    } else v = gradient(x, y, z, wx, wy, wz, seed);
    const sum = first ? f32x4.splat(0.0) : v128.load(out + i);
    v128.store(out + i, f32x4.add(sum, f32x4.mul(shaped(v, mode), amplitude)));
  }
}

/**
 * Octaves of gradient noise, added up: out = Σ amplitude · f(noise). `mode` 0: the noise itself; 1: ridges,
 * (1 − |noise|)²; 2: billows, |noise|. `pz` 0: noise in the plane of x and y. `out` is none of the coordinates.
 */
export function noiseFractal(out: usize, px: usize, py: usize, pz: usize, n: i32, octaves: usize, count: i32, mode: i32): void {
  if (!pz) return inPlane(out, px, py, n, octaves, count, mode);
  for (let k = 0; k < count; k++) octaveInSpace(out, px, py, pz, n, octaves + <usize>k * OCTAVE_BYTES, mode, k == 0);
}

/** 24 bits of a hash as 0 ≤ … < 1. */
// @ts-ignore: decorator
@inline
function unit(h: v128): v128 {
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(h, 8)), constant(UNIT));
}

/** A number 0 … 1 for each cell of the lattice: grain. One octave record; its amplitude is not looked at. */
export function noiseHash(out: usize, px: usize, py: usize, pz: usize, n: i32, o: usize): void {
  const size = <usize>n << 2;
  const s = i32x4.splat(load<i32>(o, 28));
  for (let i: usize = 0; i < size; i += 16) {
    const ix = wrapped(f32x4.floor(f32x4.mul(v128.load(px + i), v128.load_splat<f32>(o))), load<i32>(o, 12));
    const iy = wrapped(f32x4.floor(f32x4.mul(v128.load(py + i), v128.load_splat<f32>(o, 4))), load<i32>(o, 16));
    const iz = wrapped(f32x4.floor(f32x4.mul(v128.load(pz + i), v128.load_splat<f32>(o, 8))), load<i32>(o, 20));
    const h = v128.xor(v128.xor(product(ix, KX), product(iy, KY)), v128.xor(product(iz, KZ), s));
    v128.store(out + i, unit(scramble(h)));
  }
}

/** Tags, so that each case is compiled as a loop of its own (see blend.ts). */
class Near {}
class Edges {}
class Flat {}
class Deep {}

// @ts-ignore: decorator
@inline
function is<A, B>(): bool {
  return idof<A>() == idof<B>();
}

/** Cells of a row in the order in which they are asked: the middle first. */
// @ts-ignore: decorator
@inline
function offset(k: i32): i32 {
  return k == 0 ? 0 : k == 1 ? -1 : k == 2 ? 1 : k == 3 ? -2 : 2;
}

/** How far a row of cells lies off, squared; f: where the place lies within the middle one. */
// @ts-ignore: decorator
@inline
function beyond(f: v128, d: i32): v128 {
  const away = d == 0 ? f32x4.splat(0.0) : d < 0 ? f32x4.add(f, f32x4.splat(<f32>(-d - 1))) : f32x4.sub(f32x4.splat(<f32>d), f);
  return f32x4.mul(away, away);
}

/** Of cells that lie so far off none is nearer than that. */
// @ts-ignore: decorator
@inline
function farther(away: v128, than: v128): bool {
  return !v128.any_true(f32x4.lt(away, than));
}

/** Where the point of a cell lies along an axis: ten bits of its hash. `o`: from the place to where such points begin. */
// @ts-ignore: decorator
@inline
function strayed(o: v128, h: v128, bits: i32, j: v128): v128 {
  return f32x4.add(o, f32x4.mul(f32x4.convert_i32x4_s(v128.and(i32x4.shr_u(h, bits), i32x4.splat(1023))), j));
}

/** Nothing is its own neighbour: points nearer to each other than this, squared, are one. */
// @ts-ignore: decorator
@inline const SAME: f32 = 1e-9;

/**
 * The nearest point among those of 5 × 5 (5³) cells: one in a cell of its own is at most √2 (√3) away, and those of cells further
 * out at least 2. What is farther off than what is known in all four lanes is left out. Then, for edges, the nearest of the planes
 * halfway to the others, (|v|² − |a|²) / 2|v − a|: it is at least half of |v| − |a|, so that points from |a| + 2 · edge on do not count.
 */
function cellsLoop<W, D>(near: usize, edge: usize, id: usize, px: usize, py: usize, pz: usize, n: i32, o: usize, jitter: f32): void {
  const size = <usize>n << 2;
  const s = i32x4.splat(load<i32>(o, 28));
  const j = f32x4.splat(jitter / 1024.0);
  const start = f32x4.splat(0.5 - 0.5 * jitter);
  const wx = load<i32>(o, 12);
  const wy = load<i32>(o, 16);
  const wz = load<i32>(o, 20);
  const deep = is<D, Flat>() ? 1 : 5;
  for (let i: usize = 0; i < size; i += 16) {
    const x = f32x4.mul(v128.load(px + i), v128.load_splat<f32>(o));
    const y = f32x4.mul(v128.load(py + i), v128.load_splat<f32>(o, 4));
    const z = is<D, Flat>() ? f32x4.splat(0.0) : f32x4.mul(v128.load(pz + i), v128.load_splat<f32>(o, 8));
    const ix = f32x4.floor(x);
    const iy = f32x4.floor(y);
    const iz = f32x4.floor(z);
    const fx = f32x4.sub(x, ix);
    const fy = f32x4.sub(y, iy);
    const fz = f32x4.sub(z, iz);
    let d1 = f32x4.splat(1e9);
    let ax = f32x4.splat(0.0);
    let ay = f32x4.splat(0.0);
    let az = f32x4.splat(0.0);
    let best = i32x4.splat(0);
    for (let kz = 0; kz < deep; kz++) {
      const dz = offset(kz);
      const awayZ = beyond(fz, dz);
      if (kz > 0 && farther(awayZ, d1)) continue;
      const cz = f32x4.add(iz, f32x4.splat(<f32>dz));
      const hz = v128.xor(product(wrapped(cz, wz), KZ), s);
      const oz = f32x4.sub(f32x4.add(cz, start), z);
      for (let ky = 0; ky < 5; ky++) {
        const dy = offset(ky);
        const awayY = f32x4.add(awayZ, beyond(fy, dy));
        if (ky > 0 && farther(awayY, d1)) continue;
        const cy = f32x4.add(iy, f32x4.splat(<f32>dy));
        const hyz = v128.xor(product(wrapped(cy, wy), KY), hz);
        const oy = f32x4.sub(f32x4.add(cy, start), y);
        for (let kx = 0; kx < 5; kx++) {
          const dx = offset(kx);
          if (kx > 0 && farther(f32x4.add(awayY, beyond(fx, dx)), d1)) continue;
          const cx = f32x4.add(ix, f32x4.splat(<f32>dx));
          const h = stir(v128.xor(product(wrapped(cx, wx), KX), hyz));
          const vx = strayed(f32x4.sub(f32x4.add(cx, start), x), h, 22, j);
          const vy = strayed(oy, h, 12, j);
          let d = f32x4.add(f32x4.mul(vx, vx), f32x4.mul(vy, vy));
          let vz = f32x4.splat(0.0);
          if (!is<D, Flat>()) {
            vz = strayed(oz, h, 2, j);
            d = f32x4.add(d, f32x4.mul(vz, vz));
          }
          const first = f32x4.lt(d, d1);
          if (is<W, Edges>()) {
            ax = v128.bitselect(vx, ax, first);
            ay = v128.bitselect(vy, ay, first);
            if (!is<D, Flat>()) az = v128.bitselect(vz, az, first);
          }
          d1 = f32x4.min(d, d1);
          best = v128.bitselect(h, best, first);
        }
      }
    }
    const nearest = f32x4.sqrt(d1);
    v128.store(near + i, nearest);
    v128.store(id + i, unit(scramble(v128.xor(best, i32x4.splat(0x5bd1e995)))));
    if (is<W, Edges>()) {
      let e = f32x4.splat(4.0);
      let most = f32x4.splat(1e9);
      for (let kz = 0; kz < deep; kz++) {
        const dz = offset(kz);
        const awayZ = beyond(fz, dz);
        if (kz > 0 && farther(awayZ, most)) continue;
        const cz = f32x4.add(iz, f32x4.splat(<f32>dz));
        const hz = v128.xor(product(wrapped(cz, wz), KZ), s);
        const oz = f32x4.sub(f32x4.add(cz, start), z);
        for (let ky = 0; ky < 5; ky++) {
          const dy = offset(ky);
          const awayY = f32x4.add(awayZ, beyond(fy, dy));
          if (ky > 0 && farther(awayY, most)) continue;
          const cy = f32x4.add(iy, f32x4.splat(<f32>dy));
          const hyz = v128.xor(product(wrapped(cy, wy), KY), hz);
          const oy = f32x4.sub(f32x4.add(cy, start), y);
          for (let kx = 0; kx < 5; kx++) {
            const dx = offset(kx);
            if (kx > 0 && farther(f32x4.add(awayY, beyond(fx, dx)), most)) continue;
            const cx = f32x4.add(ix, f32x4.splat(<f32>dx));
            const h = stir(v128.xor(product(wrapped(cx, wx), KX), hyz));
            const vx = strayed(f32x4.sub(f32x4.add(cx, start), x), h, 22, j);
            const vy = strayed(oy, h, 12, j);
            const ex = f32x4.sub(vx, ax);
            const ey = f32x4.sub(vy, ay);
            let d = f32x4.add(f32x4.mul(vx, vx), f32x4.mul(vy, vy));
            let apart = f32x4.add(f32x4.mul(ex, ex), f32x4.mul(ey, ey));
            if (!is<D, Flat>()) {
              const vz = strayed(oz, h, 2, j);
              const ez = f32x4.sub(vz, az);
              d = f32x4.add(d, f32x4.mul(vz, vz));
              apart = f32x4.add(apart, f32x4.mul(ez, ez));
            }
            const other = f32x4.gt(apart, f32x4.splat(SAME));
            const half = f32x4.div(f32x4.mul(f32x4.sub(d, d1), constant(HALF)), f32x4.sqrt(f32x4.max(apart, f32x4.splat(SAME))));
            e = v128.bitselect(f32x4.min(e, half), e, other);
            const reach = f32x4.add(nearest, f32x4.add(e, e));
            most = f32x4.mul(reach, reach);
          }
        }
      }
      v128.store(edge + i, e);
    }
  }
}

/**
 * Cellular noise: `near` the distance to the nearest point, in cells; `edge` (0: not wanted, which is twice as quick)
 * the distance to the nearest place halfway to another point, in cells; `id` a number 0 … 1 of the nearest point's cell.
 * `flat`: cells in x and y only. `jitter`: how far points stray from the middle of their cells, 0 … 1. One octave
 * record; its amplitude is not looked at.
 */
export function noiseCells(
  near: usize,
  edge: usize,
  id: usize,
  px: usize,
  py: usize,
  pz: usize,
  n: i32,
  o: usize,
  jitter: f32,
  flat: i32,
): void {
  if (edge) {
    if (flat) cellsLoop<Edges, Flat>(near, edge, id, px, py, pz, n, o, jitter);
    else cellsLoop<Edges, Deep>(near, edge, id, px, py, pz, n, o, jitter);
  } else if (flat) cellsLoop<Near, Flat>(near, edge, id, px, py, pz, n, o, jitter);
  else cellsLoop<Near, Deep>(near, edge, id, px, py, pz, n, o, jitter);
}

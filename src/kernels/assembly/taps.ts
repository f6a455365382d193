/**
 * Reading placed pictures (core/strata/taps.ts says what taps are). A module of its own, because the pictures that it
 * reads live in a memory that grows. The TypeScript twin of every export is in src/kernels/tapsTwin.ts.
 *
 * Memory: `x`, `y` and `weight` are `n` float32 (repeats, and how much of a texel is seen; weight 0: all). A tap is
 * spread over six arrays: int32 texel, float32 share and scale, and for each of its reads, with room for four, int32
 * pixel, four float32 weights (upper left, upper right, lower left, lower right) and int32 turn. Pixels are int16, one or
 * four a pixel, in rows with one more column and row. `sum`: a plane of the tile that shares are added to.
 */

import { cellBits } from './cells';

// @ts-ignore: decorator
@inline
function hash24(a: i32, b: i32, seed: i32): u32 {
  let h: u32 = <u32>((cellBits(a) * <i32>0x9e3779b1) ^ (cellBits(b) * <i32>0x85ebca77) ^ seed);
  h ^= h >> 16;
  h *= 0x7feb352d;
  h ^= h >> 15;
  h *= 0x846ca68b;
  return (h ^ (h >> 16)) >> 8;
}

// @ts-ignore: decorator
@inline
function wrapTo(i: i32, period: i32): i32 {
  if (period == 0) return i;
  const r = i % period;
  return r < 0 ? r + period : r;
}

/** Four reads at once, a lane each: where they lie in repeats, and their shares. Sixteen bytes of pixels, 64 of weights. */
// @ts-ignore: decorator
@inline
function putReads(at: usize, weights: usize, x: v128, y: v128, width: f32, height: f32, share: v128): void {
  const half = f32x4.splat(0.5);
  const px = f32x4.sub(f32x4.mul(f32x4.sub(x, f32x4.floor(x)), f32x4.splat(width)), half);
  const py = f32x4.sub(f32x4.mul(f32x4.sub(y, f32x4.floor(y)), f32x4.splat(height)), half);
  const ix = f32x4.floor(px);
  const iy = f32x4.floor(py);
  const fx = f32x4.sub(px, ix);
  const fy = f32x4.sub(py, iy);
  let column = i32x4.trunc_sat_f32x4_s(ix);
  let row = i32x4.trunc_sat_f32x4_s(iy);
  // Left of the first column lies the last one.
  column = i32x4.add(column, v128.and(i32x4.shr_s(column, 31), i32x4.splat(<i32>width)));
  row = i32x4.add(row, v128.and(i32x4.shr_s(row, 31), i32x4.splat(<i32>height)));
  v128.store(at, i32x4.add(i32x4.mul(row, i32x4.splat(<i32>width + 1)), column));
  const right = f32x4.mul(fx, share);
  const lower = f32x4.mul(fy, share);
  const d = f32x4.mul(right, fy);
  const b = f32x4.sub(right, d);
  const c = f32x4.sub(lower, d);
  const a = f32x4.sub(f32x4.sub(share, right), c);
  const ab = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
  const ab2 = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
  const cd = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
  const cd2 = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
  v128.store(weights, v128.shuffle<f64>(ab, cd, 0, 2));
  v128.store(weights, v128.shuffle<f64>(ab, cd, 1, 3), 16);
  v128.store(weights, v128.shuffle<f64>(ab2, cd2, 0, 2), 32);
  v128.store(weights, v128.shuffle<f64>(ab2, cd2, 1, 3), 48);
}

/** One read a tap: the picture as it is. Gives how many taps there are then. */
export function addPlain(
  x: usize,
  y: usize,
  weight: usize,
  n: i32,
  width: f32,
  height: f32,
  texel: usize,
  share: usize,
  scale: usize,
  at: usize,
  weights: usize,
  sum: usize,
  from: i32,
): i32 {
  let t = <usize>from;
  for (let i: usize = 0; i < <usize>n; i++) {
    const seen: f32 = weight ? load<f32>(weight + (i << 2)) : 1;
    if (seen == 0) continue;
    store<i32>(texel + (t << 2), <i32>i);
    store<f32>(share + (t << 2), seen);
    store<f32>(sum + (i << 2), load<f32>(sum + (i << 2)) + seen);
    store<f32>(scale + (t << 2), 1);
    const u = v128.load_splat<f32>(x + (i << 2));
    const v = v128.load_splat<f32>(y + (i << 2));
    putReads(at + (t << 4), weights + (t << 6), u, v, width, height, f32x4.splat(1));
    t++;
  }
  return <i32>t;
}

/** Of the triangle at hand, a lane a corner: place X and Y, cosine, sine, shift X and Y, turn. The fourth lane is the picture as it is. */
const CORNERS: usize = memory.data(112, 16);

/** Three patches, and the picture as it is where `strength` is under 1. `turns`: 256 cosines and sines, float32. */
export function addPatches(
  x: usize,
  y: usize,
  weight: usize,
  n: i32,
  width: f32,
  height: f32,
  cellsX: i32,
  cellsY: i32,
  perX: f64,
  perY: f64,
  strength: f64,
  turns: usize,
  texel: usize,
  share: usize,
  scale: usize,
  at: usize,
  weights: usize,
  turn: usize,
  sum: usize,
  from: i32,
): i32 {
  let t = <usize>from;
  let lastX = i32.MIN_VALUE;
  let lastY = i32.MIN_VALUE;
  let lastUpper = false;
  let placeX = f32x4.splat(0);
  let placeY = f32x4.splat(0);
  let cos = f32x4.splat(0);
  let sin = f32x4.splat(0);
  let shiftX = f32x4.splat(0);
  let shiftY = f32x4.splat(0);
  let turned = f32x4.splat(0);
  const both = strength / Math.sqrt(strength * strength + (1 - strength) * (1 - strength));
  for (let i: usize = 0; i < <usize>n; i++) {
    const seen: f32 = weight ? load<f32>(weight + (i << 2)) : 1;
    if (seen == 0) continue;
    const px = load<f32>(x + (i << 2));
    const py = load<f32>(y + (i << 2));
    const gx = <f64>px * perX;
    const gy = <f64>py * perY;
    const floorX = Math.floor(gx);
    const floorY = Math.floor(gy);
    const cx = <i32>floorX;
    const cy = <i32>floorY;
    const fx = gx - floorX;
    const fy = gy - floorY;
    const upper = fx + fy > 1;
    if (cx != lastX || cy != lastY || upper != lastUpper) {
      lastX = cx;
      lastY = cy;
      lastUpper = upper;
      // (0,0) (1,0) (0,1), or (1,1) (0,1) (1,0).
      for (let k = 0; k < 3; k++) {
        const dx = k == 1 ? (upper ? 0 : 1) : upper ? 1 : 0;
        const dy = k == 2 ? (upper ? 0 : 1) : upper ? 1 : 0;
        const vx = wrapTo(cx + dx, cellsX);
        const vy = wrapTo(cy + dy, cellsY);
        const index = <usize>(hash24(vx, vy, 11) >> 16);
        const c = CORNERS + (<usize>k << 2);
        store<f32>(c, <f32>(<f64>(cx + dx) / perX));
        store<f32>(c, <f32>(<f64>(cy + dy) / perY), 16);
        store<f32>(c, load<f32>(turns + (index << 3)), 32);
        store<f32>(c, load<f32>(turns + (index << 3), 4), 48);
        store<f32>(c, <f32>hash24(vx, vy, 23) / 16777216, 64);
        store<f32>(c, <f32>hash24(vx, vy, 37) / 16777216, 80);
        store<i32>(c, <i32>index, 96);
      }
      store<f32>(CORNERS, 1, 44);
      placeX = v128.load(CORNERS);
      placeY = v128.load(CORNERS, 16);
      cos = v128.load(CORNERS, 32);
      sin = v128.load(CORNERS, 48);
      shiftX = v128.load(CORNERS, 64);
      shiftY = v128.load(CORNERS, 80);
      turned = v128.load(CORNERS, 96);
    }
    const w0 = upper ? fx + fy - 1 : 1 - fx - fy;
    const w1 = upper ? 1 - fx : fx;
    const w2 = upper ? 1 - fy : fy;
    const norm = 1 / Math.sqrt(w0 * w0 + w1 * w1 + w2 * w2);
    let shares = f32x4.replace_lane(f32x4.splat(<f32>w0), 1, <f32>w1);
    shares = f32x4.replace_lane(shares, 2, <f32>w2);
    shares = f32x4.replace_lane(shares, 3, <f32>((1 - strength) / (strength * norm)));
    const qx = f32x4.sub(f32x4.splat(px), placeX);
    const qy = f32x4.sub(f32x4.splat(py), placeY);
    const u = f32x4.add(f32x4.sub(f32x4.mul(cos, qx), f32x4.mul(sin, qy)), shiftX);
    const v = f32x4.add(f32x4.add(f32x4.mul(sin, qx), f32x4.mul(cos, qy)), shiftY);
    putReads(at + (t << 4), weights + (t << 6), u, v, width, height, shares);
    v128.store(turn + (t << 4), turned);
    store<i32>(texel + (t << 2), <i32>i);
    store<f32>(share + (t << 2), seen);
    store<f32>(sum + (i << 2), load<f32>(sum + (i << 2)) + seen);
    store<f32>(scale + (t << 2), <f32>(norm * both));
    t++;
  }
  return <i32>t;
}

// @ts-ignore: decorator
@inline
function clamp(v: v128, low: f32, high: f32): v128 {
  return f32x4.pmin(f32x4.splat(high), f32x4.pmax(f32x4.splat(low), v));
}

/** 2^23: a float32 that was added to it has its whole part in the lowest bits. */
// @ts-ignore: decorator
@inline const WHOLE: f32 = 8388608.0;

/** Lanes through their tables, `next` bytes apart; places are in bins. The fourth is left out where `lanes` is 3. */
// @ts-ignore: decorator
@inline
function through(table: usize, next: usize, place: v128, bins: f32, lanes: i32): v128 {
  const p = clamp(place, 0, bins);
  // Half a bin less and rounded to the nearest: the bin that it lies in.
  const whole = f32x4.add(clamp(f32x4.sub(p, f32x4.splat(0.5)), 0, bins - 1), f32x4.splat(WHOLE));
  const rest = f32x4.sub(p, f32x4.sub(whole, f32x4.splat(WHOLE)));
  const bin = i32x4.shl(v128.and(whole, i32x4.splat(0x7fffff)), 2);
  const x = v128.load64_zero(table + <usize>i32x4.extract_lane(bin, 0));
  const y = v128.load64_zero(table + next + <usize>i32x4.extract_lane(bin, 1));
  const z = v128.load64_zero(table + 2 * next + <usize>i32x4.extract_lane(bin, 2));
  const w = lanes > 3 ? v128.load64_zero(table + 3 * next + <usize>i32x4.extract_lane(bin, 3)) : z;
  const xy = v128.shuffle<f32>(x, y, 0, 4, 1, 5);
  const zw = v128.shuffle<f32>(z, w, 0, 4, 1, 5);
  const a = v128.shuffle<i64>(xy, zw, 0, 2);
  const b = v128.shuffle<i64>(xy, zw, 1, 3);
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), rest));
}

/** Four pixels of one number each, by their weights; the sum of the lanes is what is read. */
// @ts-ignore: decorator
@inline
function valueAt(p: usize, down: usize, weights: usize): v128 {
  const four = v128.load32_lane(p + down, v128.load32_zero(p), 1);
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_s(four)), v128.load(weights));
}

// @ts-ignore: decorator
@inline
function colourAt(p: usize, down: usize, weights: usize): v128 {
  const q = p + down;
  const a = f32x4.convert_i32x4_s(v128.load16x4_s(p));
  const b = f32x4.convert_i32x4_s(v128.load16x4_s(p, 8));
  const c = f32x4.convert_i32x4_s(v128.load16x4_s(q));
  const d = f32x4.convert_i32x4_s(v128.load16x4_s(q, 8));
  return f32x4.add(
    f32x4.add(f32x4.mul(a, v128.load_splat<f32>(weights)), f32x4.mul(b, v128.load_splat<f32>(weights, 4))),
    f32x4.add(f32x4.mul(c, v128.load_splat<f32>(weights, 8)), f32x4.mul(d, v128.load_splat<f32>(weights, 12))),
  );
}

/** Adds value · share to a plane at each tap's texel: value is the sum of its reads · scale, through a table (0: none), · by + lift, 0..1. */
export function readValues(
  texel: usize,
  share: usize,
  scale: usize,
  at: usize,
  weights: usize,
  count: i32,
  reads: i32,
  pixels: usize,
  down: usize,
  table: usize,
  bins: f32,
  steps: f32,
  by: f32,
  lift: f32,
  out: usize,
): void {
  // Four taps at a time; those that are too many have no share.
  const all = <usize>((count + 3) & ~3);
  for (let t = <usize>count; t < all; t++) {
    store<i32>(texel + (t << 2), 0);
    store<f32>(share + (t << 2), 0);
    v128.store(at + (t << 4), f32x4.splat(0));
  }
  for (let t: usize = 0; t < all; t += 4) {
    const a = valueSum(pixels, down, at, weights, reads);
    const b = valueSum(pixels, down, at + 16, weights + 64, reads);
    const c = valueSum(pixels, down, at + 32, weights + 128, reads);
    const d = valueSum(pixels, down, at + 48, weights + 192, reads);
    at += 64;
    weights += 256;
    const ab = f32x4.add(v128.shuffle<f32>(a, b, 0, 1, 4, 5), v128.shuffle<f32>(a, b, 2, 3, 6, 7));
    const cd = f32x4.add(v128.shuffle<f32>(c, d, 0, 1, 4, 5), v128.shuffle<f32>(c, d, 2, 3, 6, 7));
    let v = f32x4.add(v128.shuffle<f32>(ab, cd, 0, 2, 4, 6), v128.shuffle<f32>(ab, cd, 1, 3, 5, 7));
    v = f32x4.mul(v, v128.load(scale + (t << 2)));
    if (table) v = through(table, 0, f32x4.add(f32x4.mul(v, f32x4.splat(steps)), f32x4.splat(bins * 0.5)), bins, 4);
    v = clamp(f32x4.add(f32x4.mul(v, f32x4.splat(by)), f32x4.splat(lift)), 0, 1);
    v = f32x4.mul(v, v128.load(share + (t << 2)));
    const o = texel + (t << 2);
    add(out, load<i32>(o), f32x4.extract_lane(v, 0));
    add(out, load<i32>(o, 4), f32x4.extract_lane(v, 1));
    add(out, load<i32>(o, 8), f32x4.extract_lane(v, 2));
    add(out, load<i32>(o, 12), f32x4.extract_lane(v, 3));
  }
}

// @ts-ignore: decorator
@inline
function add(out: usize, texel: i32, v: f32): void {
  const o = out + (<usize>texel << 2);
  store<f32>(o, load<f32>(o) + v);
}

/** What the reads of a tap sum to, over the lanes. */
// @ts-ignore: decorator
@inline
function valueSum(pixels: usize, down: usize, at: usize, weights: usize, reads: i32): v128 {
  let sum = valueAt(pixels + (<usize>load<i32>(at) << 1), down, weights);
  if (reads > 1) {
    sum = f32x4.add(sum, valueAt(pixels + (<usize>load<i32>(at, 4) << 1), down, weights + 16));
    sum = f32x4.add(sum, valueAt(pixels + (<usize>load<i32>(at, 8) << 1), down, weights + 32));
    if (reads > 3) sum = f32x4.add(sum, valueAt(pixels + (<usize>load<i32>(at, 12) << 1), down, weights + 48));
  }
  return sum;
}

/**
 * The same for colours into three planes `plane` bytes apart. After the tables (three in a row; 0: none) a colour is
 * lift + matrix · sums; `matrix`: three columns and the lift, four float32 each.
 */
export function readColours(
  texel: usize,
  share: usize,
  scale: usize,
  at: usize,
  weights: usize,
  count: i32,
  reads: i32,
  pixels: usize,
  down: usize,
  table: usize,
  bins: f32,
  steps: f32,
  matrix: usize,
  out: usize,
  plane: usize,
): void {
  const m0 = v128.load(matrix);
  const m1 = v128.load(matrix, 16);
  const m2 = v128.load(matrix, 32);
  const lift = v128.load(matrix, 48);
  const next = (<usize>bins + 1) << 2;
  for (let t: usize = 0; t < <usize>count; t++) {
    let sum = colourAt(pixels + (<usize>load<i32>(at) << 3), down, weights);
    if (reads > 1) {
      sum = f32x4.add(sum, colourAt(pixels + (<usize>load<i32>(at, 4) << 3), down, weights + 16));
      sum = f32x4.add(sum, colourAt(pixels + (<usize>load<i32>(at, 8) << 3), down, weights + 32));
      if (reads > 3) sum = f32x4.add(sum, colourAt(pixels + (<usize>load<i32>(at, 12) << 3), down, weights + 48));
    }
    at += 16;
    weights += 64;
    sum = f32x4.mul(sum, v128.load_splat<f32>(scale + (t << 2)));
    if (table) sum = through(table, next, f32x4.add(f32x4.mul(sum, f32x4.splat(steps)), f32x4.splat(bins * 0.5)), bins, 3);
    const v = f32x4.add(
      f32x4.add(
        f32x4.mul(m0, v128.shuffle<f32>(sum, sum, 0, 0, 0, 0)),
        f32x4.mul(m1, v128.shuffle<f32>(sum, sum, 1, 1, 1, 1)),
      ),
      f32x4.add(f32x4.mul(m2, v128.shuffle<f32>(sum, sum, 2, 2, 2, 2)), lift),
    );
    const seen = f32x4.mul(clamp(v, 0, 1), v128.load_splat<f32>(share + (t << 2)));
    let o = out + (<usize>load<i32>(texel + (t << 2)) << 2);
    store<f32>(o, load<f32>(o) + f32x4.extract_lane(seen, 0));
    o += plane;
    store<f32>(o, load<f32>(o) + f32x4.extract_lane(seen, 1));
    o += plane;
    store<f32>(o, load<f32>(o) + f32x4.extract_lane(seen, 2));
  }
}

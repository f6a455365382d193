/**
 * What a tip gives at four places at once (kernels/dabs.ts says what it means, kernels/dabsTwin.ts rounds the same). A tip is
 * a record:
 *
 *   0 i32 outline: 0 round, 1 square, 2 picture     4 falloff: 4,097 f32
 *   8 picture, with a border of zeros around it    12 i32 its side          16 i32 reads    20 f32 apart
 *  24 texture, with its first column and row again at the end, or 0         28 i32 its side
 *  32 f32 scale    36 f32 x    40 f32 y    44 f32 slope    48 i32 inverted  52 f32 depth    56 i32 how it joins
 *  60 f32 |u| and 64 f32 |v| from which on it gives nothing
 */
import { F0, F1, FH, LOW16, WHOLE } from './constants';

export const FALLOFF_STEPS = 4096;

const FADES_FROM: f32 = 0.7;
const SOFT: f32 = 0.1;

/** Four numbers at four addresses. */
// @ts-ignore: decorator
@inline
function gather(at: v128): v128 {
  let four = v128.load32_zero(<usize>i32x4.extract_lane(at, 0));
  four = v128.load32_lane(<usize>i32x4.extract_lane(at, 1), four, 1);
  four = v128.load32_lane(<usize>i32x4.extract_lane(at, 2), four, 2);
  return v128.load32_lane(<usize>i32x4.extract_lane(at, 3), four, 3);
}

/** Of a falloff table, at squared distances in its steps; 0 beyond it, and where there is no distance. */
// @ts-ignore: decorator
@inline
export function fallen(falloff: usize, steps: v128): v128 {
  // Whole floats lie in the low bits once 2²³ is added: much quicker than converting them.
  const whole = f32x4.floor(f32x4.pmin(f32x4.splat(<f32>FALLOFF_STEPS), steps));
  const at = i32x4.shl(v128.and(f32x4.add(whole, WHOLE()), LOW16()), 2);
  return gather(i32x4.add(at, i32x4.splat(<i32>falloff)));
}

// @ts-ignore: decorator
@inline
function clamp01(v: v128): v128 {
  return f32x4.pmax(F0(), f32x4.pmin(F1(), v));
}

/** Between four texels each of four places, which lie at offsets in bytes; rows are `row` bytes apart. */
// @ts-ignore: decorator
@inline
function between(values: usize, at: v128, row: usize, fx: v128, fy: v128): v128 {
  const p0 = values + <usize>i32x4.extract_lane(at, 0);
  const p1 = values + <usize>i32x4.extract_lane(at, 1);
  const p2 = values + <usize>i32x4.extract_lane(at, 2);
  const p3 = values + <usize>i32x4.extract_lane(at, 3);
  // Neighbours in pairs.
  const t01 = v128.load64_lane(p1, v128.load64_zero(p0), 1);
  const t23 = v128.load64_lane(p3, v128.load64_zero(p2), 1);
  const b01 = v128.load64_lane(p1 + row, v128.load64_zero(p0 + row), 1);
  const b23 = v128.load64_lane(p3 + row, v128.load64_zero(p2 + row), 1);
  const a = v128.shuffle<i32>(t01, t23, 0, 2, 4, 6);
  const b = v128.shuffle<i32>(t01, t23, 1, 3, 5, 7);
  const c = v128.shuffle<i32>(b01, b23, 0, 2, 4, 6);
  const d = v128.shuffle<i32>(b01, b23, 1, 3, 5, 7);
  const gx = f32x4.sub(F1(), fx);
  const top = f32x4.add(f32x4.mul(a, gx), f32x4.mul(b, fx));
  const low = f32x4.add(f32x4.mul(c, gx), f32x4.mul(d, fx));
  return f32x4.add(f32x4.mul(top, f32x4.sub(F1(), fy)), f32x4.mul(low, fy));
}

/** Bilinear, u and v in −1 … 1; 0 outside. */
function pictureAt(values: usize, side: i32, u: v128, v: v128): v128 {
  const s = f32x4.splat(<f32>side);
  const half = FH();
  const x = f32x4.sub(f32x4.mul(f32x4.add(f32x4.mul(u, half), half), s), half);
  const y = f32x4.sub(f32x4.mul(f32x4.add(f32x4.mul(v, half), half), s), half);
  const least = f32x4.splat(-1);
  const inside = v128.and(
    v128.and(f32x4.gt(x, least), f32x4.lt(x, s)),
    v128.and(f32x4.gt(y, least), f32x4.lt(y, s)),
  );
  if (!v128.any_true(inside)) return F0();
  const x0 = f32x4.floor(x);
  const y0 = f32x4.floor(y);
  // The border makes a row two longer, and every place one further. Outside nothing is read.
  const one = i32x4.splat(1);
  const column = i32x4.add(i32x4.trunc_sat_f32x4_s(x0), one);
  const row = i32x4.add(i32x4.trunc_sat_f32x4_s(y0), one);
  const at = v128.and(i32x4.shl(i32x4.add(i32x4.mul(row, i32x4.splat(side + 2)), column), 2), inside);
  const found = between(values, at, <usize>(side + 2) << 2, f32x4.sub(x, x0), f32x4.sub(y, y0));
  return v128.and(found, inside);
}

/** Bilinear, x and y in repeats of the picture, which goes on without end. */
export function repeatedAt(values: usize, side: i32, x: v128, y: v128): v128 {
  const s = f32x4.splat(<f32>side);
  const half = FH();
  const px = f32x4.sub(f32x4.mul(x, s), half);
  const py = f32x4.sub(f32x4.mul(y, s), half);
  const x0 = f32x4.floor(px);
  const y0 = f32x4.floor(py);
  const mask = i32x4.splat(side - 1);
  const column = v128.and(i32x4.trunc_sat_f32x4_s(x0), mask);
  const row = v128.and(i32x4.trunc_sat_f32x4_s(y0), mask);
  const at = i32x4.shl(i32x4.add(i32x4.mul(row, i32x4.splat(side + 1)), column), 2);
  return between(values, at, <usize>(side + 1) << 2, f32x4.sub(px, x0), f32x4.sub(py, y0));
}

/** A texture over what the tip gives. */
function textured(tip: usize, share: v128, u: v128, v: v128): v128 {
  const scale = v128.load_splat<f32>(tip, 32);
  const t = repeatedAt(
    load<usize>(tip, 24),
    load<i32>(tip, 28),
    f32x4.add(f32x4.mul(u, scale), v128.load_splat<f32>(tip, 36)),
    f32x4.add(f32x4.mul(v, scale), v128.load_splat<f32>(tip, 40)),
  );
  return joined(share, toned(tip, t), v128.load_splat<f32>(tip, 52), load<i32>(tip, 56));
}

/** A texture's values with its contrast. */
// @ts-ignore: decorator
@inline
export function toned(tip: usize, values: v128): v128 {
  const t = load<i32>(tip, 48) ? f32x4.sub(F1(), values) : values;
  if (load<f32>(tip, 44) == 1) return t;
  const half = FH();
  return clamp01(f32x4.add(f32x4.mul(f32x4.sub(t, half), v128.load_splat<f32>(tip, 44)), half));
}

/** What a tip gives where the texture is `t`. */
export function joined(share: v128, t: v128, depth: v128, join: i32): v128 {
  const one = F1();
  const rest = f32x4.sub(one, depth);
  if (join == 0) return f32x4.mul(share, f32x4.add(rest, f32x4.mul(depth, t)));
  const most = f32x4.pmin(one, f32x4.mul(share, f32x4.splat(4)));
  if (join == 1) return f32x4.add(f32x4.mul(share, rest), f32x4.mul(f32x4.mul(depth, t), most));
  const over = f32x4.sub(f32x4.mul(share, f32x4.splat(<f32>1 + SOFT)), f32x4.sub(one, t));
  const filled = clamp01(f32x4.div(over, f32x4.splat(SOFT)));
  return f32x4.add(f32x4.mul(share, rest), f32x4.mul(f32x4.mul(depth, filled), most));
}

/** What a tip gives at four places in its frame, in radii. */
export function tipShares(tip: usize, u: v128, v: v128, w: v128): v128 {
  const outline = load<i32>(tip);
  const texture = load<usize>(tip, 24);
  const one = F1();
  let share: v128;
  if (outline < 2) {
    const a = f32x4.mul(u, u);
    const b = f32x4.mul(v, v);
    const c = f32x4.mul(w, w);
    const d2 = outline == 0 ? f32x4.add(f32x4.add(a, b), c) : f32x4.pmax(f32x4.pmax(a, b), c);
    if (!v128.any_true(f32x4.lt(d2, one))) return F0();
    share = fallen(load<usize>(tip, 4), f32x4.mul(d2, f32x4.splat(<f32>FALLOFF_STEPS)));
  } else {
    const values = load<usize>(tip, 8);
    const side = load<i32>(tip, 12);
    const reads = load<i32>(tip, 16);
    if (reads == 1) share = pictureAt(values, side, u, v);
    else {
      const apart = load<f32>(tip, 20);
      const step = f32x4.splat(apart);
      let at = f32x4.sub(v, f32x4.splat(<f32>(reads - 1) * apart * 0.5));
      share = F0();
      for (let n = 0; n < reads; n++) {
        share = f32x4.add(share, pictureAt(values, side, u, at));
        at = f32x4.add(at, step);
      }
      share = f32x4.div(share, f32x4.splat(<f32>reads));
    }
    const above = f32x4.abs(w);
    const fading = f32x4.gt(above, f32x4.splat(FADES_FROM));
    if (v128.any_true(fading)) {
      const left = f32x4.div(f32x4.sub(one, above), f32x4.splat(<f32>1 - FADES_FROM));
      share = f32x4.mul(share, v128.bitselect(left, one, fading));
      share = v128.and(share, f32x4.lt(above, one));
    }
  }
  return texture == 0 || !v128.any_true(share) ? share : textured(tip, share, u, v);
}

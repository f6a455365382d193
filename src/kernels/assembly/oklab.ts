/**
 * Colours turned and tinted in OKLab (B. Ottosson 2020; the matrices are those of CSS Color 4). The transfer curve goes by
 * tables with straight lines between their points (core/colour/transfer.ts), cube roots by two steps of Halley's method from
 * a third of the exponent (5 %, then 1e-4, then below what float32 holds).
 */
import { F0, F1 } from './constants';

// @ts-ignore: decorator
@inline
function times(k: f32, v: v128): v128 {
  return f32x4.mul(f32x4.splat(k), v);
}

// @ts-ignore: decorator
@inline
function row(a: f32, x: v128, b: f32, y: v128, c: f32, z: v128): v128 {
  return f32x4.add(f32x4.add(times(a, x), times(b, y)), times(c, z));
}

/** Four values 0..1 through a table of `steps` + 2 numbers. */
function curve(table: usize, steps: f32, v: v128): v128 {
  const at = f32x4.mul(f32x4.pmin(F1(), f32x4.pmax(F0(), v)), f32x4.splat(steps));
  const i = i32x4.trunc_sat_f32x4_s(at);
  const p0 = table + (<usize>i32x4.extract_lane(i, 0) << 2);
  const p1 = table + (<usize>i32x4.extract_lane(i, 1) << 2);
  const p2 = table + (<usize>i32x4.extract_lane(i, 2) << 2);
  const p3 = table + (<usize>i32x4.extract_lane(i, 3) << 2);
  let low = v128.load32_zero(p0);
  low = v128.load32_lane(p1, low, 1);
  low = v128.load32_lane(p2, low, 2);
  low = v128.load32_lane(p3, low, 3);
  let high = v128.load32_zero(p0, 4);
  high = v128.load32_lane(p1, high, 1, 4);
  high = v128.load32_lane(p2, high, 2, 4);
  high = v128.load32_lane(p3, high, 3, 4);
  return f32x4.add(low, f32x4.mul(f32x4.sub(high, low), f32x4.sub(at, f32x4.convert_i32x4_s(i))));
}

// @ts-ignore: decorator
@inline
function halley(t: v128, x: v128): v128 {
  const cube = f32x4.mul(f32x4.mul(t, t), t);
  const up = f32x4.add(cube, f32x4.add(x, x));
  return f32x4.mul(t, f32x4.div(up, f32x4.add(f32x4.add(cube, cube), x)));
}

/** Of numbers from 0 on; 0 comes out as about 1e-13. */
// @ts-ignore: decorator
@inline
function cubeRoot(x: v128): v128 {
  const third = f32x4.mul(f32x4.convert_i32x4_s(x), f32x4.splat(<f32>(1.0 / 3.0)));
  const guess = i32x4.add(i32x4.trunc_sat_f32x4_s(third), i32x4.splat(709921077));
  return halley(halley(guess, x), x);
}

// @ts-ignore: decorator
@inline
function cube(v: v128): v128 {
  return f32x4.mul(f32x4.mul(v, v), v);
}

/**
 * Three planes of `n` encoded values, a multiple of 4, in place. `how`, 8 float32: added to the lightness; a matrix of two rows for
 * a and b; what is added to a and to b, times the room for chroma at that lightness where the last one is not 0.
 */
export function turnInOklab(data: usize, n: i32, how: usize, toLinear: usize, linearSteps: f32, toSrgb: usize, srgbSteps: f32): void {
  const plane = <usize>n << 2;
  const end = data + plane;
  const lift = v128.load_splat<f32>(how);
  const aa = v128.load_splat<f32>(how, 4);
  const ab = v128.load_splat<f32>(how, 8);
  const ba = v128.load_splat<f32>(how, 12);
  const bb = v128.load_splat<f32>(how, 16);
  const ta = v128.load_splat<f32>(how, 20);
  const tb = v128.load_splat<f32>(how, 24);
  const roomy = load<f32>(how, 28) != 0;
  for (; data < end; data += 16) {
    const r = curve(toLinear, linearSteps, v128.load(data));
    const g = curve(toLinear, linearSteps, v128.load(data + plane));
    const b = curve(toLinear, linearSteps, v128.load(data + 2 * plane));
    const l = cubeRoot(row(0.4122214708, r, 0.5363325363, g, 0.0514459929, b));
    const m = cubeRoot(row(0.2119034982, r, 0.6806995451, g, 0.1073969566, b));
    const s = cubeRoot(row(0.0883024619, r, 0.2817188376, g, 0.6299787005, b));
    const was = row(0.2104542553, l, 0.793617785, m, -0.0040720468, s);
    const a = row(1.9779984951, l, -2.428592205, m, 0.4505937099, s);
    const o = row(0.0259040371, l, 0.7827717662, m, -0.808675766, s);
    let room = F1();
    if (roomy) {
      const middle = f32x4.mul(f32x4.splat(4.0), f32x4.mul(was, f32x4.sub(F1(), was)));
      room = f32x4.min(F1(), f32x4.add(middle, f32x4.splat(0.15)));
    }
    const light = f32x4.pmin(F1(), f32x4.pmax(F0(), f32x4.add(was, lift)));
    const na = f32x4.add(f32x4.add(f32x4.mul(a, aa), f32x4.mul(o, ab)), f32x4.mul(ta, room));
    const nb = f32x4.add(f32x4.add(f32x4.mul(a, ba), f32x4.mul(o, bb)), f32x4.mul(tb, room));
    const l3 = cube(row(1.0, light, 0.3963377774, na, 0.2158037573, nb));
    const m3 = cube(row(1.0, light, -0.1055613458, na, -0.0638541728, nb));
    const s3 = cube(row(1.0, light, -0.0894841775, na, -1.291485548, nb));
    v128.store(data, curve(toSrgb, srgbSteps, row(4.0767416621, l3, -3.3077115913, m3, 0.2309699292, s3)));
    v128.store(data + plane, curve(toSrgb, srgbSteps, row(-1.2684380046, l3, 2.6097574011, m3, -0.3413193965, s3)));
    v128.store(data + 2 * plane, curve(toSrgb, srgbSteps, row(-0.0041960863, l3, -0.7034186147, m3, 1.707614701, s3)));
  }
}

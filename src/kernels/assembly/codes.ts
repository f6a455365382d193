/** Planes of float32 0..1 as 16-bit codes, on their way out. */
import { F0, F1, FH, LOW16, MOST, WHOLE } from './constants';

/** 0..1 to 0..65535 as int32, rounded: whole floats below 2²² lie in the low bits once 2²³ is added. */
// @ts-ignore: decorator
@inline
function code(v: v128, one: v128, scale: v128, half: v128, whole: v128, low: v128): v128 {
  const inside = f32x4.pmax(F0(), f32x4.pmin(v, one));
  const rounded = f32x4.floor(f32x4.add(f32x4.mul(inside, scale), half));
  return v128.and(f32x4.add(rounded, whole), low);
}

/** Float32 0..1 to uint16, rounded; `count` numbers, a multiple of 8. */
export function toUint16(out: usize, src: usize, count: i32): void {
  const end = src + (<usize>count << 2);
  const one = F1();
  const half = FH();
  const scale = MOST();
  const whole = WHOLE();
  const low = LOW16();
  for (; src < end; src += 32, out += 16) {
    const a = code(v128.load(src), one, scale, half, whole, low);
    const b = code(v128.load(src, 16), one, scale, half, whole, low);
    v128.store(out, i16x8.narrow_i32x4_u(a, b));
  }
}

/** Three planes of float32 0..1 as interleaved uint16, rounded; `n` texels, a multiple of 4. */
export function interleave16(out: usize, src: usize, n: i32): void {
  const plane = <usize>n << 2;
  const end = src + plane;
  const one = F1();
  const half = FH();
  const scale = MOST();
  const whole = WHOLE();
  const low16 = LOW16();
  for (; src < end; src += 16, out += 24) {
    const r = code(v128.load(src), one, scale, half, whole, low16);
    const g = code(v128.load(src + plane), one, scale, half, whole, low16);
    const b = code(v128.load(src + 2 * plane), one, scale, half, whole, low16);
    // r0 g0 b0 r1 | g1 b1 r2 g2 | b2 r3 g3 b3, sixteen bits each: low halves of the lanes.
    const first = v128.shuffle<i8>(r, g, 0, 1, 16, 17, 0, 1, 4, 5, 20, 21, 0, 1, 8, 9, 24, 25);
    const low = v128.shuffle<i8>(first, b, 0, 1, 2, 3, 16, 17, 6, 7, 8, 9, 20, 21, 12, 13, 14, 15);
    v128.store(out, low);
    const last = v128.shuffle<i8>(r, g, 12, 13, 28, 29, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1);
    const high = v128.shuffle<i8>(last, b, 24, 25, 0, 1, 2, 3, 28, 29, 0, 1, 0, 1, 0, 1, 0, 1);
    v128.store64_lane(out, high, 0, 16);
  }
}

/** 0..1 to 0..255 as int32. */
// @ts-ignore: decorator
@inline
function byte(v: v128, one: v128, scale: v128, half: v128): v128 {
  return i32x4.trunc_sat_f32x4_u(f32x4.add(f32x4.mul(f32x4.pmax(F0(), f32x4.pmin(v, one)), scale), half));
}

/**
 * One to four planes of float32 0..1 as bytes of RGBA, rounded: plane k goes to channel `first` + k, the other channels stay as they
 * are. `n` texels, a multiple of 4.
 */
export function interleave8(out: usize, src: usize, n: i32, planes: i32, first: i32): void {
  const plane = <usize>n << 2;
  const end = src + plane;
  const one = F1();
  const half = FH();
  const scale = f32x4.splat(255.0);
  let written: i32 = 0;
  for (let k = 0; k < planes; k++) written |= 0xff << ((first + k) << 3);
  const kept = i32x4.splat(~written);
  for (; src < end; src += 16, out += 16) {
    let all = byte(v128.load(src), one, scale, half);
    if (planes > 1) all = v128.or(all, i32x4.shl(byte(v128.load(src + plane), one, scale, half), 8));
    if (planes > 2) all = v128.or(all, i32x4.shl(byte(v128.load(src + 2 * plane), one, scale, half), 16));
    if (planes > 3) all = v128.or(all, i32x4.shl(byte(v128.load(src + 3 * plane), one, scale, half), 24));
    v128.store(out, v128.or(i32x4.shl(all, first << 3), v128.and(v128.load(out), kept)));
  }
}

/** Textures that lie fixed over the sheet or on the model, and what they leave of a stroke (kernels/dabs.ts). */
import { F0, F1 } from './constants';
import { LANES, signed, within } from './dabs';
import { joined, repeatedAt, toned } from './tips';

/** Over the sheet, whose place of the tile's first texel is (x, y). Only what is below 0 and has coverage is worked out. */
export function textureInSheet(
  out: usize,
  coverage: usize,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  tip: usize,
  x: f32,
  y: f32,
): void {
  const scale = v128.load_splat<f32>(tip, 32);
  const values = load<usize>(tip, 24);
  const side = load<i32>(tip, 28);
  for (let row = y0; row < y1; row++) {
    const v = f32x4.mul(f32x4.splat(y + <f32>row), scale);
    for (let column = x0 & ~3; column < x1; column += 4) {
      const i = <usize>((row << 7) + column) << 2;
      const wanted = asked(out + i, coverage + i, column, x0, x1);
      if (!v128.any_true(wanted)) continue;
      const u = f32x4.mul(f32x4.add(f32x4.splat(x + <f32>column), LANES()), scale);
      const found = toned(tip, repeatedAt(values, side, u, v));
      v128.store(out + i, v128.bitselect(found, v128.load(out + i), wanted));
    }
  }
}

// @ts-ignore: decorator
@inline
function asked(out: usize, coverage: usize, column: i32, x0: i32, x1: i32): v128 {
  const zero = F0();
  const open = v128.and(f32x4.lt(v128.load(out), zero), f32x4.gt(v128.load(coverage), zero));
  return column < x0 || column + 4 > x1 ? v128.and(open, within(column, x0, x1)) : open;
}

/** The fourth power of a part of a normal. */
// @ts-ignore: decorator
@inline
function weightOf(part: v128): v128 {
  const t = f32x4.div(part, f32x4.splat(127));
  const square = f32x4.mul(t, t);
  return f32x4.mul(square, square);
}

/** On the model, from the sides of a box. */
export function textureOnBox(
  out: usize,
  coverage: usize,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  tip: usize,
  position: usize,
  normal: usize,
): void {
  const scale = v128.load_splat<f32>(tip, 32);
  const values = load<usize>(tip, 24);
  const side = load<i32>(tip, 28);
  for (let row = y0; row < y1; row++)
    for (let column = x0 & ~3; column < x1; column += 4) {
      const i = <usize>((row << 7) + column);
      const wanted = asked(out + (i << 2), coverage + (i << 2), column, x0, x1);
      if (!v128.any_true(wanted)) continue;
      const p0 = v128.load(position + i * 12);
      const p1 = v128.load(position + i * 12, 16);
      const p2 = v128.load(position + i * 12, 32);
      const x = f32x4.mul(v128.shuffle<i32>(v128.shuffle<i32>(p0, p1, 0, 3, 6, 6), p2, 0, 1, 2, 5), scale);
      const y = f32x4.mul(v128.shuffle<i32>(v128.shuffle<i32>(p0, p1, 1, 4, 7, 7), p2, 0, 1, 2, 6), scale);
      const z = f32x4.mul(v128.shuffle<i32>(v128.shuffle<i32>(p0, p1, 2, 5, 5, 5), p2, 0, 1, 4, 7), scale);
      const down = f32x4.neg(y);
      const n = v128.load(normal + i * 3);
      const wx = weightOf(signed(v128.shuffle<i8>(n, n, 0, 0, 0, 0, 3, 3, 3, 3, 6, 6, 6, 6, 9, 9, 9, 9)));
      const wy = weightOf(signed(v128.shuffle<i8>(n, n, 1, 1, 1, 1, 4, 4, 4, 4, 7, 7, 7, 7, 10, 10, 10, 10)));
      const wz = weightOf(signed(v128.shuffle<i8>(n, n, 2, 2, 2, 2, 5, 5, 5, 5, 8, 8, 8, 8, 11, 11, 11, 11)));
      const least = f32x4.mul(f32x4.add(f32x4.add(wx, wy), wz), f32x4.splat(0.01));
      let sum = F0();
      let all = F0();
      const byX = f32x4.gt(wx, least);
      if (v128.any_true(byX)) {
        sum = v128.and(f32x4.mul(wx, repeatedAt(values, side, z, down)), byX);
        all = v128.and(wx, byX);
      }
      const byY = f32x4.gt(wy, least);
      if (v128.any_true(byY)) {
        sum = f32x4.add(sum, v128.and(f32x4.mul(wy, repeatedAt(values, side, x, z)), byY));
        all = f32x4.add(all, v128.and(wy, byY));
      }
      const byZ = f32x4.gt(wz, least);
      if (v128.any_true(byZ)) {
        sum = f32x4.add(sum, v128.and(f32x4.mul(wz, repeatedAt(values, side, x, down)), byZ));
        all = f32x4.add(all, v128.and(wz, byZ));
      }
      const mean = v128.and(f32x4.div(sum, all), f32x4.gt(all, F0()));
      const at = out + (i << 2);
      v128.store(at, v128.bitselect(toned(tip, mean), v128.load(at), wanted));
    }
}

/** What is left of coverage where a texture is `values`. `depths`: 0, or each texel's share of the depth. */
export function breakUp(
  out: usize,
  coverage: usize,
  values: usize,
  depths: usize,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  depth: f32,
  join: i32,
): void {
  const one = F1();
  const zero = F0();
  const whole = f32x4.splat(depth);
  for (let row = y0; row < y1; row++)
    for (let column = x0 & ~3; column < x1; column += 4) {
      const i = <usize>((row << 7) + column) << 2;
      const share = v128.load(coverage + i);
      if (!v128.any_true(f32x4.gt(share, zero))) {
        v128.store(out + i, zero);
        continue;
      }
      const own = depths ? f32x4.pmin(one, f32x4.mul(whole, v128.load(depths + i))) : whole;
      v128.store(out + i, v128.and(joined(share, v128.load(values + i), own, join), f32x4.gt(share, zero)));
    }
}

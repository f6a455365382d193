/** How a surface bends around places (kernels/bends.ts): sums over samples of it, four at a time. */

/**
 * `points`: place and normal, 6 × float32 each. `near`: seven planes of samples, `stride` bytes apart, `count4` × 4 of them: place,
 * measure, normal. Of each point the sum of the measures within the radius on its own side, by (1 − d²/r²)².
 */
export function bends(points: usize, count: i32, near: usize, stride: usize, count4: i32, radius: f32, out: usize): void {
  const square = f32x4.splat(radius * radius);
  const one = f32x4.splat(<f32>1 / (radius * radius));
  const whole = f32x4.splat(1);
  const zero = f32x4.splat(0);
  for (let n = 0; n < count; n++, points += 24, out += 4) {
    const x = f32x4.splat(load<f32>(points));
    const y = f32x4.splat(load<f32>(points, 4));
    const z = f32x4.splat(load<f32>(points, 8));
    const nx = f32x4.splat(load<f32>(points, 12));
    const ny = f32x4.splat(load<f32>(points, 16));
    const nz = f32x4.splat(load<f32>(points, 20));
    let sum = zero;
    let at = near;
    for (let k = 0; k < count4; k++, at += 16) {
      const dx = f32x4.sub(v128.load(at), x);
      const dy = f32x4.sub(v128.load(at + stride), y);
      const dz = f32x4.sub(v128.load(at + stride * 2), z);
      const d = f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz));
      const side = f32x4.add(
        f32x4.add(f32x4.mul(v128.load(at + stride * 4), nx), f32x4.mul(v128.load(at + stride * 5), ny)),
        f32x4.mul(v128.load(at + stride * 6), nz),
      );
      const counts = v128.and(f32x4.lt(d, square), f32x4.gt(side, zero));
      const w = f32x4.sub(whole, f32x4.mul(d, one));
      sum = f32x4.add(sum, v128.and(counts, f32x4.mul(v128.load(at + stride * 3), f32x4.mul(w, w))));
    }
    const two = f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1);
    store<f32>(out, two + (f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3)));
  }
}

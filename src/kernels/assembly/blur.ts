/**
 * A one-dimensional symmetric filter over one plane of float32. `side`: weights of the centre and of one side,
 * `radius` + 1 numbers. Pairs are added before they are multiplied: three operations for two taps.
 *
 * The source has `radius` more texels on each side of the axis. `first` is the address of the texel that the first
 * one out is made from, `stride` the bytes from row to row, `step` those from a texel to its neighbour along the
 * axis: 4 across, `stride` down. Rows of width come out, a multiple of 4.
 */
export function blur(
  first: usize,
  stride: usize,
  step: usize,
  width: i32,
  height: i32,
  side: usize,
  radius: i32,
  out: usize,
): void {
  for (let y = 0; y < height; y++) {
    const row = first + <usize>y * stride;
    const to = out + ((<usize>y * <usize>width) << 2);
    let x = 0;
    // Sixteen texels at a time keep four sums in registers for each weight that is loaded.
    for (; x + 16 <= width; x += 16) {
      const c = row + (<usize>x << 2);
      const w0 = v128.load_splat<f32>(side);
      let a0 = f32x4.mul(v128.load(c), w0);
      let a1 = f32x4.mul(v128.load(c, 16), w0);
      let a2 = f32x4.mul(v128.load(c, 32), w0);
      let a3 = f32x4.mul(v128.load(c, 48), w0);
      let before = c - step;
      let after = c + step;
      let w = side + 4;
      for (let k = 0; k < radius; k++) {
        const wk = v128.load_splat<f32>(w);
        a0 = f32x4.add(a0, f32x4.mul(wk, f32x4.add(v128.load(before), v128.load(after))));
        a1 = f32x4.add(a1, f32x4.mul(wk, f32x4.add(v128.load(before, 16), v128.load(after, 16))));
        a2 = f32x4.add(a2, f32x4.mul(wk, f32x4.add(v128.load(before, 32), v128.load(after, 32))));
        a3 = f32x4.add(a3, f32x4.mul(wk, f32x4.add(v128.load(before, 48), v128.load(after, 48))));
        before -= step;
        after += step;
        w += 4;
      }
      const o = to + (<usize>x << 2);
      v128.store(o, a0);
      v128.store(o, a1, 16);
      v128.store(o, a2, 32);
      v128.store(o, a3, 48);
    }
    for (; x < width; x += 4) {
      const c = row + (<usize>x << 2);
      let a = f32x4.mul(v128.load(c), v128.load_splat<f32>(side));
      for (let k = 1; k <= radius; k++) {
        const at = <usize>k * step;
        const wk = v128.load_splat<f32>(side + (<usize>k << 2));
        a = f32x4.add(a, f32x4.mul(wk, f32x4.add(v128.load(c - at), v128.load(c + at))));
      }
      v128.store(to + (<usize>x << 2), a);
    }
  }
}

/**
 * One-dimensional symmetric filters over one plane of float32. `side`: weights of the centre and of one side,
 * `radius` + 1 numbers. Pairs are added before they are multiplied: three operations for two taps.
 */

/** Rows of (width + 2·radius) in, rows of width out; width is a multiple of 4. */
export function blurX(src: usize, width: i32, height: i32, side: usize, radius: i32, out: usize): void {
  const stride = <usize>(width + 2 * radius) << 2;
  for (let y = 0; y < height; y++) {
    const row = src + <usize>y * stride + (<usize>radius << 2);
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
      let left = c - 4;
      let right = c + 4;
      let w = side + 4;
      for (let k = 0; k < radius; k++) {
        const wk = v128.load_splat<f32>(w);
        a0 = f32x4.add(a0, f32x4.mul(wk, f32x4.add(v128.load(left), v128.load(right))));
        a1 = f32x4.add(a1, f32x4.mul(wk, f32x4.add(v128.load(left, 16), v128.load(right, 16))));
        a2 = f32x4.add(a2, f32x4.mul(wk, f32x4.add(v128.load(left, 32), v128.load(right, 32))));
        a3 = f32x4.add(a3, f32x4.mul(wk, f32x4.add(v128.load(left, 48), v128.load(right, 48))));
        left -= 4;
        right += 4;
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
        const at = <usize>k << 2;
        a = f32x4.add(a, f32x4.mul(v128.load_splat<f32>(side + at), f32x4.add(v128.load(c - at), v128.load(c + at))));
      }
      v128.store(to + (<usize>x << 2), a);
    }
  }
}

/** (height + 2·radius) rows of width in, height rows out; width is a multiple of 4. */
export function blurY(src: usize, width: i32, height: i32, side: usize, radius: i32, out: usize): void {
  const stride = <usize>width << 2;
  for (let y = 0; y < height; y++) {
    const row = src + <usize>(y + radius) * stride;
    const to = out + <usize>y * stride;
    let x = 0;
    for (; x + 16 <= width; x += 16) {
      const c = row + (<usize>x << 2);
      const w0 = v128.load_splat<f32>(side);
      let a0 = f32x4.mul(v128.load(c), w0);
      let a1 = f32x4.mul(v128.load(c, 16), w0);
      let a2 = f32x4.mul(v128.load(c, 32), w0);
      let a3 = f32x4.mul(v128.load(c, 48), w0);
      let up = c - stride;
      let down = c + stride;
      let w = side + 4;
      for (let k = 0; k < radius; k++) {
        const wk = v128.load_splat<f32>(w);
        a0 = f32x4.add(a0, f32x4.mul(wk, f32x4.add(v128.load(up), v128.load(down))));
        a1 = f32x4.add(a1, f32x4.mul(wk, f32x4.add(v128.load(up, 16), v128.load(down, 16))));
        a2 = f32x4.add(a2, f32x4.mul(wk, f32x4.add(v128.load(up, 32), v128.load(down, 32))));
        a3 = f32x4.add(a3, f32x4.mul(wk, f32x4.add(v128.load(up, 48), v128.load(down, 48))));
        up -= stride;
        down += stride;
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
        const at = <usize>k * stride;
        a = f32x4.add(
          a,
          f32x4.mul(v128.load_splat<f32>(side + (<usize>k << 2)), f32x4.add(v128.load(c - at), v128.load(c + at))),
        );
      }
      v128.store(to + (<usize>x << 2), a);
    }
  }
}

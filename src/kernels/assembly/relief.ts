/**
 * Unit normals from a height field by a pair of separable filters, one that smooths and one that takes the slope.
 * The TypeScript twin is in src/kernels/twin.ts.
 *
 * `field`: float32 heights in texels, (width + 2·radius) × (height + 2·radius), rows `stride` bytes apart. `weights`:
 * 2·radius + 1 numbers that smooth, then as many that take the slope. `rows`: room for 2 × (width + 2·radius) float32.
 * Out: three planes of width × height float32, `plane` bytes apart: x to the right, y up, z outwards. Width is a
 * multiple of 4.
 */
export function reliefNormals(
  field: usize,
  stride: usize,
  width: i32,
  height: i32,
  weights: usize,
  radius: i32,
  rows: usize,
  out: usize,
  plane: usize,
): void {
  const taps = 2 * radius + 1;
  const across = width + 2 * radius;
  const slopes = weights + (<usize>taps << 2);
  const derived = rows + (<usize>across << 2);
  const one = f32x4.splat(1.0);
  for (let y = 0; y < height; y++) {
    const top = field + <usize>y * stride;
    let x = 0;
    for (; x < across; x += 4) {
      // The last four may begin earlier, so that no number beyond the row is touched.
      const at = <usize>(x + 4 > across ? across - 4 : x) << 2;
      let s = f32x4.splat(0.0);
      let d = f32x4.splat(0.0);
      let p = top + at;
      for (let k = 0; k < taps; k++) {
        const v = v128.load(p);
        s = f32x4.add(s, f32x4.mul(v, v128.load_splat<f32>(weights + (<usize>k << 2))));
        d = f32x4.add(d, f32x4.mul(v, v128.load_splat<f32>(slopes + (<usize>k << 2))));
        p += stride;
      }
      v128.store(rows + at, s);
      v128.store(derived + at, d);
    }
    let o = out + ((<usize>y * <usize>width) << 2);
    for (let q = 0; q < width; q += 4) {
      let dx = f32x4.splat(0.0);
      let dy = f32x4.splat(0.0);
      let p = <usize>q << 2;
      for (let k = 0; k < taps; k++) {
        const w = <usize>k << 2;
        dx = f32x4.add(dx, f32x4.mul(v128.load(rows + p), v128.load_splat<f32>(slopes + w)));
        dy = f32x4.add(dy, f32x4.mul(v128.load(derived + p), v128.load_splat<f32>(weights + w)));
        p += 4;
      }
      const scale = f32x4.div(one, f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), one)));
      v128.store(o, f32x4.neg(f32x4.mul(dx, scale)));
      v128.store(o + plane, f32x4.mul(dy, scale));
      v128.store(o + 2 * plane, scale);
      o += 16;
    }
  }
}

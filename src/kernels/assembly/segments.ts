/** How far places lie from segments (kernels/segments.ts): four places at a time. */

/** kernels/segments.ts: SIDE. */
const SIDE: f32 = 0.05;

/** `places`: six planes, `stride` bytes apart, `count4` × 4 of them. `list`: ten float32 a segment. */
export function segments(
  places: usize,
  stride: usize,
  count4: i32,
  list: usize,
  listed: i32,
  reach: f32,
  out: usize,
): void {
  const square = f32x4.splat(reach * reach);
  const side = f32x4.splat(SIDE);
  const none = f32x4.splat(0);
  const whole = f32x4.splat(1);
  for (let n = 0; n < count4; n++, places += 16, out += 16) {
    const x = v128.load(places);
    const y = v128.load(places + stride);
    const z = v128.load(places + stride * 2);
    const nx = v128.load(places + stride * 3);
    const ny = v128.load(places + stride * 4);
    const nz = v128.load(places + stride * 5);
    let best = square;
    let at = list;
    for (let k = 0; k < listed; k++, at += 40) {
      const ex = v128.load32_splat(at, 12);
      const ey = v128.load32_splat(at, 16);
      const ez = v128.load32_splat(at, 20);
      const qx = f32x4.sub(x, v128.load32_splat(at));
      const qy = f32x4.sub(y, v128.load32_splat(at, 4));
      const qz = f32x4.sub(z, v128.load32_splat(at, 8));
      const along = f32x4.add(f32x4.add(f32x4.mul(qx, ex), f32x4.mul(qy, ey)), f32x4.mul(qz, ez));
      const t = f32x4.min(whole, f32x4.max(none, f32x4.mul(along, v128.load32_splat(at, 36))));
      const dx = f32x4.sub(qx, f32x4.mul(ex, t));
      const dy = f32x4.sub(qy, f32x4.mul(ey, t));
      const dz = f32x4.sub(qz, f32x4.mul(ez, t));
      const d = f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz));
      const faces = f32x4.add(
        f32x4.add(f32x4.mul(nx, v128.load32_splat(at, 24)), f32x4.mul(ny, v128.load32_splat(at, 28))),
        f32x4.mul(nz, v128.load32_splat(at, 32)),
      );
      best = v128.bitselect(d, best, v128.and(f32x4.lt(d, best), f32x4.ge(faces, side)));
    }
    v128.store(out, f32x4.sqrt(best));
  }
}

/**
 * `count` float32 (a multiple of 4) through a table of 65,536, in place: the entry of the nearest 16-bit code. 2^23 is
 * added so that the code stands in the lowest bits.
 */
export function throughTable(data: usize, count: i32, table: usize): void {
  const end = data + (<usize>count << 2);
  const scale = f32x4.splat(65535.0);
  for (; data < end; data += 16) {
    const v = f32x4.pmin(f32x4.splat(1.0), f32x4.pmax(f32x4.splat(0.0), v128.load(data)));
    const code = f32x4.add(f32x4.mul(v, scale), f32x4.splat(8388608.0));
    const at = i32x4.shl(v128.and(code, i32x4.splat(0xffff)), 2);
    let out = v128.load32_zero(table + <usize>i32x4.extract_lane(at, 0));
    out = v128.load32_lane(table + <usize>i32x4.extract_lane(at, 1), out, 1);
    out = v128.load32_lane(table + <usize>i32x4.extract_lane(at, 2), out, 2);
    out = v128.load32_lane(table + <usize>i32x4.extract_lane(at, 3), out, 3);
    v128.store(data, out);
  }
}

/** out = base + span · source, `count` float32, a multiple of 4. */
export function affine(out: usize, source: usize, count: i32, base: f32, span: f32): void {
  const end = out + (<usize>count << 2);
  const b = f32x4.splat(base);
  const s = f32x4.splat(span);
  for (; out < end; out += 16, source += 16) v128.store(out, f32x4.add(b, f32x4.mul(s, v128.load(source))));
}

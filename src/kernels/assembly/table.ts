import { F0, F1, LOW16, MOST, WHOLE } from './constants';

/**
 * `count` float32 (a multiple of 4) through a table of 65,536, in place: the entry of the nearest 16-bit code. 2^23 is
 * added so that the code stands in the lowest bits.
 */
export function throughTable(data: usize, count: i32, table: usize): void {
  const end = data + (<usize>count << 2);
  const zero = F0();
  const one = F1();
  const scale = MOST();
  const whole = WHOLE();
  const low = LOW16();
  for (; data < end; data += 16) {
    const v = f32x4.pmin(one, f32x4.pmax(zero, v128.load(data)));
    const code = f32x4.add(f32x4.mul(v, scale), whole);
    const at = i32x4.shl(v128.and(code, low), 2);
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

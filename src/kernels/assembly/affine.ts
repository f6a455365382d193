import { F0, F1 } from './constants';

/** out = base + span · source, held within 0..1 if asked; `count` float32, a multiple of 4. */
export function affine(out: usize, source: usize, count: i32, base: f32, span: f32, held: i32): void {
  const end = out + (<usize>count << 2);
  const b = f32x4.splat(base);
  const s = f32x4.splat(span);
  if (!held) for (; out < end; out += 16, source += 16) v128.store(out, f32x4.add(b, f32x4.mul(s, v128.load(source))));
  const one = F1();
  for (; out < end; out += 16, source += 16) {
    const v = f32x4.add(b, f32x4.mul(s, v128.load(source)));
    v128.store(out, f32x4.pmin(one, f32x4.pmax(F0(), v)));
  }
}

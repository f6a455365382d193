/** Masks, and what they let through; parts of planes put elsewhere. */
import { F1, LOW16, SHARES } from './constants';

/**
 * Mask values from a stored V C plane over an even ground: m = ground + C·(V − ground), turned round if asked. `rows` of `n`
 * texels, those of the source `step` bytes from row to row.
 */
export function maskValues(out: usize, src: usize, n: i32, rows: i32, step: usize, ground: f32, invert: i32): void {
  for (; rows > 0; rows--) {
    maskRow(out, src, n, ground, invert);
    out += <usize>n << 2;
    src += step;
  }
}

function maskRow(out: usize, src: usize, n: i32, ground: f32, invert: i32): void {
  const end = out + (<usize>n << 2);
  const low = LOW16();
  const scale = SHARES();
  const one = F1();
  const g = f32x4.splat(ground);
  for (; out < end; out += 16, src += 16) {
    const both = v128.load(src);
    const v = f32x4.mul(f32x4.convert_i32x4_s(v128.and(both, low)), scale);
    const c = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(both, 16)), scale);
    const m = f32x4.add(g, f32x4.mul(c, f32x4.sub(v, g)));
    v128.store(out, invert ? f32x4.sub(one, m) : m);
  }
}

/** acc += amount·mask·(other − acc) over planes: what a masked or half opaque adjustment does. */
export function lerpPlanes(acc: usize, other: usize, n: i32, planes: i32, amount: f32, mask: usize): void {
  const size = <usize>n << 2;
  const k = f32x4.splat(amount);
  for (let p = 0; p < planes; p++) {
    for (let i: usize = 0; i < size; i += 16) {
      const w = mask ? f32x4.mul(k, v128.load(mask + i)) : k;
      const b = v128.load(acc + i);
      v128.store(acc + i, f32x4.add(b, f32x4.mul(w, f32x4.sub(v128.load(other + i), b))));
    }
    acc += size;
    other += size;
  }
}

/** Rows of `n` float32, a few at a time or many; `fromStep` and `toStep` bytes from row to row. They do not overlap. */
export function copyRows(from: usize, fromStep: usize, to: usize, toStep: usize, n: i32, rows: i32): void {
  const bytes = <usize>n << 2;
  if (fromStep == bytes && toStep == bytes) return memory.copy(to, from, bytes * <usize>rows);
  const fours = bytes & ~15;
  for (; rows > 0; rows--) {
    let i: usize = 0;
    for (; i < fours; i += 16) v128.store(to + i, v128.load(from + i));
    for (; i < bytes; i += 4) store<f32>(to + i, load<f32>(from + i));
    from += fromStep;
    to += toStep;
  }
}

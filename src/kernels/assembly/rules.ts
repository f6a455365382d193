/** Loops of rules (kernels/rules.ts), in double precision, two numbers at a time. */

/** Of `count` texels, their numbers at `there`: (position − centre) / size, x, y and z into planes of `n`; from `count` on the last one. */
export function spaced(
  position: usize,
  there: usize,
  count: i32,
  n: i32,
  cx: f64,
  cy: f64,
  cz: f64,
  size: f64,
  x: usize,
  y: usize,
  z: usize,
): void {
  const centre = f64x2.replace_lane(f64x2.splat(cx), 1, cy);
  const sizes = f64x2.splat(size);
  for (let i = 0; i < n; i++, x += 4, y += 4, z += 4) {
    const texel = load<i32>(there + (<usize>(i < count ? i : count - 1) << 2));
    const at = position + <usize>texel * 12;
    const both = f64x2.div(f64x2.sub(f64x2.promote_low_f32x4(v128.load64_zero(at)), centre), sizes);
    const near = f32x4.demote_f64x2_zero(both);
    store<f32>(x, f32x4.extract_lane(near, 0));
    store<f32>(y, f32x4.extract_lane(near, 1));
    store<f32>(z, <f32>((<f64>load<f32>(at, 8) - cz) / size));
  }
}

/** out = from + span · by; `count` float32, a multiple of 4. */
export function pushed(out: usize, from: usize, by: usize, count: i32, span: f32): void {
  const end = out + (<usize>count << 2);
  const s = f32x4.splat(span);
  for (; out < end; out += 16, from += 16, by += 16)
    v128.store(out, f32x4.add(v128.load(from), f32x4.mul(s, v128.load(by))));
}

// @ts-ignore: decorator
@inline
function low(at: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load64_zero(at));
}

// @ts-ignore: decorator
@inline
function held(v: v128): v128 {
  return f64x2.pmin(f64x2.splat(1), f64x2.pmax(f64x2.splat(0), v));
}

// @ts-ignore: decorator
@inline
function put(at: usize, v: v128): void {
  v128.store64_lane(at, f32x4.demote_f64x2_zero(v), 0);
}

/** kernels/rules.ts; `count` a multiple of 4. */
export function alongLine(
  out: usize,
  x: usize,
  y: usize,
  z: usize,
  count: i32,
  gx: f64,
  gy: f64,
  gz: f64,
  start: f64,
  from: f64,
  to: f64,
  smooth: i32,
): void {
  const sx = f64x2.splat(gx);
  const sy = f64x2.splat(gy);
  const sz = f64x2.splat(gz);
  const base = f64x2.splat(from);
  const span = f64x2.splat(to - from);
  const two = f64x2.splat(2);
  const three = f64x2.splat(3);
  const end = out + (<usize>count << 2);
  for (; out < end; out += 8, x += 8, y += 8, z += 8) {
    const flat = f64x2.add(f64x2.mul(low(x), sx), f64x2.mul(low(y), sy));
    let t = held(f64x2.add(f64x2.add(flat, f64x2.mul(low(z), sz)), f64x2.splat(start)));
    if (smooth) t = f64x2.mul(f64x2.mul(t, t), f64x2.sub(three, f64x2.mul(two, t)));
    put(out, f64x2.add(base, f64x2.mul(span, t)));
  }
}

/** kernels/rules.ts; `count` a multiple of 4. */
export function stretched(data: usize, count: i32, black: f64, white: f64, from: f64, span: f64): void {
  const end = data + (<usize>count << 2);
  const b = f64x2.splat(black);
  const w = f64x2.splat(white);
  const base = f64x2.splat(from);
  const s = f64x2.splat(span);
  for (; data < end; data += 8) put(data, f64x2.add(base, f64x2.mul(s, held(f64x2.div(f64x2.sub(low(data), b), w)))));
}

// @ts-ignore: decorator
@inline
function numberAt(table: usize, i: i32): f32 {
  return load<f32>(table + (<usize>i << 2));
}

/** kernels/rules.ts; `count` a multiple of 4. */
export function powered(data: usize, count: i32, black: f32, white: f32, from: f32, span: f32, powers: usize): void {
  const end = data + (<usize>count << 2);
  const mantissas = powers + 512;
  const b = f32x4.splat(black);
  const w = f32x4.splat(white);
  const base = f32x4.splat(from);
  const s = f32x4.splat(span);
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const unit = f32x4.splat(1.0 / 2048.0);
  for (; data < end; data += 16) {
    const v = f32x4.pmin(one, f32x4.pmax(zero, f32x4.div(f32x4.sub(v128.load(data), b), w)));
    const e = i32x4.shr_u(v, 23);
    const i = i32x4.shr_u(v128.and(v, i32x4.splat(0x7fffff)), 11);
    const share = f32x4.mul(f32x4.convert_i32x4_s(v128.and(v, i32x4.splat(2047))), unit);
    const i0 = i32x4.extract_lane(i, 0);
    const i1 = i32x4.extract_lane(i, 1);
    const i2 = i32x4.extract_lane(i, 2);
    const i3 = i32x4.extract_lane(i, 3);
    let low = f32x4.splat(numberAt(mantissas, i0));
    low = f32x4.replace_lane(low, 1, numberAt(mantissas, i1));
    low = f32x4.replace_lane(low, 2, numberAt(mantissas, i2));
    low = f32x4.replace_lane(low, 3, numberAt(mantissas, i3));
    let high = f32x4.splat(numberAt(mantissas, i0 + 1));
    high = f32x4.replace_lane(high, 1, numberAt(mantissas, i1 + 1));
    high = f32x4.replace_lane(high, 2, numberAt(mantissas, i2 + 1));
    high = f32x4.replace_lane(high, 3, numberAt(mantissas, i3 + 1));
    let scale = f32x4.splat(numberAt(powers, i32x4.extract_lane(e, 0)));
    scale = f32x4.replace_lane(scale, 1, numberAt(powers, i32x4.extract_lane(e, 1)));
    scale = f32x4.replace_lane(scale, 2, numberAt(powers, i32x4.extract_lane(e, 2)));
    scale = f32x4.replace_lane(scale, 3, numberAt(powers, i32x4.extract_lane(e, 3)));
    const m = f32x4.add(low, f32x4.mul(f32x4.sub(high, low), share));
    const p = v128.bitselect(one, f32x4.mul(m, scale), f32x4.ge(v, one));
    v128.store(data, f32x4.add(base, f32x4.mul(s, p)));
  }
}

/** Bytes of a piece of a ramp: high, three colours, what they gain. */
// @ts-ignore: decorator
@inline const PIECE: usize = 56;

/** The piece of a value, from the first one on. */
// @ts-ignore: decorator
@inline
function pieceOf(pieces: usize, v: f64): usize {
  while (load<f64>(pieces) < v) pieces += PIECE;
  return pieces;
}

/** Planes of `count` numbers, a multiple of 4; what lies in one piece with its neighbour is done with it. */
export function alongRamp(out: usize, values: usize, count: i32, pieces: usize): void {
  const plane = <usize>count << 2;
  const end = values + plane;
  for (; values < end; values += 8, out += 8) {
    const v = low(values);
    const piece = pieceOf(pieces, f64x2.extract_lane(v, 0));
    const last = pieceOf(pieces, f64x2.extract_lane(v, 1));
    for (let c: usize = 0; c < 3; c++) {
      const at = piece + (c << 3);
      const to = out + c * plane;
      if (piece == last) put(to, f64x2.add(v128.load64_splat(at, 8), f64x2.mul(v128.load64_splat(at, 32), v)));
      else {
        store<f32>(to, <f32>(load<f64>(at, 8) + load<f64>(at, 32) * f64x2.extract_lane(v, 0)));
        const other = last + (c << 3);
        store<f32>(to, <f32>(load<f64>(other, 8) + load<f64>(other, 32) * f64x2.extract_lane(v, 1)), 4);
      }
    }
  }
}

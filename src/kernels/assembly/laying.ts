/** Dabs over each other in a stroke's tile, 128 × 128 float32, and strokes onto texels (kernels/dabs.ts). */
import { F0, F1, FH, LOW16, MOST, SHARES, WHOLE } from './constants';
import { within } from './dabs';

const TILE_BYTES: usize = 65536;

/** Raises values towards `cap` by `flow` · gains of the way that is left. Gains are 0 outside of the rectangle. */
export function layDab(values: usize, gains: usize, x0: i32, y0: i32, x1: i32, y1: i32, flow: f32, cap: f32, firm: f32): void {
  if (firm > 0) return layFirmDab(values, gains, x0, y0, x1, y1, flow, cap, firm);
  const most = f32x4.splat(cap);
  const by = f32x4.splat(flow);
  for (let y = y0; y < y1; y++)
    for (let x = x0 & ~3; x < x1; x += 4) {
      const i = <usize>((y << 7) + x) << 2;
      const gain = v128.load(gains + i);
      const old = v128.load(values + i);
      const raised = f32x4.add(old, f32x4.mul(f32x4.mul(f32x4.sub(most, old), by), gain));
      // What is above the cap stays as it is.
      v128.store(values + i, f32x4.pmax(old, f32x4.pmin(most, raised)));
    }
}

/**
 * As `layDab`, but a texel's cap is 1 − firm · (1 − gain) of `cap`, and its flow larger by the same share (kernels/dabs.ts). A loop of its
 * own, since most dabs are soft and need fewer operations.
 */
function layFirmDab(values: usize, gains: usize, x0: i32, y0: i32, x1: i32, y1: i32, flow: f32, cap: f32, firm: f32): void {
  const all = f32x4.splat(cap);
  const by = f32x4.splat(flow);
  const one = F1();
  const held = f32x4.splat(firm);
  for (let y = y0; y < y1; y++)
    for (let x = x0 & ~3; x < x1; x += 4) {
      const i = <usize>((y << 7) + x) << 2;
      const gain = v128.load(gains + i);
      const lies = f32x4.gt(gain, F0());
      if (!v128.any_true(lies)) continue;
      const old = v128.load(values + i);
      const rest = f32x4.mul(held, f32x4.sub(one, gain));
      const most = f32x4.mul(all, f32x4.sub(one, rest));
      const share = v128.and(f32x4.add(gain, rest), lies);
      const raised = f32x4.add(old, f32x4.mul(f32x4.mul(f32x4.sub(most, old), by), share));
      v128.store(values + i, f32x4.pmax(old, f32x4.pmin(most, raised)));
    }
}

/** Lays numbers over those before, `count` planes of a tile. Gains are 0 outside of the rectangle. */
export function layOwn(
  planes: usize,
  own: usize,
  count: i32,
  values: usize,
  gains: usize,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  flow: f32,
  cap: f32,
  firm: f32,
): void {
  const whole = f32x4.splat(cap);
  const by = f32x4.splat(flow);
  const one = F1();
  const held = f32x4.splat(firm);
  for (let y = y0; y < y1; y++)
    for (let x = x0 & ~3; x < x1; x += 4) {
      const i = <usize>((y << 7) + x) << 2;
      const gain = v128.load(gains + i);
      const rest = f32x4.mul(held, f32x4.sub(one, gain));
      const most = f32x4.mul(whole, f32x4.sub(one, rest));
      const a = v128.and(f32x4.mul(by, f32x4.add(gain, rest)), f32x4.gt(gain, F0()));
      const lies = f32x4.ne(a, F0());
      if (!v128.any_true(lies)) continue;
      const before = f32x4.pmin(one, f32x4.div(v128.load(values + i), most));
      const all = f32x4.sub(f32x4.add(before, a), f32x4.mul(before, a));
      const share = v128.and(f32x4.div(a, all), lies);
      let at = planes + i;
      for (let k = 0; k < count; k++) {
        const old = v128.load(at);
        const way = f32x4.sub(v128.load_splat<f32>(own + (<usize>k << 2)), old);
        v128.store(at, f32x4.add(old, f32x4.mul(way, share)));
        at += TILE_BYTES;
      }
    }
}

/** 0 … 65535 as a code, half a step was added: whole floats lie in the low bits once 2²³ is added. */
// @ts-ignore: decorator
@inline
function code(v: v128): v128 {
  return v128.and(f32x4.add(f32x4.floor(f32x4.pmin(v, MOST())), WHOLE()), LOW16());
}

/** What is laid over one channel. */
// @ts-ignore: decorator
@inline
function over(own: v128, before: v128, ws: v128, wb: v128): v128 {
  return f32x4.add(f32x4.mul(own, ws), f32x4.mul(f32x4.convert_i32x4_s(before), wb));
}

/**
 * Source-over with straight alpha on four channels of 16 bits. `before`: 0, or what was there; `value`: three f32, 0 … 1;
 * `colours`: 0, or three planes of a tile instead.
 */
export function paintColour(
  after: usize,
  before: usize,
  coverage: usize,
  colours: usize,
  value: usize,
  amount: f32,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
): void {
  if (!before && !colours) return paintBare(after, coverage, value, amount, x0, y0, x1, y1);
  const by = f32x4.splat(amount);
  const one = F1();
  const half = FH();
  const most = MOST();
  const low16 = LOW16();
  for (let y = y0; y < y1; y++)
    for (let x = x0 & ~3; x < x1; x += 4) {
      const t = <usize>((y << 7) + x);
      let as = f32x4.mul(v128.load(coverage + (t << 2)), by);
      if (x < x0 || x + 4 > x1) as = v128.and(as, within(x, x0, x1));
      const lies = f32x4.gt(as, F0());
      if (!v128.any_true(lies)) continue;
      const plane = colours + (t << 2);
      let r = f32x4.mul(colours ? v128.load(plane) : v128.load_splat<f32>(value), most);
      let g = f32x4.mul(colours ? v128.load(plane + TILE_BYTES) : v128.load_splat<f32>(value, 4), most);
      let b = f32x4.mul(colours ? v128.load(plane + 2 * TILE_BYTES) : v128.load_splat<f32>(value, 8), most);
      let ao = as;
      if (before) {
        const lo = v128.load(before + (t << 3));
        const hi = v128.load(before + (t << 3), 16);
        const rg = v128.shuffle<i32>(lo, hi, 0, 2, 4, 6);
        const ba = v128.shuffle<i32>(lo, hi, 1, 3, 5, 7);
        const ab = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(ba, 16)), SHARES());
        ao = f32x4.add(as, f32x4.mul(ab, f32x4.sub(one, as)));
        const ws = f32x4.div(as, ao);
        const wb = f32x4.sub(one, ws);
        r = over(r, v128.and(rg, low16), ws, wb);
        g = over(g, i32x4.shr_u(rg, 16), ws, wb);
        b = over(b, v128.and(ba, low16), ws, wb);
      }
      const alpha = code(f32x4.add(f32x4.mul(ao, most), half));
      const rg = v128.or(code(f32x4.add(r, half)), i32x4.shl(code(f32x4.add(g, half)), 16));
      const ba = v128.or(code(f32x4.add(b, half)), i32x4.shl(alpha, 16));
      put(after + (t << 3), rg, ba, lies);
    }
}

/** Where there was nothing: one colour, and as much of it as the stroke gives. */
function paintBare(after: usize, coverage: usize, value: usize, amount: f32, x0: i32, y0: i32, x1: i32, y1: i32): void {
  const by = f32x4.splat(amount);
  const half = FH();
  const most = MOST();
  const r = code(f32x4.add(f32x4.mul(v128.load_splat<f32>(value), most), half));
  const g = code(f32x4.add(f32x4.mul(v128.load_splat<f32>(value, 4), most), half));
  const rg = v128.or(r, i32x4.shl(g, 16));
  const b = code(f32x4.add(f32x4.mul(v128.load_splat<f32>(value, 8), most), half));
  for (let y = y0; y < y1; y++)
    for (let x = x0 & ~3; x < x1; x += 4) {
      const t = <usize>((y << 7) + x);
      let as = f32x4.mul(v128.load(coverage + (t << 2)), by);
      if (x < x0 || x + 4 > x1) as = v128.and(as, within(x, x0, x1));
      const lies = f32x4.gt(as, F0());
      if (!v128.any_true(lies)) continue;
      const ba = v128.or(b, i32x4.shl(code(f32x4.add(f32x4.mul(as, most), half)), 16));
      put(after + (t << 3), rg, ba, lies);
    }
}

/** Writes four texels where they lie. */
// @ts-ignore: decorator
@inline
function put(at: usize, rg: v128, ba: v128, lies: v128): void {
  let lo = v128.shuffle<i32>(rg, ba, 0, 4, 1, 5);
  let hi = v128.shuffle<i32>(rg, ba, 2, 6, 3, 7);
  if (!i32x4.all_true(lies)) {
    lo = v128.bitselect(lo, v128.load(at), v128.shuffle<i32>(lies, lies, 0, 0, 1, 1));
    hi = v128.bitselect(hi, v128.load(at, 16), v128.shuffle<i32>(lies, lies, 2, 2, 3, 3));
  }
  v128.store(at, lo);
  v128.store(at, hi, 16);
}

/** Source-over on two channels, a value and its alpha. */
export function paintValue(
  after: usize,
  before: usize,
  coverage: usize,
  colours: usize,
  value: usize,
  amount: f32,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
): void {
  const by = f32x4.splat(amount);
  const one = F1();
  const half = FH();
  const most = MOST();
  for (let y = y0; y < y1; y++)
    for (let x = x0 & ~3; x < x1; x += 4) {
      const t = <usize>((y << 7) + x) << 2;
      let as = f32x4.mul(v128.load(coverage + t), by);
      if (x < x0 || x + 4 > x1) as = v128.and(as, within(x, x0, x1));
      const lies = f32x4.gt(as, F0());
      if (!v128.any_true(lies)) continue;
      let v = f32x4.mul(colours ? v128.load(colours + t) : v128.load_splat<f32>(value), most);
      let ao = as;
      if (before) {
        const both = v128.load(before + t);
        const ab = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(both, 16)), SHARES());
        ao = f32x4.add(as, f32x4.mul(ab, f32x4.sub(one, as)));
        const ws = f32x4.div(as, ao);
        v = over(v, v128.and(both, LOW16()), ws, f32x4.sub(one, ws));
      }
      const alpha = code(f32x4.add(f32x4.mul(ao, most), half));
      const painted = v128.or(code(f32x4.add(v, half)), i32x4.shl(alpha, 16));
      v128.store(after + t, v128.bitselect(painted, v128.load(after + t), lies));
    }
}

/** Zeros, in whole groups of four texels. */
export function clearRect(plane: usize, x0: i32, y0: i32, x1: i32, y1: i32): void {
  const first = <usize>(x0 & ~3) << 2;
  const bytes = (<usize>((x1 + 3) & ~3) << 2) - first;
  const zero = F0();
  for (let at = plane + first + (<usize>(y0 << 7) << 2), rows = y1 - y0; rows > 0; rows--, at += 512)
    for (let i: usize = 0; i < bytes; i += 16) v128.store(at + i, zero);
}

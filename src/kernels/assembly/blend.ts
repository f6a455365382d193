/**
 * Compositing in SIMD. Formulas and the numbering of the modes: src/core/colour/blend.ts (SEPARABLE_BLENDS).
 * The TypeScript twin of every export is in src/kernels/twin.ts.
 *
 * Memory (byte addresses, 16-byte aligned; every count of texels is a multiple of 4):
 *   accumulator     planes of float32, one after another: 3 colour planes or 1 value plane, then alpha or
 *                   coverage (not read or written where the backdrop is opaque)
 *   stored source   uint16: R G B A interleaved, or V C interleaved
 *   float source    planes, as the accumulator
 *   mask            float32, one a texel; address 0: no mask
 *
 * Planes, not interleaved texels: four texels share one alpha and one division, which is twice as fast (measured:
 * multiply over stored RGBA 230 against 110 million texels a second).
 */

import { F0, F1, FH, LIMIT, LOW16, NEAR1, SHARES } from './constants';

// @ts-ignore: decorator
@inline const SCALE: f32 = 1.0 / 65535.0;

/**
 * Tags: types stand for modes and backdrops, so that each pair is compiled as a loop of its own
 * (constants passed to inlined functions are not folded, comparisons of type ids are).
 */
class Normal {}
class Multiply {}
class Screen {}
class Overlay {}
class Darken {}
class Lighten {}
class ColourDodge {}
class ColourBurn {}
class HardLight {}
class SoftLight {}
class Difference {}
class Exclusion {}
class Add {}
class Subtract {}
class Divide {}
class LinearBurn {}
class Offset {}
class Opaque {}
class Clear {}

// @ts-ignore: decorator
@inline
function is<A, B>(): bool {
  return idof<A>() == idof<B>();
}

/** Modes that heights join by, which go beyond 0 … 1 between layers; colours never do. */
// @ts-ignore: decorator
@inline
function isFree<M>(): bool {
  return is<M, Offset>() || is<M, Normal>() || is<M, Lighten>() || is<M, Darken>();
}

// @ts-ignore: decorator
@inline
function clamp(v: v128): v128 {
  // The pseudo kinds are one instruction each; the exact ones, which look after NaN and −0, are six.
  return f32x4.pmax(F0(), f32x4.pmin(F1(), v));
}

// @ts-ignore: decorator
@inline
function hardLight(b: v128, s: v128, one: v128): v128 {
  const bs = f32x4.mul(b, s);
  const low = f32x4.add(bs, bs);
  const inverse = f32x4.mul(f32x4.sub(one, b), f32x4.sub(one, s));
  const high = f32x4.sub(one, f32x4.add(inverse, inverse));
  return v128.bitselect(low, high, f32x4.le(s, FH()));
}

/** Both branches of overlay are b + (2s − 1)·min(b, 1 − b): no branch, half the instructions. */
// @ts-ignore: decorator
@inline
function overlay(b: v128, s: v128, one: v128): v128 {
  const lean = f32x4.sub(f32x4.add(s, s), one);
  return f32x4.add(b, f32x4.mul(lean, f32x4.pmin(b, f32x4.sub(one, b))));
}

// @ts-ignore: decorator
@inline
function softLight(b: v128, s: v128, one: v128): v128 {
  const two = f32x4.splat(2.0);
  const s2 = f32x4.mul(two, s);
  const low = f32x4.sub(b, f32x4.mul(f32x4.mul(f32x4.sub(one, s2), b), f32x4.sub(one, b)));
  const poly = f32x4.mul(
    f32x4.add(f32x4.mul(f32x4.sub(f32x4.mul(f32x4.splat(16.0), b), f32x4.splat(12.0)), b), f32x4.splat(4.0)),
    b,
  );
  const d = v128.bitselect(poly, f32x4.sqrt(b), f32x4.le(b, f32x4.splat(0.25)));
  const high = f32x4.add(b, f32x4.mul(f32x4.sub(s2, one), f32x4.sub(d, b)));
  return v128.bitselect(low, high, f32x4.le(s, FH()));
}

// @ts-ignore: decorator
@inline
function mix<M>(b: v128, s: v128, one: v128): v128 {
  if (is<M, Normal>()) return s;
  if (is<M, Multiply>()) return f32x4.mul(b, s);
  if (is<M, Screen>()) return f32x4.sub(f32x4.add(b, s), f32x4.mul(b, s));
  if (is<M, Overlay>()) return overlay(b, s, one);
  if (is<M, Darken>()) return f32x4.pmin(b, s);
  if (is<M, Lighten>()) return f32x4.pmax(b, s);
  if (is<M, ColourDodge>()) {
    const q = f32x4.pmin(one, f32x4.div(b, f32x4.sub(one, s)));
    const lit = v128.bitselect(one, q, f32x4.ge(s, one));
    return v128.bitselect(F0(), lit, f32x4.le(b, LIMIT()));
  }
  if (is<M, ColourBurn>()) {
    const q = f32x4.sub(one, f32x4.pmin(one, f32x4.div(f32x4.sub(one, b), s)));
    const dark = v128.bitselect(F0(), q, f32x4.le(s, F0()));
    return v128.bitselect(one, dark, f32x4.ge(b, NEAR1()));
  }
  if (is<M, HardLight>()) return hardLight(b, s, one);
  if (is<M, SoftLight>()) return softLight(b, s, one);
  if (is<M, Difference>()) return f32x4.abs(f32x4.sub(b, s));
  if (is<M, Exclusion>()) {
    const bs = f32x4.mul(b, s);
    return f32x4.sub(f32x4.add(b, s), f32x4.add(bs, bs));
  }
  if (is<M, Add>()) return f32x4.pmin(one, f32x4.add(b, s));
  if (is<M, Subtract>()) return f32x4.pmax(F0(), f32x4.sub(b, s));
  if (is<M, Divide>()) {
    const q = v128.bitselect(one, f32x4.div(b, s), f32x4.le(s, b));
    return v128.bitselect(F0(), q, f32x4.le(b, LIMIT()));
  }
  if (is<M, LinearBurn>()) return f32x4.pmax(F0(), f32x4.sub(f32x4.add(b, s), one));
  return f32x4.sub(f32x4.add(b, s), FH());
}

/**
 * One channel of four texels over `b`. `as`: the source's alpha; over a clear backdrop `ws` = as·(1−ab),
 * `wb` = ab·(1−as), `wm` = as·ab, each divided by the alpha of the result.
 */
// @ts-ignore: decorator
@inline
function channel<M, B>(b: v128, s: v128, as: v128, ws: v128, wb: v128, wm: v128, one: v128, value: bool = false): v128 {
  if (is<B, Opaque>()) {
    // What the mode changes, without taking b away again where the formula adds it.
    let change: v128;
    if (is<M, Overlay>()) change = f32x4.mul(f32x4.sub(f32x4.add(s, s), one), f32x4.pmin(b, f32x4.sub(one, b)));
    else if (is<M, Multiply>()) change = f32x4.mul(b, f32x4.sub(s, one));
    else if (is<M, Screen>()) change = f32x4.mul(s, f32x4.sub(one, b));
    else change = f32x4.sub(mix<M>(b, s, one), b);
    return f32x4.add(b, f32x4.mul(as, change));
  }
  const r = f32x4.add(f32x4.add(f32x4.mul(s, ws), f32x4.mul(b, wb)), f32x4.mul(mix<M>(b, s, one), wm));
  return value && isFree<M>() ? r : clamp(r);
}

/** 1 / alpha of the result, 0 where nothing is left: then all weights are 0 and so is the result. */
// @ts-ignore: decorator
@inline
function inverseAlpha(ab: v128, as: v128): v128 {
  const ao = f32x4.sub(f32x4.add(as, ab), f32x4.mul(as, ab));
  return v128.and(f32x4.div(F1(), ao), f32x4.gt(ao, F0()));
}

// @ts-ignore: decorator
@inline
function low16(v: v128, low: v128): v128 {
  return f32x4.convert_i32x4_s(v128.and(v, low));
}

// @ts-ignore: decorator
@inline
function high16(v: v128): v128 {
  return f32x4.convert_i32x4_s(i32x4.shr_u(v, 16));
}

function colourLoop<M, B>(acc: usize, src: usize, n: i32, rows: i32, step: usize, opacity: f32, mask: usize, plane: usize): void {
  const scale = SHARES();
  const low = LOW16();
  const one = F1();
  const op = f32x4.splat(opacity * SCALE);
  for (; rows > 0; rows--) {
    const end = acc + (<usize>n << 2);
    const next = src + step;
    for (; acc < end; acc += 16, src += 32) {
      const first = v128.load(src);
      const second = v128.load(src, 16);
      const rg = v128.shuffle<i32>(first, second, 0, 2, 4, 6);
      const ba = v128.shuffle<i32>(first, second, 1, 3, 5, 7);
      let as = f32x4.mul(high16(ba), op);
      if (mask) {
        as = f32x4.mul(as, v128.load(mask));
        mask += 16;
      }
      let ws = as;
      let wb = as;
      let wm = as;
      let alpha = as;
      if (is<B, Clear>()) {
        const ab = v128.load(acc + 3 * plane);
        const inverse = inverseAlpha(ab, as);
        wm = f32x4.mul(as, ab);
        alpha = f32x4.sub(f32x4.add(as, ab), wm);
        ws = f32x4.mul(f32x4.sub(as, wm), inverse);
        wb = f32x4.mul(f32x4.sub(ab, wm), inverse);
        wm = f32x4.mul(wm, inverse);
      }
      // All is read before anything is written: planes often lie a multiple of 4 KiB apart, and a processor takes a read for
      // one of what was just written there.
      const r = v128.load(acc);
      const g = v128.load(acc + plane);
      const b = v128.load(acc + 2 * plane);
      const red = channel<M, B>(r, f32x4.mul(low16(rg, low), scale), as, ws, wb, wm, one);
      const green = channel<M, B>(g, f32x4.mul(high16(rg), scale), as, ws, wb, wm, one);
      const blue = channel<M, B>(b, f32x4.mul(low16(ba, low), scale), as, ws, wb, wm, one);
      v128.store(acc, red);
      v128.store(acc + plane, green);
      v128.store(acc + 2 * plane, blue);
      if (is<B, Clear>()) v128.store(acc + 3 * plane, alpha);
    }
    src = next;
  }
}

function valueLoop<M, B>(acc: usize, src: usize, n: i32, rows: i32, step: usize, opacity: f32, mask: usize, plane: usize): void {
  const scale = SHARES();
  const low = LOW16();
  const one = F1();
  const op = f32x4.splat(opacity * SCALE);
  for (; rows > 0; rows--) {
    const end = acc + (<usize>n << 2);
    const next = src + step;
    for (; acc < end; acc += 16, src += 16) {
      const both = v128.load(src);
      let as = f32x4.mul(high16(both), op);
      if (mask) {
        as = f32x4.mul(as, v128.load(mask));
        mask += 16;
      }
      let ws = as;
      let wb = as;
      let wm = as;
      let coverage = as;
      const b = v128.load(acc);
      if (is<B, Clear>()) {
        const ab = v128.load(acc + plane);
        const inverse = inverseAlpha(ab, as);
        wm = f32x4.mul(as, ab);
        coverage = f32x4.sub(f32x4.add(as, ab), wm);
        ws = f32x4.mul(f32x4.sub(as, wm), inverse);
        wb = f32x4.mul(f32x4.sub(ab, wm), inverse);
        wm = f32x4.mul(wm, inverse);
      }
      v128.store(acc, channel<M, B>(b, f32x4.mul(low16(both, low), scale), as, ws, wb, wm, one, true));
      if (is<B, Clear>()) v128.store(acc + plane, coverage);
    }
    src = next;
  }
}

function floatLoop<M, B>(acc: usize, src: usize, n: i32, opacity: f32, mask: usize, channels: i32): void {
  const plane = <usize>n << 2;
  const end = acc + plane;
  const alpha = <usize>channels * plane;
  const op = f32x4.splat(opacity);
  const one = F1();
  for (; acc < end; acc += 16, src += 16) {
    let as = f32x4.mul(v128.load(src + alpha), op);
    if (mask) {
      as = f32x4.mul(as, v128.load(mask));
      mask += 16;
    }
    let ws = as;
    let wb = as;
    let wm = as;
    let over = as;
    if (is<B, Clear>()) {
      const ab = v128.load(acc + alpha);
      const inverse = inverseAlpha(ab, as);
      wm = f32x4.mul(as, ab);
      over = f32x4.sub(f32x4.add(as, ab), wm);
      ws = f32x4.mul(f32x4.sub(as, wm), inverse);
      wb = f32x4.mul(f32x4.sub(ab, wm), inverse);
      wm = f32x4.mul(wm, inverse);
    }
    if (channels == 3) {
      const r = v128.load(acc);
      const g = v128.load(acc + plane);
      const b = v128.load(acc + 2 * plane);
      const red = channel<M, B>(r, v128.load(src), as, ws, wb, wm, one);
      const green = channel<M, B>(g, v128.load(src + plane), as, ws, wb, wm, one);
      const blue = channel<M, B>(b, v128.load(src + 2 * plane), as, ws, wb, wm, one);
      v128.store(acc, red);
      v128.store(acc + plane, green);
      v128.store(acc + 2 * plane, blue);
    } else v128.store(acc, channel<M, B>(v128.load(acc), v128.load(src), as, ws, wb, wm, one, true));
    if (is<B, Clear>()) v128.store(acc + alpha, over);
  }
}

/** Two layers without masks over an opaque backdrop: what the first made stays in registers (measured: a sixth quicker). */
function colourPair<M, N>(acc: usize, first: usize, second: usize, n: i32, rows: i32, step: usize, op1: f32, op2: f32, plane: usize): void {
  const scale = SHARES();
  const low = LOW16();
  const one = F1();
  const o1 = f32x4.splat(op1 * SCALE);
  const o2 = f32x4.splat(op2 * SCALE);
  for (; rows > 0; rows--) {
    const end = acc + (<usize>n << 2);
    const next1 = first + step;
    const next2 = second + step;
    for (; acc < end; acc += 16, first += 32, second += 32) {
      let u = v128.load(first);
      let v = v128.load(first, 16);
      let rg = v128.shuffle<i32>(u, v, 0, 2, 4, 6);
      let ba = v128.shuffle<i32>(u, v, 1, 3, 5, 7);
      let as = f32x4.mul(high16(ba), o1);
      let red = channel<M, Opaque>(v128.load(acc), f32x4.mul(low16(rg, low), scale), as, as, as, as, one);
      let green = channel<M, Opaque>(v128.load(acc + plane), f32x4.mul(high16(rg), scale), as, as, as, as, one);
      let blue = channel<M, Opaque>(v128.load(acc + 2 * plane), f32x4.mul(low16(ba, low), scale), as, as, as, as, one);
      u = v128.load(second);
      v = v128.load(second, 16);
      rg = v128.shuffle<i32>(u, v, 0, 2, 4, 6);
      ba = v128.shuffle<i32>(u, v, 1, 3, 5, 7);
      as = f32x4.mul(high16(ba), o2);
      red = channel<N, Opaque>(red, f32x4.mul(low16(rg, low), scale), as, as, as, as, one);
      green = channel<N, Opaque>(green, f32x4.mul(high16(rg), scale), as, as, as, as, one);
      blue = channel<N, Opaque>(blue, f32x4.mul(low16(ba, low), scale), as, as, as, as, one);
      v128.store(acc, red);
      v128.store(acc + plane, green);
      v128.store(acc + 2 * plane, blue);
    }
    first = next1;
    second = next2;
  }
}

function pairOver<M>(mode: i32, acc: usize, first: usize, second: usize, n: i32, rows: i32, step: usize, op1: f32, op2: f32, plane: usize): void {
  if (mode == 0) colourPair<M, Normal>(acc, first, second, n, rows, step, op1, op2, plane);
  else if (mode == 1) colourPair<M, Multiply>(acc, first, second, n, rows, step, op1, op2, plane);
  else if (mode == 2) colourPair<M, Screen>(acc, first, second, n, rows, step, op1, op2, plane);
  else colourPair<M, Overlay>(acc, first, second, n, rows, step, op1, op2, plane);
}


/** Modes below this come in pairs too: normal, multiply, screen, overlay. */
// @ts-ignore: decorator
@inline const PAIRED: i32 = 4;

function pair(
  mode: i32,
  over: i32,
  acc: usize,
  first: usize,
  second: usize,
  n: i32,
  rows: i32,
  step: usize,
  op1: f32,
  op2: f32,
  plane: usize,
): void {
  if (mode == 0) pairOver<Normal>(over, acc, first, second, n, rows, step, op1, op2, plane);
  else if (mode == 1) pairOver<Multiply>(over, acc, first, second, n, rows, step, op1, op2, plane);
  else if (mode == 2) pairOver<Screen>(over, acc, first, second, n, rows, step, op1, op2, plane);
  else pairOver<Overlay>(over, acc, first, second, n, rows, step, op1, op2, plane);
}

function colourModes<B>(mode: i32, acc: usize, src: usize, n: i32, rows: i32, step: usize, opacity: f32, mask: usize, plane: usize): void {
  switch (mode) {
    case 0: return colourLoop<Normal, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 1: return colourLoop<Multiply, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 2: return colourLoop<Screen, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 3: return colourLoop<Overlay, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 4: return colourLoop<Darken, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 5: return colourLoop<Lighten, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 6: return colourLoop<ColourDodge, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 7: return colourLoop<ColourBurn, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 8: return colourLoop<HardLight, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 9: return colourLoop<SoftLight, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 10: return colourLoop<Difference, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 11: return colourLoop<Exclusion, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 12: return colourLoop<Add, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 13: return colourLoop<Subtract, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 14: return colourLoop<Divide, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 15: return colourLoop<LinearBurn, B>(acc, src, n, rows, step, opacity, mask, plane);
    default: return colourLoop<Offset, B>(acc, src, n, rows, step, opacity, mask, plane);
  }
}

function valueModes<B>(mode: i32, acc: usize, src: usize, n: i32, rows: i32, step: usize, opacity: f32, mask: usize, plane: usize): void {
  switch (mode) {
    case 0: return valueLoop<Normal, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 1: return valueLoop<Multiply, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 2: return valueLoop<Screen, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 3: return valueLoop<Overlay, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 4: return valueLoop<Darken, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 5: return valueLoop<Lighten, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 6: return valueLoop<ColourDodge, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 7: return valueLoop<ColourBurn, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 8: return valueLoop<HardLight, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 9: return valueLoop<SoftLight, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 10: return valueLoop<Difference, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 11: return valueLoop<Exclusion, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 12: return valueLoop<Add, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 13: return valueLoop<Subtract, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 14: return valueLoop<Divide, B>(acc, src, n, rows, step, opacity, mask, plane);
    case 15: return valueLoop<LinearBurn, B>(acc, src, n, rows, step, opacity, mask, plane);
    default: return valueLoop<Offset, B>(acc, src, n, rows, step, opacity, mask, plane);
  }
}

function floatModes<B>(mode: i32, acc: usize, src: usize, n: i32, opacity: f32, mask: usize, channels: i32): void {
  switch (mode) {
    case 0: return floatLoop<Normal, B>(acc, src, n, opacity, mask, channels);
    case 1: return floatLoop<Multiply, B>(acc, src, n, opacity, mask, channels);
    case 2: return floatLoop<Screen, B>(acc, src, n, opacity, mask, channels);
    case 3: return floatLoop<Overlay, B>(acc, src, n, opacity, mask, channels);
    case 4: return floatLoop<Darken, B>(acc, src, n, opacity, mask, channels);
    case 5: return floatLoop<Lighten, B>(acc, src, n, opacity, mask, channels);
    case 6: return floatLoop<ColourDodge, B>(acc, src, n, opacity, mask, channels);
    case 7: return floatLoop<ColourBurn, B>(acc, src, n, opacity, mask, channels);
    case 8: return floatLoop<HardLight, B>(acc, src, n, opacity, mask, channels);
    case 9: return floatLoop<SoftLight, B>(acc, src, n, opacity, mask, channels);
    case 10: return floatLoop<Difference, B>(acc, src, n, opacity, mask, channels);
    case 11: return floatLoop<Exclusion, B>(acc, src, n, opacity, mask, channels);
    case 12: return floatLoop<Add, B>(acc, src, n, opacity, mask, channels);
    case 13: return floatLoop<Subtract, B>(acc, src, n, opacity, mask, channels);
    case 14: return floatLoop<Divide, B>(acc, src, n, opacity, mask, channels);
    case 15: return floatLoop<LinearBurn, B>(acc, src, n, opacity, mask, channels);
    default: return floatLoop<Offset, B>(acc, src, n, opacity, mask, channels);
  }
}

/**
 * Layers over each other: stored RGBA over three planes and alpha, or stored value and coverage over one plane and coverage,
 * `plane` bytes apart. `opaque`: the backdrop's alpha is 1 all over. `rows` of `n` texels, those of the sources `step` bytes
 * from row to row, the others one behind the other. A layer is a record of 16 bytes: source, mask, mode, opacity.
 *
 * `block` rows at a time go through all layers, so that the accumulator stays in the nearest cache.
 */
export function blendStored(
  channels: i32,
  opaque: i32,
  acc: usize,
  plane: usize,
  n: i32,
  rows: i32,
  step: usize,
  layers: usize,
  count: i32,
  block: i32,
): void {
  const end = layers + (<usize>count << 4);
  for (let y = 0; y < rows; y += block) {
    const here = min(block, rows - y);
    const done = (<usize>y * <usize>n) << 2;
    const at = acc + done;
    const skip = <usize>y * step;
    for (let layer = layers; layer < end; layer += 16) {
      const src = <usize>load<u32>(layer) + skip;
      let mask = <usize>load<u32>(layer, 4);
      const mode = load<i32>(layer, 8);
      const opacity = load<f32>(layer, 12);
      if (channels == 3 && opaque && !mask && mode < PAIRED && layer + 16 < end) {
        const next = layer + 16;
        const over = load<i32>(next, 8);
        if (!load<u32>(next, 4) && over < PAIRED) {
          pair(mode, over, at, src, <usize>load<u32>(next) + skip, n, here, step, opacity, load<f32>(next, 12), plane);
          layer = next;
          continue;
        }
      }
      if (mask) mask += done;
      if (channels == 3) {
        if (opaque) colourModes<Opaque>(mode, at, src, n, here, step, opacity, mask, plane);
        else colourModes<Clear>(mode, at, src, n, here, step, opacity, mask, plane);
      } else if (opaque) valueModes<Opaque>(mode, at, src, n, here, step, opacity, mask, plane);
      else valueModes<Clear>(mode, at, src, n, here, step, opacity, mask, plane);
    }
  }
}

/** Planes over planes. `opaque`: the backdrop's alpha is 1 all over. */
export function blendFloat(mode: i32, opaque: i32, acc: usize, src: usize, n: i32, opacity: f32, mask: usize, channels: i32): void {
  if (opaque) floatModes<Opaque>(mode, acc, src, n, opacity, mask, channels);
  else floatModes<Clear>(mode, acc, src, n, opacity, mask, channels);
}

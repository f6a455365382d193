/** Texels read a few steps away along the surface, over seams (kernels/steps.ts says what the record holds). */

let placeX: f64 = 0;
let placeY: f64 = 0;
let needed = 0;

const WITHIN: f64 = -1e-6;
const MOST_CROSSINGS = 256;

// @ts-ignore: decorator
@inline
function ends(rec: usize, face: i32): bool {
  if (face < 0) return true;
  if (load<u8>(load<usize>(rec, 28) + <usize>face)) return true;
  const u = load<f32>(load<usize>(rec, 32) + <usize>face * 24);
  return u != u;
}

function arrive(rec: usize, f: i32, w1: f64, w2: f64): void {
  const c = load<usize>(rec, 32) + <usize>f * 24;
  const w0 = 1 - w1 - w2;
  placeX = <f64>load<f32>(c) * w0 + <f64>load<f32>(c, 8) * w1 + <f64>load<f32>(c, 16) * w2;
  placeY = <f64>load<f32>(c, 4) * w0 + <f64>load<f32>(c, 12) * w1 + <f64>load<f32>(c, 20) * w2;
}

function arriveWithin(rec: usize, f: i32, w1: f64, w2: f64): void {
  const a: f64 = w1 < 0 ? 0 : w1;
  const b: f64 = w2 < 0 ? 0 : w2;
  const sum: f64 = a + b > 1 ? a + b : 1;
  arrive(rec, f, a / sum, b / sum);
}

/** Straight on over edges (core/mesh/ways.ts). false: an edge is not worked out yet, which is noted. */
function goTo(rec: usize, from: i32, p1: f64, p2: f64, q1: f64, q2: f64): bool {
  let f = from;
  let s1 = p1;
  let s2 = p2;
  let n1 = q1;
  let n2 = q2;
  if (s1 < 0 || s2 < 0 || s1 + s2 > 1) {
    s1 = s1 < 0 ? 0 : s1;
    s2 = s2 < 0 ? 0 : s2;
    const sum = s1 + s2;
    if (sum > 1) {
      s1 /= sum;
      s2 /= sum;
    }
  }
  const beyonds = load<usize>(rec, 16);
  const foldings = load<usize>(rec, 20);
  const folded = load<usize>(rec, 24);
  for (let n = 0; n < MOST_CROSSINGS; n++) {
    const n0 = 1 - n1 - n2;
    if (n0 >= WITHIN && n1 >= WITHIN && n2 >= WITHIN) {
      arrive(rec, f, n1, n2);
      return true;
    }
    const s0 = 1 - s1 - s2;
    let t: f64 = Infinity;
    let k = 0;
    if (n0 < WITHIN && s0 > n0) t = s0 / (s0 - n0);
    if (n1 < WITHIN && s1 > n1 && s1 / (s1 - n1) < t) {
      t = s1 / (s1 - n1);
      k = 1;
    }
    if (n2 < WITHIN && s2 > n2 && s2 / (s2 - n2) < t) {
      t = s2 / (s2 - n2);
      k = 2;
    }
    const edge = f * 3 + (k == 2 ? 0 : k + 1);
    const beyond = t == Infinity ? -1 : load<i32>(beyonds + (<usize>edge << 2));
    let ended = ends(rec, beyond);
    if (!ended) {
      const state = load<u8>(folded + <usize>edge);
      if (state == 0) {
        store<i32>(load<usize>(rec, 76), 1);
        store<i32>(load<usize>(rec, 76), edge, 4);
        return false;
      }
      ended = state == 2;
    }
    if (ended) {
      t = t < 0 ? 0 : t > 1 ? 1 : t;
      arriveWithin(rec, f, s1 + (n1 - s1) * t, s2 + (n2 - s2) * t);
      return true;
    }
    const m = foldings + <usize>edge * 48;
    const a1 = load<f64>(m) * s1 + load<f64>(m, 8) * s2 + load<f64>(m, 16);
    const a2 = load<f64>(m, 24) * s1 + load<f64>(m, 32) * s2 + load<f64>(m, 40);
    const b1 = load<f64>(m) * n1 + load<f64>(m, 8) * n2 + load<f64>(m, 16);
    const b2 = load<f64>(m, 24) * n1 + load<f64>(m, 32) * n2 + load<f64>(m, 40);
    s1 = a1;
    s2 = a2;
    n1 = b1;
    n2 = b2;
    f = beyond;
  }
  arriveWithin(rec, f, n1, n2);
  return true;
}

/** Address of a tile's texels, 0 where nothing is; notes one that is not there yet. */
// @ts-ignore: decorator
@inline
function tileAt(rec: usize, tx: i32, ty: i32): i32 {
  const n = ty * load<i32>(rec, 40) + tx;
  const at = load<i32>(load<usize>(rec, 36) + (<usize>n << 2));
  if (at == -1) {
    needed = 1;
    store<i32>(load<usize>(rec, 76), 2);
    store<i32>(load<usize>(rec, 76), n, 4);
  }
  return at;
}

// @ts-ignore: decorator
@inline
function texel(tile: i32, column: i32, row: i32, channels: i32): v128 {
  if (tile == 0) return f32x4.splat(0);
  const at = <usize>tile + <usize>((((row & 127) << 7) + (column & 127)) * channels) * 4;
  return channels == 4 ? v128.load(at) : v128.load64_zero(at);
}

// @ts-ignore: decorator
@inline
function wrapped(v: i32, size: i32, wraps: i32): i32 {
  if (wraps) return ((v % size) + size) % size;
  return v < 0 ? 0 : v >= size ? size - 1 : v;
}

/** Bilinear, premultiplied. Sets `needed` where a tile is missing. */
function sample(rec: usize, x: f64, y: f64): v128 {
  const channels = load<i32>(rec, 60);
  const px = <i32>(floor(x * 256 + 0.5) - 128);
  const py = <i32>(floor(y * 256 + 0.5) - 128);
  const x0 = px >> 8;
  const y0 = py >> 8;
  const fx = f32x4.splat(<f32>(px & 255) / 256);
  const fy = f32x4.splat(<f32>(py & 255) / 256);
  const width = load<i32>(rec, 44);
  const height = load<i32>(rec, 48);
  let a: v128;
  let b: v128;
  let c: v128;
  let d: v128;
  if (x0 >= 0 && y0 >= 0 && x0 + 1 < width && y0 + 1 < height && (x0 & 127) < 127 && (y0 & 127) < 127) {
    const tile = tileAt(rec, x0 >> 7, y0 >> 7);
    if (tile <= 0) return f32x4.splat(0);
    const step = <usize>channels * 4;
    const at = <usize>tile + <usize>(((y0 & 127) << 7) + (x0 & 127)) * step;
    const low = at + step * 128;
    if (channels == 4) {
      a = v128.load(at);
      b = v128.load(at, 16);
      c = v128.load(low);
      d = v128.load(low, 16);
    } else {
      a = v128.load64_zero(at);
      b = v128.load64_zero(at, 8);
      c = v128.load64_zero(low);
      d = v128.load64_zero(low, 8);
    }
  } else {
    const left = wrapped(x0, width, load<i32>(rec, 52));
    const right = wrapped(x0 + 1, width, load<i32>(rec, 52));
    const top = wrapped(y0, height, load<i32>(rec, 56));
    const low = wrapped(y0 + 1, height, load<i32>(rec, 56));
    const t0 = tileAt(rec, left >> 7, top >> 7);
    if (needed) return f32x4.splat(0);
    const t1 = tileAt(rec, right >> 7, top >> 7);
    if (needed) return f32x4.splat(0);
    const t2 = tileAt(rec, left >> 7, low >> 7);
    if (needed) return f32x4.splat(0);
    const t3 = tileAt(rec, right >> 7, low >> 7);
    if (needed) return f32x4.splat(0);
    a = texel(t0, left, top, channels);
    b = texel(t1, right, top, channels);
    c = texel(t2, left, low, channels);
    d = texel(t3, right, low, channels);
  }
  const upper = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), fx));
  const lower = f32x4.add(c, f32x4.mul(f32x4.sub(d, c), fx));
  return f32x4.add(upper, f32x4.mul(f32x4.sub(lower, upper), fy));
}

/**
 * For each texel of a rectangle with something wanted, and not done: its own value and what is read at each step, weighed:
 * own + Σ weight · (read − own); of a single step of weight 1 what is read. Begins with the n-th texel of the rectangle; gives −1 when all
 * is done, else the texel at which something was missing.
 */
export function readSteps(
  rec: usize,
  out: usize,
  own: usize,
  want: usize,
  done: usize,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  begin: i32,
): i32 {
  const channels = load<i32>(rec, 60);
  const count = load<i32>(rec, 64);
  const weights = load<usize>(rec, 68);
  const faces = load<usize>(rec, 0);
  const slots = load<usize>(rec, 4);
  const into = load<usize>(rec, 12);
  const inSheet = load<usize>(rec, 72);
  const across = x1 - x0;
  const all = across * (y1 - y0);
  needed = 0;
  for (let n = begin; n < all; n++) {
    const column = x0 + (n % across);
    const row = y0 + n / across;
    const t = (row << 7) + column;
    if (!(load<f32>(want + (<usize>t << 2)) > 0)) continue;
    if (done != 0 && load<u8>(done + <usize>t)) continue;
    const px = load<f64>(rec, 80) + <f64>column;
    const py = load<f64>(rec, 88) + <f64>row;
    const face = faces ? load<i32>(faces + (<usize>t << 2)) : -1;
    let w1: f64 = 0;
    let w2: f64 = 0;
    let within = false;
    let steps: usize = 0;
    if (face >= 0) {
      const m = into + <usize>face * 48;
      const qx = px - load<f64>(m, 32);
      const qy = py - load<f64>(m, 40);
      w1 = load<f64>(m) * qx + load<f64>(m, 8) * qy;
      w2 = load<f64>(m, 16) * qx + load<f64>(m, 24) * qy;
      within = w1 >= 0 && w2 >= 0 && w1 + w2 <= 1;
      steps = load<usize>(rec, 8) + <usize>(load<i32>(slots + (<usize>face << 2)) * count) * 32;
    }
    const base = own ? texel(<i32>own, column, row, channels) : f32x4.splat(0);
    let sum = base;
    for (let s = 0; s < count; s++) {
      if (face < 0) {
        placeX = px + load<f64>(inSheet + (<usize>s << 4));
        placeY = py + load<f64>(inSheet + (<usize>s << 4), 8);
      } else {
        const step = steps + (<usize>s << 5);
        const n1 = w1 + load<f64>(step);
        const n2 = w2 + load<f64>(step, 8);
        if (within && n1 >= 0 && n2 >= 0 && n1 + n2 <= 1) {
          placeX = px + load<f64>(step, 16);
          placeY = py + load<f64>(step, 24);
        } else if (!goTo(rec, face, w1, w2, n1, n2)) return n;
      }
      const read = sample(rec, placeX, placeY);
      if (needed) return n;
      const weight = load<f32>(weights + (<usize>s << 2));
      if (count == 1 && weight == 1) sum = read;
      else sum = f32x4.add(sum, f32x4.mul(f32x4.splat(weight), f32x4.sub(read, base)));
    }
    const at = out + <usize>(t * channels) * 4;
    if (channels == 4) v128.store(at, sum);
    else v128.store64_lane(at, sum, 0);
    if (done) store<u8>(done + <usize>t, 1);
  }
  return -1;
}

/** own += (taken − own) · share · strength, where a dab gives something; `channels` × float32 a texel. */
export function mixIn(
  own: usize,
  taken: usize,
  share: usize,
  strength: f32,
  channels: i32,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
): void {
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const t = <usize>((y << 7) + x);
      const by = load<f32>(share + (t << 2)) * strength;
      if (by == 0) continue;
      const at = (t * <usize>channels) << 2;
      if (channels == 4) {
        const old = v128.load(own + at);
        v128.store(own + at, f32x4.add(old, f32x4.mul(f32x4.sub(v128.load(taken + at), old), f32x4.splat(by))));
      } else {
        const old = v128.load64_zero(own + at);
        const mixed = f32x4.add(old, f32x4.mul(f32x4.sub(v128.load64_zero(taken + at), old), f32x4.splat(by)));
        v128.store64_lane(own + at, mixed, 0);
      }
    }
}

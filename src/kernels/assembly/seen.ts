/** What an eye sees of a block of texels (kernels/seen.ts), in float64 as in TypeScript. */

const BLOCK: i32 = 8;
const TILE: i32 = 128;
const MOST_ASKED: i32 = 24;
const MOST_PIXELS: i32 = 256;
const NEARER: f64 = 2e-5;
const OWN_DEPTHS: f64 = 1.7;

// Of the eye at work: addresses of its arrays and its settings, taken over once a block.
let settings: usize = 0;
let facing: usize = 0;
let edges: usize = 0;
let buffer: usize = 0;
let smooth: usize = 0;
let corner: usize = 0;
let positions: usize = 0;
let indices: usize = 0;
let boxX: f64 = 0;
let boxY: f64 = 0;
let scale: f64 = 0;
let columns: i32 = 0;
let rows: i32 = 0;
let m0: f64 = 0;
let m1: f64 = 0;
let m2: f64 = 0;
let m3: f64 = 0;
let m4: f64 = 0;
let m5: f64 = 0;
let m6: f64 = 0;
let m7: f64 = 0;
let m8: f64 = 0;
let m9: f64 = 0;
let m10: f64 = 0;
let m11: f64 = 0;

let movedX: f64 = 0;
let movedY: f64 = 0;
let movedNear: f64 = 0;

/** `eye`: addresses of settings, facing, edges, buffer, smooth, corner, positions, indices, texel, x, y, near, seen. */
function take(eye: usize): void {
  settings = load<usize>(eye);
  facing = load<usize>(eye, 4);
  edges = load<usize>(eye, 8);
  buffer = load<usize>(eye, 12);
  smooth = load<usize>(eye, 16);
  corner = load<usize>(eye, 20);
  positions = load<usize>(eye, 24);
  indices = load<usize>(eye, 28);
  m0 = load<f64>(settings, 0);
  m1 = load<f64>(settings, 8);
  m2 = load<f64>(settings, 16);
  m3 = load<f64>(settings, 24);
  m4 = load<f64>(settings, 32);
  m5 = load<f64>(settings, 40);
  m6 = load<f64>(settings, 48);
  m7 = load<f64>(settings, 56);
  m8 = load<f64>(settings, 64);
  m9 = load<f64>(settings, 72);
  m10 = load<f64>(settings, 80);
  m11 = load<f64>(settings, 88);
  boxX = load<f64>(settings, 96);
  boxY = load<f64>(settings, 104);
  scale = load<f64>(settings, 128);
  columns = <i32>load<f64>(settings, 136);
  rows = <i32>load<f64>(settings, 144);
}

/** `front`: whether anything may lie before. */
export function projectBlock(eye: usize, face: usize, position: usize, first: i32, backs: i32, front: i32): i32 {
  take(eye);
  const texel = load<usize>(eye, 32);
  const atX = load<usize>(eye, 36);
  const atY = load<usize>(eye, 40);
  const atNear = load<usize>(eye, 44);
  const seen = load<usize>(eye, 48);
  const x1 = load<f64>(settings, 112);
  const y1 = load<f64>(settings, 120);
  let count = 0;
  for (let row = first, end = first + BLOCK * TILE; row < end; row += TILE)
    for (let i = row; i < row + BLOCK; i++) {
      const f = load<i32>(face + (<usize>i << 2));
      if (f < 0) continue;
      const side = <i32>load<i8>(facing + <usize>f);
      if (side == 0 || (side < 0 && !backs)) continue;
      const o = position + <usize>i * 12;
      const x = <f64>load<f32>(o);
      const y = <f64>load<f32>(o, 4);
      const z = <f64>load<f32>(o, 8);
      const w = m8 * x + m9 * y + m10 * z + m11;
      if (!(w > 0)) continue;
      const near = 1 / w;
      const sx = (m0 * x + m1 * y + m2 * z + m3) * near;
      const sy = (m4 * x + m5 * y + m6 * z + m7) * near;
      if (sx < boxX || sy < boxY || sx >= x1 || sy >= y1) continue;
      const n = <usize>count;
      store<i32>(texel + (n << 2), i);
      store<f64>(atX + (n << 3), sx);
      store<f64>(atY + (n << 3), sy);
      store<f64>(atNear + (n << 3), near);
      store<u8>(seen + n, !front || inFront(f, sx, sy, near) ? 1 : 0);
      count++;
    }
  return count;
}

export function wholeBlock(
  eye: usize,
  face: usize,
  position: usize,
  first: i32,
  x0: f64,
  y0: f64,
  x1: f64,
  y1: f64,
): i32 {
  take(eye);
  // Room behind the addresses.
  const asked = eye + 64;
  const left = <i32>Math.floor((x0 - boxX) * scale);
  const right = <i32>Math.floor((x1 - boxX) * scale) + 2;
  const top = <i32>Math.floor((y0 - boxY) * scale);
  const bottom = <i32>Math.floor((y1 - boxY) * scale) + 2;
  if (left < 1 || top < 1 || right >= columns - 1 || bottom >= rows - 1) return 2;
  if ((right - left) * (bottom - top) > MOST_PIXELS) return 2;
  let count = 0;
  let last = -1;
  let all = -1;
  for (let row = first, end = first + BLOCK * TILE; row < end; row += TILE)
    for (let i = row; i < row + BLOCK; i++) {
      const f = load<i32>(face + (<usize>i << 2));
      if (f == last || f < 0 || load<i8>(facing + <usize>f) <= 0) continue;
      last = f;
      let n = 0;
      while (n < count && load<i32>(asked + (<usize>n << 2)) != f) n++;
      if (n < count) continue;
      if (count == MOST_ASKED) return 2;
      store<i32>(asked + (<usize>count << 2), f);
      count++;
      const o = position + <usize>i * 12;
      const x = <f64>load<f32>(o);
      const y = <f64>load<f32>(o, 4);
      const z = <f64>load<f32>(o, 8);
      const near = 1 / (m8 * x + m9 * y + m10 * z + m11);
      const sx = (m0 * x + m1 * y + m2 * z + m3) * near;
      const sy = (m4 * x + m5 * y + m6 * z + m7) * near;
      const here = inFront(f, sx, sy, near) ? 1 : 0;
      if (all >= 0 && all != here) return 2;
      all = here;
    }
  if (all < 0) return 0;
  for (let row = top; row <= bottom; row++)
    for (let p = row * columns + left, end = row * columns + right; p <= end; p++) if (!smoothAt(p)) return 2;
  return all;
}

// @ts-ignore: decorator
@inline
function drawnAt(p: i32): i32 {
  return load<i32>(buffer + (<usize>p << 2));
}

function smoothAt(p: i32): bool {
  const known = load<u8>(smooth + <usize>p);
  if (known) return known == 1;
  const f = drawnAt(p);
  let goesOn = f >= 0;
  let last = f;
  for (let i = p - columns - 1, end = i + 3 * columns; goesOn && i < end; i += columns)
    for (let k = i; k < i + 3; k++) {
      const g = drawnAt(k);
      if (g == last || g == f) continue;
      last = g;
      if (g < 0 || !meet(f, g)) goesOn = false;
    }
  store<u8>(smooth + <usize>p, goesOn ? 1 : 2);
  return goesOn;
}

function meet(f: i32, g: i32): bool {
  if (load<i8>(facing + <usize>f) < 0 || load<i8>(facing + <usize>g) < 0) return false;
  const at = corner + <usize>f * 12;
  const a = load<i32>(at);
  const b = load<i32>(at, 4);
  const c = load<i32>(at, 8);
  const other = corner + <usize>g * 12;
  for (let k: usize = 0; k < 12; k += 4) {
    const v = load<i32>(other + k);
    if (v == a || v == b || v == c) return true;
  }
  return false;
}

// @ts-ignore: decorator
@inline
function pixelAt(x: f64, y: f64): i32 {
  const column = <i32>Math.floor((x - boxX) * scale) + 1;
  const row = <i32>Math.floor((y - boxY) * scale) + 1;
  return column < 1 || row < 1 || column >= columns - 1 || row >= rows - 1 ? -1 : row * columns + column;
}

// @ts-ignore: decorator
@inline
function edge(e: usize, x: f64, y: f64): f64 {
  return load<f64>(e) * x + load<f64>(e, 8) * y + load<f64>(e, 16);
}

function inFront(f: i32, x: f64, y: f64, near: f64): bool {
  let p = pixelAt(x, y);
  if (p < 0) return false;
  if (smoothAt(p)) {
    if (drawnAt(p) == f) return true;
    for (let i = p - columns - 1, end = i + 3 * columns; i < end; i += columns)
      if (drawnAt(i) == f || drawnAt(i + 1) == f || drawnAt(i + 2) == f) return true;
  }
  const e = edges + <usize>f * 72;
  const e0 = edge(e, x, y);
  const e1 = edge(e + 24, x, y);
  const e2 = edge(e + 48, x, y);
  if (e0 >= 0 && e1 >= 0 && e2 >= 0) return !covered(f, p, x, y, near);
  placeOf(f, e0 > 0 ? e0 : 0, e1 > 0 ? e1 : 0, e2 > 0 ? e2 : 0);
  p = pixelAt(movedX, movedY);
  if (p < 0) return false;
  if (drawnAt(p) == f && smoothAt(p)) return true;
  return !covered(f, p, movedX, movedY, movedNear);
}

function covered(f: i32, p: i32, x: f64, y: f64, near: f64): bool {
  const limit = near * (1 + NEARER);
  const middle = drawnAt(p);
  if (middle != f && lies(middle, x, y, limit)) return true;
  let last = f;
  let drawn = false;
  for (let i = p - columns - 1, end = i + 3 * columns; i < end; i += columns)
    for (let k = i; k < i + 3; k++) {
      const g = drawnAt(k);
      if (g == f) drawn = true;
      if (g == last || g == f || g < 0) continue;
      last = g;
      if (g != middle && lies(g, x, y, limit)) return true;
    }
  const g = middle;
  if (drawn || g < 0) return false;
  const other = edges + <usize>g * 72;
  const e = edges + <usize>f * 72;
  const a = load<f64>(other) + load<f64>(other, 24) + load<f64>(other, 48);
  const b = load<f64>(other, 8) + load<f64>(other, 32) + load<f64>(other, 56);
  const own =
    Math.abs(load<f64>(e) + load<f64>(e, 24) + load<f64>(e, 48)) + Math.abs(load<f64>(e, 8) + load<f64>(e, 32) + load<f64>(e, 56));
  const slopes = (Math.abs(a) + Math.abs(b)) / scale + Math.min(own / scale, OWN_DEPTHS * depthOf(f));
  return a * x + b * y + load<f64>(other, 16) + load<f64>(other, 40) + load<f64>(other, 64) > limit + slopes;
}

function lies(g: i32, x: f64, y: f64, limit: f64): bool {
  if (g < 0) return false;
  const e = edges + <usize>g * 72;
  const e0 = edge(e, x, y);
  if (e0 < 0) return false;
  const e1 = edge(e + 24, x, y);
  if (e1 < 0) return false;
  const e2 = edge(e + 48, x, y);
  return e2 >= 0 && e0 + e1 + e2 > limit;
}

function depthOf(f: i32): f64 {
  let least = f64.MAX_VALUE;
  let most: f64 = 0;
  const at = indices + <usize>f * 12;
  for (let k: usize = 0; k < 12; k += 4) {
    const v = positions + <usize>load<i32>(at + k) * 12;
    const w = m8 * <f64>load<f32>(v) + m9 * <f64>load<f32>(v, 4) + m10 * <f64>load<f32>(v, 8) + m11;
    const near = 1 / Math.max(1e-9, w);
    if (near < least) least = near;
    if (near > most) most = near;
  }
  return most - least;
}

function placeOf(f: i32, s0: f64, s1: f64, s2: f64): void {
  const at = indices + <usize>f * 12;
  const a = positions + <usize>load<i32>(at) * 12;
  const b = positions + <usize>load<i32>(at, 4) * 12;
  const c = positions + <usize>load<i32>(at, 8) * 12;
  const by = 1 / (s0 + s1 + s2);
  const x = (<f64>load<f32>(a) * s0 + <f64>load<f32>(b) * s1 + <f64>load<f32>(c) * s2) * by;
  const y = (<f64>load<f32>(a, 4) * s0 + <f64>load<f32>(b, 4) * s1 + <f64>load<f32>(c, 4) * s2) * by;
  const z = (<f64>load<f32>(a, 8) * s0 + <f64>load<f32>(b, 8) * s1 + <f64>load<f32>(c, 8) * s2) * by;
  const w = m8 * x + m9 * y + m10 * z + m11;
  movedX = (m0 * x + m1 * y + m2 * z + m3) / w;
  movedY = (m4 * x + m5 * y + m6 * z + m7) / w;
  movedNear = 1 / w;
}

/**
 * Places of texels as three sides of a box show them (core/kinds/placement.ts): X shows −Z and Y, Y shows X and Z, Z
 * shows X and Y. `face` int32 (below 0: nothing there), `position` 3 × float32 and `normal` 3 × int8 a texel; `shares`:
 * 128 float32 for each largest part of a normal. `how`: ten float64: centre, 1 / size, and a matrix of two rows of three.
 * Out come three planes each of places and of weights that sum to 1, 0 where nothing is. `counts`: four int32, how many
 * texels each side shows, and how many one side shows alone.
 */
export function boxPlaces(
  face: usize,
  position: usize,
  normal: usize,
  shares: usize,
  n: i32,
  how: usize,
  x: usize,
  y: usize,
  weight: usize,
  counts: usize,
): void {
  const plane = <usize>n << 2;
  const cx = load<f64>(how);
  const cy = load<f64>(how, 8);
  const cz = load<f64>(how, 16);
  const by = load<f64>(how, 24);
  let a = 0;
  let b = 0;
  let c = 0;
  let alone = 0;
  for (let i = 0; i < n; i++) {
    if (load<i32>(face) < 0) {
      put(x, y, weight, 0, 0, 0);
      put(x + plane, y + plane, weight + plane, 0, 0, 0);
      put(x + 2 * plane, y + 2 * plane, weight + 2 * plane, 0, 0, 0);
    } else {
      const nx = <i32>load<i8>(normal);
      const ny = <i32>load<i8>(normal, 1);
      const nz = <i32>load<i8>(normal, 2);
      const ax = abs(nx);
      const ay = abs(ny);
      const az = abs(nz);
      const row = shares + (<usize>max(ax, max(ay, az)) << 9);
      const sx = load<f32>(row + (<usize>ax << 2));
      const sy = load<f32>(row + (<usize>ay << 2));
      const sz = load<f32>(row + (<usize>az << 2));
      const all = 1 / (<f64>sx + <f64>sy + <f64>sz);
      const px = (<f64>load<f32>(position) - cx) * by;
      const py = (<f64>load<f32>(position, 4) - cy) * by;
      const pz = (<f64>load<f32>(position, 8) - cz) * by;
      // Turned round on the far side, so that letters read the right way from outside.
      a += side(how, x, y, weight, (nx < 0 ? pz : -pz) + 0.5, 0.5 - py, sx, all);
      b += side(how, x + plane, y + plane, weight + plane, (ny < 0 ? -px : px) + 0.5, 0.5 - pz, sy, all);
      c += side(how, x + 2 * plane, y + 2 * plane, weight + 2 * plane, (nz < 0 ? -px : px) + 0.5, 0.5 - py, sz, all);
      if (<f64>sx * all == 1 || <f64>sy * all == 1 || <f64>sz * all == 1) alone++;
    }
    face += 4;
    position += 12;
    normal += 3;
    x += 4;
    y += 4;
    weight += 4;
  }
  store<i32>(counts, a);
  store<i32>(counts, b, 4);
  store<i32>(counts, c, 8);
  store<i32>(counts, alone, 12);
}

// @ts-ignore: decorator
@inline
function put(x: usize, y: usize, weight: usize, u: f32, v: f32, w: f32): void {
  store<f32>(x, u);
  store<f32>(y, v);
  store<f32>(weight, w);
}

/** 1 if the side shows the texel. */
// @ts-ignore: decorator
@inline
function side(how: usize, x: usize, y: usize, weight: usize, u: f64, v: f64, share: f32, all: f64): i32 {
  if (share > 0) {
    put(
      x,
      y,
      weight,
      <f32>(load<f64>(how, 32) * u + load<f64>(how, 40) * v + load<f64>(how, 48)),
      <f32>(load<f64>(how, 56) * u + load<f64>(how, 64) * v + load<f64>(how, 72)),
      <f32>(<f64>share * all),
    );
    return 1;
  }
  put(x, y, weight, 0, 0, 0);
  return 0;
}

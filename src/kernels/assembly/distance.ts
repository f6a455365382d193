/** Distances up a column from those down it: a row takes one more than the row below has, where that is less. */
export function liftRow(row: usize, below: usize, width: i32): void {
  const end = row + (<usize>width << 2);
  const one = f32x4.splat(1);
  for (; row < end; row += 16, below += 16)
    v128.store(row, f32x4.pmin(f32x4.add(v128.load(below), one), v128.load(row)));
}

/**
 * One row of the exact distance transform (core/tile/distance.ts says which): distances down the columns become squared
 * distances in the plane, in place. Float32; from `far` on there is nothing in the column, and `none` is written where
 * there is nothing at all. `parabolas`: room for width + 1 records of three float64: place, height plus place squared, and
 * where it begins to be the lowest.
 */
export function distanceRow(row: usize, width: i32, far: f32, none: f32, parabolas: usize): void {
  let top = parabolas;
  let first = true;
  for (let q = 0; q < width; q++) {
    const g = load<f32>(row + (<usize>q << 2));
    if (g >= far) continue;
    const x = <f64>q;
    const own = <f64>g * <f64>g + x * x;
    let from = -Infinity;
    if (first) first = false;
    else {
      for (;;) {
        const p = load<f64>(top);
        const apart = x - p;
        const rise = own - load<f64>(top, 8);
        // Neighbours most often: a division takes longer than all the rest.
        from = apart == 1 ? rise * 0.5 : rise / (2 * apart);
        if (from > load<f64>(top, 16)) break;
        if (top == parabolas) {
          from = -Infinity;
          top -= 24;
          break;
        }
        top -= 24;
      }
      top += 24;
    }
    store<f64>(top, x);
    store<f64>(top, own, 8);
    store<f64>(top, from, 16);
  }
  if (first) {
    for (let q = 0; q < width; q++) store<f32>(row + (<usize>q << 2), none);
    return;
  }
  const last = top;
  let at = parabolas;
  let q = 0;
  while (q < width) {
    const p = load<f64>(at);
    const height = load<f64>(at, 8) - p * p;
    let end = width;
    if (at < last) {
      const next = load<f64>(at, 40);
      // Texels up to where the next one begins.
      if (next < <f64>width) end = next < 0 ? 0 : <i32>next + 1;
    }
    for (; q < end; q++) {
      const d = <f64>q - p;
      store<f32>(row + (<usize>q << 2), <f32>(d * d + height));
    }
    at += 24;
  }
}

/** Weighted sums (kernels/sums.ts), four numbers at a time: each has its own sum, in the order of the twin. */

function sumsAlong(at: usize, step: usize, count: i32, weights: usize, taps: i32, out: usize): void {
  for (let i = 0; i < count; i += 4, at += 32, out += 32) {
    let weight = v128.load64_splat(weights);
    let a = f64x2.mul(weight, v128.load(at));
    let b = f64x2.mul(weight, v128.load(at, 16));
    let away = step;
    for (let k = 1; k < taps; k++, away += step) {
      weight = v128.load64_splat(weights + (<usize>k << 3));
      a = f64x2.add(a, f64x2.mul(weight, f64x2.add(v128.load(at - away), v128.load(at + away))));
      b = f64x2.add(b, f64x2.mul(weight, f64x2.add(v128.load(at - away, 16), v128.load(at + away, 16))));
    }
    v128.store(out, a);
    v128.store(out, b, 16);
  }
}

/** `weights`: float64, `taps` of them. `half`: room for the sums along rows, `down` rows as long as those of `out`. */
export function separableSums(
  plane: usize,
  across: i32,
  down: i32,
  weights: usize,
  taps: i32,
  half: usize,
  out: usize,
): void {
  const radius = taps - 1;
  const columns = across - 2 * radius;
  const row = <usize>columns << 3;
  for (let y = 0; y < down; y++)
    sumsAlong(plane + (<usize>(y * across + radius) << 3), 8, columns, weights, taps, half + <usize>y * row);
  for (let y = 0; y < down - 2 * radius; y++)
    sumsAlong(half + <usize>(y + radius) * row, row, columns, weights, taps, out + <usize>y * row);
}

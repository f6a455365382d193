/**
 * A wide, smooth filter on fewer samples (core/kinds/filters/gaussian.ts says how they are chosen): every `factor` texels
 * one is taken through a narrow filter of 4 · factor weights; between what is made of them every texel is a sum of a few.
 * Planes of float32. Across, a row of `count` samples comes from count · factor + 3 · factor texels; down likewise.
 */

/** Samples of rows: `weights` 4 · factor, a multiple of 8. Rows are `stride` bytes apart, those out `count` numbers. */
export function decimateX(src: usize, stride: usize, rows: i32, count: i32, factor: i32, weights: usize, out: usize): void {
  const taps = <usize>factor << 4;
  for (let y = 0; y < rows; y++) {
    let at = src;
    for (let j = 0; j < count; j++) {
      let a = f32x4.splat(0);
      let b = f32x4.splat(0);
      for (let k: usize = 0; k < taps; k += 32) {
        a = f32x4.add(a, f32x4.mul(v128.load(at + k), v128.load(weights + k)));
        b = f32x4.add(b, f32x4.mul(v128.load(at + k, 16), v128.load(weights + k, 16)));
      }
      a = f32x4.add(a, b);
      a = f32x4.add(a, v128.shuffle<f32>(a, a, 2, 3, 0, 1));
      store<f32>(out, f32x4.extract_lane(a, 0) + f32x4.extract_lane(a, 1));
      out += 4;
      at += <usize>factor << 2;
    }
    src += stride;
  }
}

/** Eight numbers: the sum of `count` rows, each by its weight; weights are `step` bytes apart. */
// @ts-ignore: decorator
@inline
function sumRows(at: usize, row: usize, count: i32, weights: usize, step: usize, out: usize): void {
  let a = f32x4.splat(0);
  let b = f32x4.splat(0);
  for (let k = 0; k < count; k++) {
    const w = v128.load_splat<f32>(weights);
    a = f32x4.add(a, f32x4.mul(v128.load(at), w));
    b = f32x4.add(b, f32x4.mul(v128.load(at, 16), w));
    at += row;
    weights += step;
  }
  v128.store(out, a);
  v128.store(out, b, 16);
}

/** Rows of samples, `width` numbers each, a multiple of 8. */
export function decimateY(src: usize, width: i32, count: i32, factor: i32, weights: usize, out: usize): void {
  const row = <usize>width << 2;
  for (let j = 0; j < count; j++) {
    for (let x: usize = 0; x < row; x += 32) {
      sumRows(src + x, row, factor << 2, weights, 4, out + x);
    }
    out += row;
    src += row * <usize>factor;
  }
}

/**
 * Texels between samples, four at a time, `width` a row: `table` has `taps` vectors of weights for each of `period`
 * groups of four, the samples begin `step` after those of the period before. A row has `stride` bytes of samples.
 */
export function refineX(
  src: usize,
  stride: usize,
  rows: i32,
  width: i32,
  period: i32,
  step: i32,
  taps: i32,
  table: usize,
  out: usize,
): void {
  for (let y = 0; y < rows; y++) {
    let at = src;
    for (let x = 0; x < width; x += period << 2) {
      let w = table;
      for (let v = 0; v < period; v++) {
        let sum = f32x4.mul(v128.load_splat<f32>(at), v128.load(w));
        w += 16;
        for (let k = 1; k < taps; k++) {
          sum = f32x4.add(sum, f32x4.mul(v128.load_splat<f32>(at + (<usize>k << 2)), v128.load(w)));
          w += 16;
        }
        v128.store(out, sum);
        out += 16;
      }
      at += <usize>step << 2;
    }
    src += stride;
  }
}

/** The same down: row y is a sum of `taps` rows of samples with the lanes of the table's vectors for weights. */
export function refineY(
  src: usize,
  width: i32,
  height: i32,
  period: i32,
  step: i32,
  taps: i32,
  table: usize,
  out: usize,
): void {
  const row = <usize>width << 2;
  for (let y = 0; y < height; y += period << 2) {
    for (let r = 0; r < period << 2; r++) {
      const weights = table + <usize>(((r >> 2) * taps) << 4) + (<usize>(r & 3) << 2);
      for (let x: usize = 0; x < row; x += 32) {
        sumRows(src + x, row, taps, weights, 16, out + x);
      }
      out += row;
    }
    src += row * <usize>step;
  }
}

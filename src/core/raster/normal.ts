/**
 * Normal from height, tangent space, glTF convention (X right, Y up in texture space, Z out; glTF 2.0,
 * section 3.9.3): with h(x, y) in texels and image rows running down,
 *   n ∝ (−∂h/∂x, +∂h/∂y_down, 1).
 * The slope is the 3 × 3 Sobel estimate (weights 1 2 1, divided by 8), exact for a tilted plane.
 */

/** Reads height in texels at any integer place; the caller wraps or clamps. */
export type HeightAt = (x: number, y: number) => number;

/** Unit normal at one texel into `out` (x, y, z), for tests and single samples. */
export function normalAt(h: HeightAt, x: number, y: number, out: Float32Array): void {
  const dx = (h(x + 1, y - 1) + 2 * h(x + 1, y) + h(x + 1, y + 1) - h(x - 1, y - 1) - 2 * h(x - 1, y) - h(x - 1, y + 1)) / 8;
  const dy = (h(x - 1, y + 1) + 2 * h(x, y + 1) + h(x + 1, y + 1) - h(x - 1, y - 1) - 2 * h(x, y - 1) - h(x + 1, y - 1)) / 8;
  const length = Math.sqrt(dx * dx + dy * dy + 1);
  out[0] = -dx / length;
  out[1] = dy / length;
  out[2] = 1 / length;
}

/**
 * Normals of a region, from a height field that has one more texel on each side.
 * `field`: (width + 2) × (height + 2) heights in texels. `out`: width × height × 3, unit vectors.
 */
export function normalsFromField(field: Float32Array, width: number, height: number, out: Float32Array): void {
  const stride = width + 2;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = (y + 1) * stride + x + 1;
      const nw = field[i - stride - 1];
      const ne = field[i - stride + 1];
      const sw = field[i + stride - 1];
      const se = field[i + stride + 1];
      const dx = (ne + 2 * field[i + 1] + se - nw - 2 * field[i - 1] - sw) / 8;
      const dy = (sw + 2 * field[i + stride] + se - nw - 2 * field[i - stride] - ne) / 8;
      const scale = 1 / Math.sqrt(dx * dx + dy * dy + 1);
      const o = (y * width + x) * 3;
      out[o] = -dx * scale;
      out[o + 1] = dy * scale;
      out[o + 2] = scale;
    }
  }
}

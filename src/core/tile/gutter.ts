/**
 * Margins on the way out: texels that belong to no island take the value of the nearest texel that does,
 * up to `marginTexels` away. Distances are found with two sweeps of 8-neighbour vector propagation
 * (P.-E. Danielsson, "Euclidean distance mapping", 1980); its error is below one texel, which a margin
 * cannot show.
 */

/**
 * For every texel the index of the texel to copy from, or −1 beyond the margin.
 * `covered`: width × height, non-zero where an island (or its painted gutter) is.
 */
export function marginSources(covered: Uint8Array, width: number, height: number, marginTexels: number): Int32Array {
  const source = new Int32Array(width * height).fill(-1);
  for (let i = 0; i < source.length; i++) if (covered[i]) source[i] = i;
  const distance2 = (i: number, from: number) => {
    const dx = (i % width) - (from % width);
    const dy = Math.floor(i / width) - Math.floor(from / width);
    return dx * dx + dy * dy;
  };
  const offer = (i: number, neighbour: number) => {
    const from = source[neighbour];
    if (from < 0) return;
    if (source[i] < 0 || distance2(i, from) < distance2(i, source[i])) source[i] = from;
  };
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (covered[i]) continue;
      if (x > 0) offer(i, i - 1);
      if (y > 0) offer(i, i - width);
      if (y > 0 && x > 0) offer(i, i - width - 1);
      if (y > 0 && x < width - 1) offer(i, i - width + 1);
    }
    for (let x = width - 2; x >= 0; x--) if (!covered[y * width + x]) offer(y * width + x, y * width + x + 1);
  }
  for (let y = height - 1; y >= 0; y--) {
    for (let x = width - 1; x >= 0; x--) {
      const i = y * width + x;
      if (covered[i]) continue;
      if (x < width - 1) offer(i, i + 1);
      if (y < height - 1) offer(i, i + width);
      if (y < height - 1 && x < width - 1) offer(i, i + width + 1);
      if (y < height - 1 && x > 0) offer(i, i + width - 1);
    }
    for (let x = 1; x < width; x++) if (!covered[y * width + x]) offer(y * width + x, y * width + x - 1);
  }
  const limit = marginTexels * marginTexels;
  for (let i = 0; i < source.length; i++)
    if (source[i] >= 0 && source[i] !== i && distance2(i, source[i]) > limit) source[i] = -1;
  return source;
}

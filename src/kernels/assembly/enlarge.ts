/**
 * Rows of a larger RGBA picture, 8 bit, from two rows of a smaller one, interpolated to 1/256. `places`: for each texel
 * across int32 the pixel on its left; `shares`: 16 bytes each, eight int16: four times 256 − s, four times s.
 * `between`: room for `count` + 2 pixels of four int16.
 */
export function enlargeRow(
  top: usize,
  bottom: usize,
  low: i32,
  count: i32,
  between: usize,
  places: usize,
  shares: usize,
  width: i32,
  out: usize,
): void {
  const a = i16x8.splat(<i16>(256 - low));
  const b = i16x8.splat(<i16>low);
  for (let x: usize = 0; x < <usize>count; x += 2) {
    const high = i16x8.extend_low_i8x16_u(v128.load64_zero(top + (x << 2)));
    const deep = i16x8.extend_low_i8x16_u(v128.load64_zero(bottom + (x << 2)));
    v128.store(between + (x << 3), i16x8.shr_u(i16x8.add(i16x8.mul(high, a), i16x8.mul(deep, b)), 8));
  }
  // The last one is its own neighbour.
  v128.store64_lane(between + (<usize>count << 3), v128.load64_zero(between + (<usize>(count - 1) << 3)), 0);
  for (let x: usize = 0; x < <usize>width; x += 4) {
    const p = pair(between, places, shares);
    const q = pair(between, places + 4, shares + 16);
    const r = pair(between, places + 8, shares + 32);
    const s = pair(between, places + 12, shares + 48);
    v128.store(
      out,
      i8x16.narrow_i16x8_u(v128.shuffle<i64>(p, q, 0, 2), v128.shuffle<i64>(r, s, 0, 2)),
    );
    places += 16;
    shares += 64;
    out += 16;
  }
}

/** Between a pixel and the next, in the lower half. */
// @ts-ignore: decorator
@inline
function pair(between: usize, place: usize, share: usize): v128 {
  const both = i16x8.mul(v128.load(between + (<usize>load<i32>(place) << 3)), v128.load(share));
  return i16x8.shr_u(i16x8.add(both, v128.shuffle<i64>(both, both, 1, 0)), 8);
}

/**
 * Constant vectors. They are read from memory, once before a loop: written into it engines build each of them anew out of two
 * numbers wherever it stands, which takes five instructions every time round.
 */
const F1_AT = memory.data<f32>([1, 1, 1, 1], 16);
const LIMIT_AT = memory.data<f32>([9.5367431640625e-7, 9.5367431640625e-7, 9.5367431640625e-7, 9.5367431640625e-7], 16);
const NEAR1_AT = memory.data<f32>([0.99999904632568359375, 0.99999904632568359375, 0.99999904632568359375, 0.99999904632568359375], 16);
const FH_AT = memory.data<f32>([0.5, 0.5, 0.5, 0.5], 16);
const SHARES_AT = memory.data<f32>([1.5259021893143654e-5, 1.5259021893143654e-5, 1.5259021893143654e-5, 1.5259021893143654e-5], 16);
const MOST_AT = memory.data<f32>([65535, 65535, 65535, 65535], 16);
const WHOLE_AT = memory.data<f32>([8388608, 8388608, 8388608, 8388608], 16);
const LOW16_AT = memory.data<i32>([0xffff, 0xffff, 0xffff, 0xffff], 16);

/** Ones. */
// @ts-ignore: decorator
@inline
export function F1(): v128 {
  return v128.load(F1_AT);
}

/** Halves. */
// @ts-ignore: decorator
@inline
export function FH(): v128 {
  return v128.load(FH_AT);
}

/** Of 65,535. */
// @ts-ignore: decorator
@inline
export function SHARES(): v128 {
  return v128.load(SHARES_AT);
}

/** The highest code of 16 bits. */
// @ts-ignore: decorator
@inline
export function MOST(): v128 {
  return v128.load(MOST_AT);
}

/** 2²³: whole floats below 2²² lie in the low bits once it is added. */
// @ts-ignore: decorator
@inline
export function WHOLE(): v128 {
  return v128.load(WHOLE_AT);
}

/** The lower half of each lane. */
// @ts-ignore: decorator
@inline
export function LOW16(): v128 {
  return v128.load(LOW16_AT);
}

/** What is no more than rounding, and what is whole but for it (core/colour/blend.ts: LIMIT). */
// @ts-ignore: decorator
@inline
export function LIMIT(): v128 {
  return v128.load(LIMIT_AT);
}
// @ts-ignore: decorator
@inline
export function NEAR1(): v128 {
  return v128.load(NEAR1_AT);
}

/** Zeros, which cost nothing. */
// @ts-ignore: decorator
@inline
export function F0(): v128 {
  return f32x4.splat(0.0);
}

/** Loops of rules: where texels lie in space, fields pushed about, values along lines, ramps and levels. Computed in double precision. */

/** A straight piece of a ramp, from where the one before ends up to `high`: a colour at 0 and what it gains along one whole. */
export interface RampPiece {
  high: number;
  colour: readonly [number, number, number];
  gain: readonly [number, number, number];
}

export interface RuleKernels {
  /** (position − centre) / size of the texels `there`, into planes as long as that, and the last one again up to a multiple of four. */
  spaced(
    position: Float32Array,
    there: Int32Array,
    centre: readonly number[],
    size: number,
    x: Float32Array,
    y: Float32Array,
    z: Float32Array,
  ): void;
  /** out = from + span · by; as many as a multiple of 4. In single precision. */
  pushed(out: Float32Array, from: Float32Array, by: Float32Array, span: number): void;
  /**
   * low + (high − low) · t, where t = x·gx + y·gy + z·gz + start is held within 0..1, and eased if `smooth`; as many as a multiple of 4.
   */
  alongLine(
    out: Float32Array,
    places: { x: Float32Array; y: Float32Array; z: Float32Array },
    line: { gx: number; gy: number; gz: number; start: number; low: number; high: number; smooth: boolean },
  ): void;
  /** low + span · ((v − black) / white), the quotient held within 0..1, in place; as many as a multiple of 4. */
  stretched(data: Float32Array, black: number, white: number, low: number, span: number): void;
  /**
   * low + span · q^p, where q = (v − black) / white is held within 0..1; in place, as many as a multiple of 4. `powers`: of p, by
   * `powersOf`. In single precision: q^p is right to 2.5e-7 of itself, for p = 10 to 9e-7; under 1.2e-38 q counts as 0.
   */
  powered(data: Float32Array, black: number, white: number, low: number, span: number, powers: Float32Array): void;
  /** Pieces by rising place, the last one up to ∞. Three planes of `values.length`, a multiple of 4. */
  alongRamp(out: Float32Array, values: Float32Array, pieces: readonly RampPiece[]): void;
}

/** Numbers before the mantissas in a table of `powersOf`. */
export const EXPONENTS = 128;
const MANTISSAS = 4096;

/**
 * m · 2ᵉ to a power p is mᵖ · 2ᵉᵖ: the second by the float's biased exponent (0 … 127; 0: the number 0), then mᵖ from ½ to 1 in 4,096
 * steps, straight in between (error (2⁻¹³)² / 8 · |f''|, so |p (p − 1)| · 7.5e-9 of mᵖ at most), and one number more.
 */
export function powersOf(p: number): Float32Array {
  return Float32Array.from({ length: EXPONENTS + MANTISSAS + 2 }, (_, i) => {
    if (i < EXPONENTS) return i === 0 ? 0 : 2 ** ((i - 126) * p);
    return (0.5 + (i - EXPONENTS) / (2 * MANTISSAS)) ** p;
  });
}

/** More stops than a ramp has. */
export const MOST_PIECES = 32;

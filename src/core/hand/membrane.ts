/**
 * Values that are as smooth as they can be between those that are given (Laplace's equation; what Pérez, Gangnet and Blake,
 * "Poisson image editing", 2003, section 3, come to for the difference between the texture that is laid and the tone below).
 * Solved by successive over-relaxation (Young 1954), checked by the largest change of a round.
 */
export interface Membrane {
  /** Values that are looked for, `channels` a node. Given ones stand in it already. */
  values: Float32Array;
  channels: number;
  /** 4 a node: nodes beside it; −1: none. */
  beside: Int32Array;
  /** 1: given. */
  given: Uint8Array;
}

/** A hundredth of a 16-bit step a round: what is left after it is below one. */
const STILL = 1e-2 / 65535;
const MOST_ROUNDS = 4000;

/** `across`: nodes from rim to rim, about; sets how far each round goes beyond. Returns the rounds that it took. */
export function solveMembrane({ values, channels, beside, given }: Membrane, across: number): number {
  const count = given.length;
  const over = 2 / (1 + Math.sin(Math.PI / Math.max(2, across)));
  for (let round = 1; round <= MOST_ROUNDS; round++) {
    let most = 0;
    for (let n = 0; n < count; n++) {
      if (given[n]) continue;
      const a = beside[n * 4];
      const b = beside[n * 4 + 1];
      const c = beside[n * 4 + 2];
      const d = beside[n * 4 + 3];
      const all = (a >= 0 ? 1 : 0) + (b >= 0 ? 1 : 0) + (c >= 0 ? 1 : 0) + (d >= 0 ? 1 : 0);
      if (all === 0) continue;
      for (let ch = 0; ch < channels; ch++) {
        const sum =
          (a >= 0 ? values[a * channels + ch] : 0) +
          (b >= 0 ? values[b * channels + ch] : 0) +
          (c >= 0 ? values[c * channels + ch] : 0) +
          (d >= 0 ? values[d * channels + ch] : 0);
        const old = values[n * channels + ch];
        const change = (sum / all - old) * (all === 1 ? 1 : over);
        values[n * channels + ch] = old + change;
        const size = change < 0 ? -change : change;
        if (size > most) most = size;
      }
    }
    if (most < STILL) return round;
  }
  return MOST_ROUNDS;
}

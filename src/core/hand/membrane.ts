/**
 * Values that are as smooth as they can be between those that are given (Laplace's equation; what Pérez, Gangnet and Blake,
 * "Poisson image editing", 2003, section 3, come to for the difference between the texture that is laid and the tone below).
 * Solved by successive over-relaxation (Young 1954), which
 * converges since neighbours are mutual (Ostrowski 1954), checked by the largest change of a round.
 */
export interface Membrane {
  /** Values that are looked for, `channels` a node; given ones stand in it already. In float32 the last rounds would never rest. */
  values: Float64Array;
  channels: number;
  /** Nodes beside node n: beside[start[n] … start[n + 1]). Whoever is beside one has it beside itself, as often. */
  start: Int32Array;
  beside: Int32Array;
  /** 1: given. */
  given: Uint8Array;
}

/** A hundredth of a 16-bit step a round: what is left after it is below one. */
const STILL = 1e-2 / 65535;
const MOST_ROUNDS = 4000;

/** Lists of neighbours from pairs of them. */
export function neighbourLists(count: number, pairs: readonly number[]): { start: Int32Array; beside: Int32Array } {
  const start = new Int32Array(count + 1);
  for (let n = 0; n < pairs.length; n++) start[pairs[n] + 1]++;
  for (let n = 0; n < count; n++) start[n + 1] += start[n];
  const fill = start.slice();
  const beside = new Int32Array(pairs.length);
  for (let n = 0; n < pairs.length; n += 2) {
    beside[fill[pairs[n]]++] = pairs[n + 1];
    beside[fill[pairs[n + 1]]++] = pairs[n];
  }
  return { start, beside };
}

/** `across`: nodes from rim to rim, about; sets how far each round goes beyond. Returns the rounds that it took. */
export function solveMembrane({ values, channels, start, beside, given }: Membrane, across: number): number {
  const count = given.length;
  const over = 2 / (1 + Math.sin(Math.PI / Math.max(2, across)));
  for (let round = 1; round <= MOST_ROUNDS; round++) {
    let most = 0;
    for (let n = 0; n < count; n++) {
      if (given[n]) continue;
      const from = start[n];
      const to = start[n + 1];
      if (from === to) continue;
      for (let ch = 0; ch < channels; ch++) {
        let sum = 0;
        for (let k = from; k < to; k++) sum += values[beside[k] * channels + ch];
        const old = values[n * channels + ch];
        const change = (sum / (to - from) - old) * over;
        values[n * channels + ch] = old + change;
        const size = change < 0 ? -change : change;
        if (size > most) most = size;
      }
    }
    if (most < STILL) return round;
  }
  return MOST_ROUNDS;
}

/** Weighted sums (assembly/sums.ts). */
import type { Arena } from '../arena';
import type { SumKernels } from '../sums';

export interface SumExports {
  separableSums: (...args: number[]) => void;
}

export function sums(k: SumExports, arena: Arena): SumKernels {
  return {
    separableSums: (plane, across, down, weights, out) => {
      const before = arena.mark();
      const from = arena.take(plane.byteLength);
      arena.f64.set(plane, from >> 3);
      const by = arena.take(weights.length * 8);
      arena.f64.set(weights, by >> 3);
      const half = arena.take((across - 2 * (weights.length - 1)) * down * 8);
      const to = arena.take(out.byteLength);
      k.separableSums(from, across, down, by, weights.length, half, to);
      out.set(arena.f64.subarray(to >> 3, (to >> 3) + out.length));
      arena.release(before);
    },
  };
}

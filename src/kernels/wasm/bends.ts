/** Bends of a surface (assembly/bends.ts). */
import type { Arena } from '../arena';
import type { BendKernels } from '../bends';

export interface BendExports {
  bends: (...args: number[]) => void;
}

export function bends(k: BendExports, arena: Arena): BendKernels {
  return {
    bends: (points, count, near, stride, listed, radius, out) =>
      arena.within(out, (to) => {
        const [from, list] = [arena.address(points), arena.address(near)];
        k.bends(from, count, list, stride * 4, listed >> 2, radius, to);
      }),
  };
}

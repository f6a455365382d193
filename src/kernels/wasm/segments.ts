/** Distances to segments (assembly/segments.ts). */
import type { Arena } from '../arena';
import type { SegmentKernels } from '../segments';

export interface SegmentExports {
  segments: (...args: number[]) => void;
}

export function segments(k: SegmentExports, arena: Arena): SegmentKernels {
  return {
    segments: (places, stride, count, list, listed, reach, out) =>
      arena.within(out, (to) => {
        const [from, among] = [arena.address(places), arena.address(list)];
        k.segments(from, stride * 4, count >> 2, among, listed, reach, to);
      }),
  };
}

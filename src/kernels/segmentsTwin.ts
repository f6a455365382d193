/** The twin of assembly/segments.ts: the same bits. */
import { SEGMENT_NUMBERS, SIDE, type SegmentKernels } from './segments';

const f = Math.fround;
/** x · a + y · b + z · c, rounded as four lanes round it. */
const dot = (x: number, y: number, z: number, a: number, b: number, c: number): number => f(f(f(x * a) + f(y * b)) + f(z * c));

export const segmentsTwin: SegmentKernels = {
  segments: (places, stride, count, list, listed, reach, out) => {
    const square = f(f(reach) * f(reach));
    const side = f(SIDE);
    for (let i = 0; i < count; i++) {
      let best = square;
      const plane = (k: number) => places[stride * k + i];
      for (let n = 0, o = 0; n < listed; n++, o += SEGMENT_NUMBERS) {
        const [ex, ey, ez] = [list[o + 3], list[o + 4], list[o + 5]];
        const [qx, qy, qz] = [0, 1, 2].map((k) => f(plane(k) - list[o + k]));
        const t = Math.min(1, Math.max(0, f(dot(qx, qy, qz, ex, ey, ez) * list[o + 9])));
        const [dx, dy, dz] = [f(qx - f(ex * t)), f(qy - f(ey * t)), f(qz - f(ez * t))];
        const d = dot(dx, dy, dz, dx, dy, dz);
        const faces = dot(plane(3), plane(4), plane(5), list[o + 6], list[o + 7], list[o + 8]);
        if (d < best && faces >= side) best = d;
      }
      out[i] = f(Math.sqrt(best));
    }
  },
};

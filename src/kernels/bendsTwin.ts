/** The twin of assembly/bends.ts: the same bits. */
import type { BendKernels } from './bends';

const f = Math.fround;

export const bendsTwin: BendKernels = {
  bends: (points, count, near, stride, listed, radius, out) => {
    const square = f(f(radius) * f(radius));
    const one = f(1 / square);
    const lanes = new Float32Array(4);
    for (let n = 0; n < count; n++) {
      const o = n * 6;
      lanes.fill(0);
      for (let i = 0; i < listed; i++) {
        const dx = f(near[i] - points[o]);
        const dy = f(near[stride + i] - points[o + 1]);
        const dz = f(near[stride * 2 + i] - points[o + 2]);
        const d = f(f(f(dx * dx) + f(dy * dy)) + f(dz * dz));
        if (!(d < square)) continue;
        const along = f(near[stride * 4 + i] * points[o + 3]) + f(near[stride * 5 + i] * points[o + 4]);
        if (!(f(f(along) + f(near[stride * 6 + i] * points[o + 5])) > 0)) continue;
        const w = f(1 - f(d * one));
        lanes[i & 3] += f(near[stride * 3 + i] * f(w * w));
      }
      out[n] = f(lanes[0] + lanes[1]) + f(lanes[2] + lanes[3]);
    }
  },
};

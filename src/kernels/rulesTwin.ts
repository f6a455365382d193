/** The twin of assembly/rules.ts: the same bits. */
import { EXPONENTS, type RuleKernels } from './rules';

/** Within 0..1; what is no number counts as 0. */
const held = (v: number): number => (v > 0 ? Math.min(1, v) : 0);

export const rulesTwin: RuleKernels = {
  spaced: (position, there, centre, size, x, y, z) => {
    [x, y, z].forEach((plane, k) => {
      for (let i = 0; i < plane.length; i++)
        plane[i] = (position[there[Math.min(i, there.length - 1)] * 3 + k] - centre[k]) / size;
    });
  },
  pushed: (out, from, by, span) => {
    const s = Math.fround(span);
    for (let i = 0; i < out.length; i++) out[i] = from[i] + Math.fround(s * by[i]);
  },
  alongLine: (out, { x, y, z }, { gx, gy, gz, start, low, high, smooth }) => {
    for (let i = 0; i < out.length; i++) {
      let t = held(x[i] * gx + y[i] * gy + z[i] * gz + start);
      if (smooth) t = t * t * (3 - 2 * t);
      out[i] = low + (high - low) * t;
    }
  },
  stretched: (data, black, white, low, span) => {
    for (let i = 0; i < data.length; i++) data[i] = low + span * held((data[i] - black) / white);
  },
  powered: (data, black, white, low, span, powers) => {
    const f = Math.fround;
    const [b, w, l, s] = [black, white, low, span].map(f);
    const one = new Float32Array(1);
    const bits = new Int32Array(one.buffer);
    for (let i = 0; i < data.length; i++) {
      const q = f(f(data[i] - b) / w);
      one[0] = q > 0 ? Math.min(1, q) : 0;
      const at = EXPONENTS + ((bits[0] & 0x7fffff) >> 11);
      const share = (bits[0] & 2047) / 2048;
      const m = f(powers[at] + f(f(powers[at + 1] - powers[at]) * share));
      const v = one[0] >= 1 ? 1 : f(m * powers[bits[0] >> 23]);
      data[i] = l + f(s * v);
    }
  },
  alongRamp: (out, values, pieces) => {
    const n = values.length;
    for (let i = 0; i < n; i++) {
      const v = values[i];
      const piece = pieces.find((p) => !(p.high < v))!;
      for (let c = 0; c < 3; c++) out[c * n + i] = piece.colour[c] + piece.gain[c] * v;
    }
  },
};

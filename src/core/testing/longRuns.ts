/** Runs of a kernel and of its twin over the same random numbers, among them those at the edges of float32; for tests. */
import { getKernels } from '../compute';
import type { Kernels } from '../../kernels/kernels';
import { seededRandom } from './models';

export const [SIMD, TWIN] = [getKernels('wasm'), getKernels('twin')];
export const N = 1 << 20;
export const PART = 1 << 16;

const EDGES = [
  0,
  -0,
  1,
  -1,
  NaN,
  Infinity,
  -Infinity,
  3.4028234663852886e38,
  -3.4028234663852886e38,
  1.1754943508222875e-38,
  1e-45,
  -1e-45,
  1e-42,
  0.9999999403953552,
  1.0000001192092896,
  0.5,
  255.5 / 256,
  1e30,
  -1e30,
  65535.5 / 65536,
];
export const random = seededRandom(11);
/** Mostly what planes hold; every tenth of any size, every twentieth an edge. */
export const strange = (n: number, edges = true): Float32Array =>
  Float32Array.from({ length: n }, () => {
    const kind = random();
    if (edges && kind < 0.05) return EDGES[Math.floor(random() * EDGES.length)];
    if (kind < 0.15) return (random() - 0.5) * 10 ** ((random() - 0.5) * (edges ? 70 : 6));
    return random();
  });
export const unit = (n: number): Float32Array => Float32Array.from({ length: n }, random);
export const codes = (n: number): Uint16Array =>
  Uint16Array.from({ length: n }, () => (random() < 0.1 ? random() * 3 : random() < 0.2 ? 65535 : random() * 65536));

/** How far two results are apart: 0 the same (NaN too), 1 and more: beyond what was promised. */
export function apart(a: ArrayLike<number>, b: ArrayLike<number>, within: number): number {
  let worst = 0;
  for (let i = 0; i < b.length; i++) {
    if (Object.is(a[i], b[i]) || a[i] === b[i]) continue;
    // Beyond this sums of float32 may overflow in one order and not in another.
    if (Math.abs(b[i]) > 1e30 && !Number.isNaN(a[i])) continue;
    const gap = Math.abs(a[i] - b[i]) / (within * Math.max(1, Math.abs(b[i])) || Number.MIN_VALUE);
    worst = Math.max(worst, Number.isNaN(gap) ? Infinity : gap);
    if (worst === Infinity) break;
  }
  return worst;
}

type Run = (k: Kernels) => ArrayLike<number>[];

/** `make` draws the input once, and gives what is to be run on it. */
export function over(times: number, within: number, make: () => Run): void {
  for (let n = 0; n < times; n++) {
    const run = make();
    const [mine, twins] = [run(SIMD), run(TWIN)];
    mine.forEach((plane, p) => {
      const gap = apart(plane, twins[p], within);
      if (gap > 1) {
        const at = Array.from({ length: twins[p].length }, (_, i) => i).find(
          (i) => apart([plane[i]], [twins[p][i]], within) > 1,
        )!;
        throw new Error(`run ${n}, plane ${p}, number ${at}: ${plane[at]} instead of ${twins[p][at]}`);
      }
    });
  }
}
export const TIMES = N / PART;
export const fresh = (n: number) => new Float32Array(n);

/** Whoever computes imports this: it gives the core its kernels, SIMD where it runs, else the twin. */
import { hasSimd, kernelsOf, type KernelsKind } from '../kernels';
import type { Kernels } from '../kernels/kernels';
import { SEPARABLE, SEPARABLE_BLENDS } from './colour/blend';
import { provideKernels } from './kernels';

/** The twin blends with the very formulas of colour/blend.ts. */
const BLENDS = SEPARABLE_BLENDS.map((id) => SEPARABLE[id]);

export const getKernels = (which: KernelsKind): Kernels => kernelsOf(which, BLENDS);

/** For tests and for comparing: runs with one implementation or the other from now on. */
export function chooseKernels(which: KernelsKind): void {
  provideKernels(() => getKernels(which));
}

chooseKernels(hasSimd() ? 'wasm' : 'twin');

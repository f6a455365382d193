/** Two implementations: SIMD, and its twin in TypeScript. Nothing is made before it is asked for. */
import type { Kernels } from './kernels';
import { twinKernels, type BlendTable } from './twin';
import { wasmKernels } from './wasm';

export { ARENAS_END, MOST_ARENAS, sharedMemory } from './arena';

/** A function with one SIMD instruction in it (v128.const, drop), which engines without SIMD refuse. */
const SIMD_PROBE = Uint8Array.of(
  ...[0, 97, 115, 109, 1, 0, 0, 0, 1, 4, 1, 96, 0, 0, 3, 2, 1, 0, 10, 23, 1, 21, 0, 253, 12],
  ...new Array<number>(16).fill(0),
  ...[26, 11],
);
export const hasSimd = (): boolean => typeof WebAssembly === 'object' && WebAssembly.validate(SIMD_PROBE);

export type KernelsKind = 'wasm' | 'twin';
let wasm: Kernels | null = null;
let twin: Kernels | null = null;

/** Made once each. `blends`: the formulas that the twin blends with, in the order of their numbers. */
export function kernelsOf(which: KernelsKind, blends: BlendTable): Kernels {
  if (which === 'wasm') return (wasm ??= wasmKernels());
  return (twin ??= twinKernels(blends));
}

export { wasmKernels as kernelsOn } from './wasm';
